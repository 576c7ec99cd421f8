"""Where rules are registered by their name, each with what it rests on."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from core.catalogue.fit.answers import Finding
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs

Says = Callable[[Machine, Needs], Iterator[Finding]]


@dataclass(frozen=True)
class Rule:
    """A rule: for a machine and a part it yields what it finds, nothing where it has nothing to say."""

    name: str
    source: str
    says: Says


RULES: dict[str, Rule] = {}


def rule(name: str, source: str) -> Callable[[Says], Says]:
    """Register a rule. `source`: the standard or table it rests on, or that it is common practice."""

    def register(says: Says) -> Says:
        if name in RULES:
            raise ValueError(f"There is a rule called {name} already.")
        RULES[name] = Rule(name, source, says)
        return says

    return register

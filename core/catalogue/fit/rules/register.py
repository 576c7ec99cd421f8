"""Where rules are registered by their name, each with what it rests on."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from core.catalogue.fit.answers import Ask, Finding, Row, Side
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import groups_of

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


def best_of(said: Sequence[Sequence[Finding]] | None, ask: Ask, rule_name: str, needs: str) -> Iterator[Finding]:
    """What the best of a machine's sockets, buses, bays or ports says, of what each of them `said`. Where nobody said
    which there are (None), `ask` asks for them."""
    if said is None:
        yield Row(rule_name, "not known", needs).unknown("find out", [ask])
    elif not said:
        yield Row(rule_name, "none", needs).does_not(f"it has no {groups_of(Offers)[ask.group][1]}")
    else:
        # Of two that it does not fit, the one of its kind tells why; the first finding is whether it is of its kind.
        yield from min(
            said, key=lambda all_of_it: (max(one.answer.rank for one in all_of_it), all_of_it[0].answer.rank)
        )


def which(group: str) -> Ask:
    """Ask for a whole group of what a machine offers."""
    return Ask(Side.MACHINE, group, "", "", f"which {groups_of(Offers)[group][1]} it has")

"""For which machines a check is wanted, as data: "supply=switching|linear & tube & drives"."""

import re
from collections.abc import Iterator, Mapping

_PART = re.compile(r"(!?)([a-z_]+)(?:(!?=)([a-z0-9_|]+))?")


class ConditionError(ValueError):
    """A condition that can't be read; the message says what is wrong with it."""


def holds(condition: str, facts: Mapping[str, object], known: Mapping[str, frozenset[str]] | None = None) -> bool:
    """Whether every part of the condition holds for these facts; an empty condition always does.

    A part is a fact that must be there ("tube"), must not ("!tube"), or has one of some values
    ("supply=linear|switching") or none of them ("battery!=none"). With `known`, names and values are checked.
    Raises ConditionError.
    """
    for negated, name, sign, values in _parts(condition):
        if name not in facts:
            raise ConditionError(f"“{name}” is no fact of a machine. There are: {', '.join(facts)}.")
        wanted = set(values.split("|")) if values else set()
        if known is not None and values and name in known and not wanted <= known[name]:
            raise ConditionError(f"{name} is one of {', '.join(sorted(known[name]))}.")
        if values:
            there = str(facts[name]) in wanted
            if there is (sign == "!="):
                return False
        elif bool(facts[name]) is bool(negated):
            return False
    return True


def names_in(condition: str) -> tuple[str, ...]:
    """The facts a condition turns on, each once, as they come. Raises ConditionError."""
    return tuple(dict.fromkeys(name for _, name, _, _ in _parts(condition)))


def _parts(condition: str) -> Iterator[tuple[str, str, str, str]]:
    for part in filter(None, (piece.strip() for piece in condition.split("&"))):
        match = _PART.fullmatch(part)
        if not match:
            raise ConditionError(f"“{part}” can’t be read. Write it like supply=linear|switching & tube.")
        negated, name, sign, values = match.groups(default="")
        yield negated, name, sign, values

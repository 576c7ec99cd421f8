"""How a service says no: always with a sentence that a person can read."""


class Refused(Exception):
    """The thing asked for is against a rule. `field` names the form field to put right, if there is one."""

    def __init__(self, message: str, field: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.field = field


class NotAllowed(Refused):
    """The person's roles don't cover it."""


class StaleEdit(Refused):
    """Somebody else saved the row in the meantime; `current` is the row as it now is."""

    def __init__(self, current) -> None:
        super().__init__("Somebody else saved this while you were typing. Compare below, then save again.")
        self.current = current


def within(words: str, most: int, field: str = "words") -> str:
    """The words as they are; refused, never cut, when they are longer than what is kept."""
    if len(words) > most:
        raise Refused(f"{most} characters at most: this is {len(words)}.", field)
    return words


def reason(why: str) -> str:
    """Why something that was said is taken back, as it stands in the story; refused while nobody says."""
    if not why.strip():
        raise Refused("Say why: it stands in the story.", "why")
    return within(why.strip(), 120, "why")


def shortened(words: str, most: int) -> str:
    """For what is told and not kept as typed: cut where it must be, and seen to be cut."""
    return words if len(words) <= most else words[: most - 1] + "…"

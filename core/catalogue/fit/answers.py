"""What a rule says: fits, fits with something, does not, or not known and what would settle it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.catalogue.fit.paths import Path
from core.catalogue.fit.schema import told_of


class Answer(StrEnum):
    FITS = "fits"
    WITH = "with"
    UNKNOWN = "unknown"
    NOT = "not"

    @property
    def label(self) -> str:
        return {"fits": "fits", "with": "fits with", "unknown": "not known", "not": "does not fit"}[self.value]

    @property
    def rank(self) -> int:
        """From best to worst. What is not known goes before what is known not to fit: it may turn out well."""
        return list(Answer).index(self)


class Side(StrEnum):
    """Whose sheet a question is about."""

    MACHINE = "machine"
    PART = "part"
    FITTED = "fitted"
    UNIT = "unit"


INSIDE, TRIED = "inside", "tried"


@dataclass(frozen=True)
class Ask:
    """What is not known: a field of a record on a sheet. `of`: the name of the fitted part it is about. Empty `key`:
    nothing of the whole group is known."""

    side: Side
    group: str
    name: str
    key: str
    what: str
    of: str = ""

    @property
    def said_here(self) -> bool:
        """Whether it is one field that can be filled in where it is asked for."""
        return bool(self.key) and self.side is not Side.UNIT

    @property
    def of_machine(self) -> bool:
        return self.side is Side.MACHINE

    @property
    def of_part(self) -> bool:
        return self.side is Side.PART

    @property
    def of_inside(self) -> bool:
        """Whether it asks if all that is in the machine is written down."""
        return self.side is Side.UNIT and self.key == INSIDE

    @property
    def of_tried(self) -> bool:
        """Whether only trying tells."""
        return self.side is Side.UNIT and self.key == TRIED

    @property
    def code(self) -> str:
        return "|".join((self.side, self.group, self.name, self.key, self.of))


def ask(side: Side, group: str, record: object, key: str, of: str = "") -> Ask:
    """Ask for a field of a record."""
    told = told_of(type(record))[key]
    return Ask(side, group, str(getattr(record, "name", "")), key, told.ask, of)


@dataclass(frozen=True)
class Finding:
    """What one rule says, with the numbers on both sides. `does`: with what it fits, or why it does not, as it stands
    in the sentence; `at`: the place in the drawing, `to` the one it is moved to; `hazard`: what it can destroy; `last`:
    of what it takes the last; `path`: the converters it needs."""

    rule: str
    answer: Answer
    has: str
    needs: str
    so: str
    does: str = ""
    asks: tuple[Ask, ...] = ()
    at: str = ""
    hazard: str = ""
    to: str = ""
    last: str = ""
    path: Path | None = None

    @property
    def wants_doing(self) -> bool:
        """Whether something is to be done or found out."""
        return self.answer in {Answer.WITH, Answer.UNKNOWN}


@dataclass(frozen=True)
class Row:
    """A finding that is still to say what it found: the rule, both sides of it, and its place in the drawing."""

    rule: str
    has: str
    needs: str
    at: str = ""

    def fits(self, so: str, last: str = "") -> Finding:
        so = f"{so}, the last" if last else so
        return Finding(self.rule, Answer.FITS, self.has, self.needs, so, at=self.at, last=last)

    def fits_with(self, does: str, path: Path | None = None) -> Finding:
        return Finding(self.rule, Answer.WITH, self.has, self.needs, does, does, at=self.at, path=path)

    def does_not(self, why: str, hazard: str = "") -> Finding:
        return Finding(self.rule, Answer.NOT, self.has, self.needs, why, why, at=self.at, hazard=hazard)

    def unknown(self, so: str, asks: Iterable[Ask]) -> Finding:
        return Finding(self.rule, Answer.UNKNOWN, self.has, self.needs, so, asks=tuple(asks), at=self.at)


@dataclass(frozen=True)
class Verdict:
    """All that the rules say of a part on a machine."""

    findings: tuple[Finding, ...]

    @property
    def answer(self) -> Answer:
        """The worst of all; where no rule had anything to say, nothing is known."""
        return max((finding.answer for finding in self.findings), key=lambda a: a.rank, default=Answer.UNKNOWN)

    @property
    def asks(self) -> tuple[Ask, ...]:
        """What would settle it, each once."""
        return tuple(dict.fromkeys(ask for finding in self.findings for ask in finding.asks))

    def settled_by(self, ask: Ask) -> list[str]:
        """The rules that an answer would settle."""
        return list(dict.fromkeys(finding.rule for finding in self.findings if ask in finding.asks))

    @property
    def hazards(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(finding.hazard for finding in self.findings if finding.hazard))

    @property
    def lasts(self) -> tuple[str, ...]:
        """Of what it takes the last."""
        return tuple(dict.fromkeys(finding.last for finding in self.findings if finding.last))

    @property
    def paths(self) -> tuple[Path, ...]:
        """The converters it needs, a way each."""
        return tuple(finding.path for finding in self.findings if finding.path)

    @property
    def may_fit(self) -> bool:
        return self.answer is not Answer.NOT

    def of(self, answer: Answer) -> list[Finding]:
        return [finding for finding in self.findings if finding.answer is answer]

    @property
    def sentence(self) -> str:
        """The verdict first: one sentence, or two where something is not known."""
        withs = listed(finding.does or finding.so for finding in self.of(Answer.WITH))
        if self.answer is Answer.NOT:
            return f"Does not fit: {listed(finding.does or finding.so for finding in self.of(Answer.NOT))}."
        if not self.findings:
            return "Not known: nobody said what this part is or needs."
        if self.answer is Answer.UNKNOWN:
            first = f"Not known yet: {listed(finding.rule for finding in self.of(Answer.UNKNOWN))}."
            rest = " All else fits." if self.of(Answer.FITS) else ""
            return f"{first} Otherwise it fits, with {withs}." if withs else f"{first}{rest}"
        return f"Fits, with {withs}." if withs else "Fits."


def listed(words: Iterable[str]) -> str:
    """One, two and three."""
    found = list(dict.fromkeys(words))
    return " and ".join(filter(None, (", ".join(found[:-1]), found[-1] if found else "")))


def worst(answers: Sequence[Answer]) -> Answer:
    return max(answers, key=lambda a: a.rank, default=Answer.FITS)

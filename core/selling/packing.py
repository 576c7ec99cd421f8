"""How a thing is packed so that it arrives: what comes out first, in which box, what speaks against sending it."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.machine.casing import FormFactor
from core.machine.measures import LEAST_LONGEST_MM
from core.machine.supply import Battery

# Common practice, no source: padding on every side in a single box; around the inner box of two; within that.
GAP_MM = 50
INNER_GAP_MM = 25
# From memory of common limits for lifting alone in good posture; a workplace’s own rules go before.
LIFT_ALONE_G = 23_000
LONGEST_MM = 3_000
HEAVIEST_G = 200_000


@dataclass(frozen=True)
class Size:
    """Three edges in mm, as it stands: length, width, and height last. Each from 1 to LONGEST_MM."""

    length: int
    width: int
    height: int

    def __post_init__(self) -> None:
        if not all(1 <= edge <= LONGEST_MM for edge in self.edges):
            raise ValueError(f"Each edge is from 1 to {LONGEST_MM:,} mm.")

    @property
    def edges(self) -> tuple[int, int, int]:
        return self.length, self.width, self.height

    @property
    def volume(self) -> int:
        """In mm³."""
        return self.length * self.width * self.height

    def with_gap(self, gap: int) -> tuple[int, int, int]:
        """The room it takes with `gap` mm on every side; this may be more than a Size can be."""
        return self.length + 2 * gap, self.width + 2 * gap, self.height + 2 * gap

    def __str__(self) -> str:
        return f"{self.length} × {self.width} × {self.height} mm"


@dataclass(frozen=True)
class Box:
    """A size of box the shop has. Inner edges say what goes in, outer ones what is paid for; its own weight in g."""

    name: str
    inner: Size
    outer: Size
    weight_g: int


@dataclass(frozen=True)
class Packed:
    """The box that is sent, and the one inside it where two are wanted."""

    outer: Box
    inner: Box | None = None

    @property
    def weight_g(self) -> int:
        return self.outer.weight_g + (self.inner.weight_g if self.inner else 0)


def fits(need: Sequence[int], room: Size, *, upright: bool) -> bool:
    """Whether edges in mm go into a room, touching allowed; `upright`: its height stays its height."""
    if upright:
        return need[2] <= room.height and all(
            a <= b for a, b in zip(sorted(need[:2]), sorted(room.edges[:2]), strict=True)
        )
    return all(a <= b for a, b in zip(sorted(need), sorted(room.edges), strict=True))


def choose_box(thing: Size, boxes: Iterable[Box], *, double: bool = False, upright: bool = False) -> Packed | None:
    """The box, or the pair of boxes, of the least outer volume into which the thing goes with its padding, turned as it
    may be; the smaller inner box where two pairs are as good. None where none is large enough. Exact: all are tried."""
    boxes = list(boxes)
    if not double:
        found = [box for box in boxes if fits(thing.with_gap(GAP_MM), box.inner, upright=upright)]
        return Packed(min(found, key=_by_volume)) if found else None
    inner = [box for box in boxes if fits(thing.with_gap(INNER_GAP_MM), box.inner, upright=upright)]
    pairs = [
        Packed(outer, one)
        for one in inner
        for outer in boxes
        if fits(one.outer.with_gap(GAP_MM), outer.inner, upright=upright)
    ]
    if not pairs:
        return None
    return min(pairs, key=lambda pair: (*_by_volume(pair.outer), *_by_volume(pair.inner or pair.outer)))


def least_box(thing: Size, *, double: bool = False) -> Size | None:
    """The inner edges that a single box must have at least, or the outer one of two, reckoned without the thickness of
    the inner one; None where no box has that."""
    gap = GAP_MM + (INNER_GAP_MM if double else 0)
    edges = thing.with_gap(gap)
    return Size(*edges) if max(edges) <= LONGEST_MM else None


def _by_volume(box: Box) -> tuple[int, int, str]:
    return box.outer.volume, box.inner.volume, box.name


@dataclass(frozen=True)
class PackFacts:
    """What packing depends on. `loose`, `leaking` and `swollen` in words as found; None where nobody knows."""

    form_factor: FormFactor
    tube: bool | None = None
    drives: int | None = None
    battery: Battery = Battery.UNKNOWN
    external_supply: bool = False
    cards: bool | None = None
    loose: Sequence[str] = ()
    leaking: Sequence[str] = ()
    swollen: Sequence[str] = ()
    weight_g: int | None = None
    valuable: bool = False

    @property
    def screen(self) -> bool:
        return self.tube is True or self.form_factor in _WITH_SCREEN

    @property
    def double(self) -> bool:
        """Glass, and drives with heads, go into two boxes; so does what costs much (common practice, no source)."""
        return self.screen or self.form_factor is FormFactor.DRIVE or self.valuable

    @property
    def upright(self) -> bool:
        """It can’t lie any way: a screen lies on its face."""
        return self.screen

    def lies(self, size: Size) -> Size:
        """Its edges as it lies in the box: what has a screen is laid on it, so its depth stands up."""
        return Size(size.length, size.height, size.width) if self.screen else size


_WITH_SCREEN = frozenset({FormFactor.ALL_IN_ONE, FormFactor.MONITOR, FormFactor.TERMINAL})
_BARE = frozenset({FormFactor.BOARD, FormFactor.CARD, FormFactor.CHIP})
_WHOLE = frozenset(set(FormFactor) - _BARE - {FormFactor.DRIVE, FormFactor.CABINET, FormFactor.ADAPTER})


@dataclass(frozen=True)
class Refusal:
    """Why it may not be sent as it is, and what to do about it."""

    words: str
    instead: str


# g/cm³ of what is stuffed around a thing: crumpled paper, pressed; and of a box, a crate of boards (common practice, no
# source).
DENSEST_FILLING, DENSEST_BOX = 0.3, 1.0


def closed_doubt(box: Box, least_g: int, packed_g: int) -> str:
    """Why a closed parcel can't weigh so much, where thing and boxes weigh at least `least_g`; empty when it can."""
    if packed_g < least_g:
        return f"Thing and boxes alone weigh {kg(least_g)} kg: weigh it again."
    filling = packed_g - least_g
    if filling > box.inner.volume / 1000 * DENSEST_FILLING:
        return (
            f"That is {kg(filling)} kg more than thing and boxes: no filling is that heavy. Weigh it again, in grams."
        )
    return ""


def box_doubt(outer: Size, grams: int) -> str:
    """Why a box of this size outside can't be as it was typed; empty when it can."""
    if max(outer.edges) < LEAST_LONGEST_MM:
        return "No box is that small. Type millimetres: 30 cm are 300."
    if grams > outer.volume / 1000 * DENSEST_BOX:
        return f"{grams:,} g is more than a box of {outer} weighs. Type grams, and millimetres: 30 cm are 300."
    return ""


def refusals(facts: PackFacts) -> tuple[Refusal, ...]:
    """What leaks and what is swollen is not sent (carriers’ and local rules go before)."""
    found = [
        Refusal(
            f"It leaks: {words}",
            "Take out and clean what leaked, and settle the finding; until then no carrier may have it.",
        )
        for words in facts.leaking
    ]
    found += [
        Refusal(
            f"A cell is swollen: {words}",
            "Never charge or post it. Keep it apart from what burns and have it discarded where local rules say.",
        )
        for words in facts.swollen
    ]
    return tuple(found)


class Moment(StrEnum):
    """When a picture is taken."""

    BEFORE = "before"
    PACKED = "packed"
    DAMAGE = "damage"

    @property
    def label(self) -> str:
        return {"before": "before it is wrapped", "packed": "packed, box open", "damage": "as it arrived"}[self.value]


@dataclass(frozen=True)
class PackStep:
    """One thing to do; `caution` in words, `picture`: it is done when a picture of that moment is there; `asks`: when
    that fact of the machine is recorded."""

    code: str
    words: str
    why: str = ""
    caution: str = ""
    picture: Moment | None = None
    asks: str = ""


_COLD = "It leaks on a cold journey."


def _cell(facts: PackFacts) -> PackStep | None:
    if facts.battery.has_lithium:
        return PackStep(
            "cell",
            "Take the lithium cell out, tape its poles; only a carrier that allows it may have it",
            "A cell that shorts burns.",
            "Lithium cells only by the carrier’s and your local rules; a swollen one is never charged nor sent.",
        )
    if facts.battery.leaks:
        return PackStep("cell", "Take the battery out, or tell the buyer that it is in", _COLD)
    if facts.battery is Battery.UNKNOWN and facts.form_factor in _WHOLE:
        return PackStep(
            "cell", "Look whether there is a cell in it", "What kind is in it was never recorded.", asks="battery"
        )
    return None


def _pack(facts: PackFacts) -> PackStep | None:
    if not (facts.battery.has_lithium and facts.battery.leaks):
        return None
    return PackStep("pack", "Take the battery pack out too, or tell the buyer that it is in", _COLD)


def _lifting(facts: PackFacts) -> str:
    if facts.weight_g is None:
        return "Not weighed yet: where it may be heavy, two people lift it." if facts.form_factor in _WHOLE else ""
    return "Heavy: two people lift it, and it says so outside." if facts.weight_g > LIFT_ALONE_G else ""


_RULES: tuple[Callable[[PackFacts], PackStep | None], ...] = (
    lambda f: PackStep("before", "Picture of it, all round, serial readable", picture=Moment.BEFORE),
    _cell,
    _pack,
    lambda f: (
        PackStep(
            "drives",
            "Park the heads, put the transport card or a spare disk in, close the lever",
            "A head that swings marks the surface.",
        )
        if (f.drives or 0) > 0 or f.form_factor is FormFactor.DRIVE
        else None
    ),
    lambda f: (
        PackStep("drives", "Look whether there are drives in it", "How many was never recorded.", asks="drives")
        if f.drives is None and f.form_factor in _WHOLE
        else None
    ),
    lambda f: (
        PackStep(
            "cards",
            "Cards that sit without a screw out, each in a bag against static, packed apart",
            "A loose card shears its slot and what lies under it.",
        )
        if f.cards is not False and f.form_factor in {FormFactor.DESKTOP, FormFactor.TOWER, FormFactor.LUGGABLE}
        else None
    ),
    lambda f: (
        PackStep("knobs", "Knobs, feet, key caps and covers that come off: off, in a bag, in the box")
        if f.form_factor in _WHOLE
        else None
    ),
    lambda f: PackStep("loose", f"Fasten or pack apart what is loose: {'; '.join(f.loose)}") if f.loose else None,
    lambda f: (
        PackStep("leads", "Leads and adapter wrapped by themselves, away from the case", "A plug dents a case.")
        if f.external_supply or f.form_factor in _WHOLE
        else None
    ),
    lambda f: PackStep("static", "Into a bag against static, then foam", "") if f.form_factor in _BARE else None,
    lambda f: (
        PackStep(
            "wrap",
            "Acid-free paper first, then foam; no bubbles on soft or fresh paint",
            "Bubbles print into a finish.",
        )
        if f.form_factor not in _BARE
        else None
    ),
    lambda f: (
        PackStep(
            "face",
            "Screen face down on foam as wide as its rim; neck and board touch nothing",
            "A tube hangs on its face; a blow from behind breaks its neck.",
            "CRT: glass under vacuum. Goggles and gloves; two people lift what is heavy.",
        )
        if f.screen
        else None
    ),
    lambda f: (
        PackStep("corners", "Eight corners of firm foam", "A fall lands on a corner.")
        if f.form_factor in _WHOLE
        else None
    ),
    lambda f: PackStep("inner", "Into the inner box, closed; nothing moves in it") if f.double else None,
    lambda f: PackStep("gap", f"At least {GAP_MM} mm of firm filling on every side; shake it: nothing moves"),
    lambda f: PackStep("papers", "Receipt and what was said of it on top, in a bag"),
    lambda f: PackStep("packed", "Picture of it packed, the box open", "A claim rests on it.", picture=Moment.PACKED),
    lambda f: PackStep(
        "close",
        "Close all seams with strong tape, the label on the largest face",
        caution=_lifting(f),
    ),
)


def packing_steps(facts: PackFacts) -> tuple[PackStep, ...]:
    """What to do for this thing, in order; each code once."""
    found: dict[str, PackStep] = {}
    for rule in _RULES:
        if (step := rule(facts)) and step.code not in found:
            found[step.code] = step
    return tuple(found.values())


def volumetric_g(outer: Size, divisor: int) -> int:
    """The weight in g that a parcel of this size is charged as: L × W × H in cm ÷ divisor, in kg (60 × 50 × 45 cm at
    5,000 give 27.0 kg), rounded up to the gram. `divisor` in cm³ per kg, above 0."""
    if divisor <= 0:
        raise ValueError("The divisor is above 0.")
    # mm³ ÷ 1,000 are cm³; kg × 1,000 are g: the two cancel.
    return -(-outer.volume // divisor)


def kg(grams: int) -> Decimal:
    """As people read it: kg with two decimals."""
    return (Decimal(grams) / 1000).quantize(Decimal("0.01"))

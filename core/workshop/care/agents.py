"""What surfaces bear and what must not meet. Common practice, no source; a hidden spot first, whatever stands here."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.safety import Hazard
from core.workshop.care import CareError


class Surface(StrEnum):
    PLASTIC = "moulded plastic"
    PAINTED = "painted plastic"
    TEXTURED = "textured paint"
    METAL = "bare metal"
    PLATED = "plated metal"
    PRINT = "label or print"
    RUBBER = "rubber"
    GLASS = "glass with a coating"
    KEYS_MOULDED = "keycaps, letters moulded in"
    KEYS_PRINTED = "keycaps, letters printed"
    BOARD = "board"
    CONTACTS = "contacts"
    UNKNOWN = "painted or moulded: not known"


class Agent(StrEnum):
    WATER = "water"
    SOAP = "water with washing-up liquid"
    ISOPROPANOL = "isopropanol"
    OIL = "citrus or eucalyptus oil"
    SPIRIT = "white spirit"
    CONTACT = "contact cleaner"
    SPONGE = "melamine sponge"
    VINEGAR = "vinegar"
    BICARBONATE = "bicarbonate"
    PEROXIDE = "peroxide"

    @property
    def hazards(self) -> tuple[Hazard, ...]:
        if self in _FLAMMABLE:
            return (Hazard.SOLVENT,)
        return (Hazard.PEROXIDE,) if self is Agent.PEROXIDE else ()

    @property
    def dwell_minutes(self) -> int:
        """How long it is left to work, by itself."""
        return {Agent.OIL: 10, Agent.VINEGAR: 5, Agent.BICARBONATE: 5}.get(self, 0)


_FLAMMABLE = {Agent.ISOPROPANOL, Agent.OIL, Agent.SPIRIT, Agent.CONTACT}


class Bears(StrEnum):
    FITS = "fits"
    HIDDEN = "hidden spot first"
    NEVER = "never"


_A, _F, _H, _N = Agent, Bears.FITS, Bears.HIDDEN, Bears.NEVER
_ORDER = (_A.SOAP, _A.ISOPROPANOL, _A.OIL, _A.SPIRIT, _A.CONTACT, _A.SPONGE, _A.VINEGAR, _A.BICARBONATE, _A.PEROXIDE)
_TABLE: dict[Surface, tuple[Bears, ...]] = {
    Surface.PLASTIC: (_F, _F, _H, _H, _H, _H, _N, _N, _H),
    Surface.PAINTED: (_F, _H, _H, _N, _N, _N, _N, _N, _N),
    Surface.TEXTURED: (_F, _H, _N, _N, _N, _N, _N, _N, _N),
    Surface.METAL: (_F, _F, _F, _F, _F, _H, _N, _H, _N),
    Surface.PLATED: (_F, _F, _F, _F, _F, _N, _N, _H, _N),
    Surface.PRINT: (_H, _N, _N, _N, _N, _N, _N, _N, _N),
    Surface.RUBBER: (_F, _H, _N, _N, _N, _H, _N, _N, _N),
    Surface.GLASS: (_F, _N, _N, _N, _N, _N, _N, _N, _N),
    Surface.KEYS_MOULDED: (_F, _F, _H, _N, _N, _H, _N, _N, _H),
    Surface.KEYS_PRINTED: (_F, _N, _N, _N, _N, _N, _N, _N, _H),
    Surface.BOARD: (_N, _F, _N, _N, _F, _N, _H, _H, _N),
    Surface.CONTACTS: (_N, _F, _N, _N, _F, _N, _H, _N, _N),
    # What may be paint bears what paint bears, and that on a hidden spot.
    Surface.UNKNOWN: (_H, _H, _H, _N, _N, _N, _N, _N, _N),
}

# Why two must not meet without rinsing and drying between.
_CLASH: dict[frozenset[Agent], str] = {
    frozenset({_A.PEROXIDE, _A.VINEGAR}): "peroxide and acid make a stronger acid that burns skin, eyes and lungs",
    frozenset({_A.PEROXIDE, _A.BICARBONATE}): "peroxide breaks up and foams: gas, heat, and nothing whitened",
    frozenset({_A.VINEGAR, _A.BICARBONATE}): "they foam and undo each other; a closed vessel bursts",
    **{
        frozenset({_A.PEROXIDE, solvent}): "peroxide and a solvent can burn or burst"
        for solvent in (_A.ISOPROPANOL, _A.OIL, _A.SPIRIT, _A.CONTACT)
    },
}
RINSES = {Agent.WATER, Agent.SOAP}


def bears(surface: Surface, agent: Agent) -> Bears:
    """Water is borne as washing-up liquid is."""
    return _TABLE[surface][_ORDER.index(Agent.SOAP if agent is Agent.WATER else agent)]


def clash(one: Agent, other: Agent) -> str:
    """Why two must not meet; empty where they may."""
    return _CLASH.get(frozenset({one, other}), "")


def may_be_mixed(agents: Sequence[Agent]) -> None:
    """Refuses what must not meet in one vessel. Raises CareError naming both."""
    for place, one in enumerate(agents):
        for other in agents[place + 1 :]:
            if why := clash(one, other):
                raise CareError(f"{one} and {other} must not meet: {why}.", "agents")


class Chemistry(StrEnum):
    """What leaked."""

    ALKALINE = "alkaline"
    NICKEL = "nickel"
    LEAD = "lead-acid"
    LITHIUM = "lithium"
    UNKNOWN = "not known"


@dataclass(frozen=True)
class Neutraliser:
    """What takes the leak of a chemistry away; None where nothing wet may come near."""

    agent: Agent | None
    words: str


NEUTRALISERS = {
    Chemistry.ALKALINE: Neutraliser(Agent.VINEGAR, "Alkaline: vinegar on a swab until it foams no more, then rinse."),
    Chemistry.NICKEL: Neutraliser(Agent.VINEGAR, "Alkaline inside: vinegar on a swab, then rinse and dry."),
    Chemistry.LEAD: Neutraliser(Agent.BICARBONATE, "Acid: bicarbonate until it foams no more, then rinse."),
    Chemistry.LITHIUM: Neutraliser(None, "Neither acid nor bicarbonate nor water: dry off, bag, hand it in."),
    Chemistry.UNKNOWN: Neutraliser(None, "Read the cell first: what helps one kind feeds another."),
}

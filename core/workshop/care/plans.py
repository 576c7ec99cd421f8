"""Care as recipes: a cleaning, a whitening, a repaint, made for this surface with its amounts, times and cautions."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.catalogue.recipes import JobKind, Need, Proof, Recipe, Step
from core.machine.approach import Approach
from core.safety import Hazard
from core.workshop.care import CareError
from core.workshop.care.agents import RINSES, Agent, Bears, Surface, bears, clash
from core.workshop.care.coats import MOST_AREA, Coat, paint_list
from core.workshop.care.fall import MOST_ROUNDS
from core.workshop.care.strength import Mixture, dilute

# ml on each cm²: common practice, no source; a shop sets its own.
GEL_ML = Decimal("0.25")
HOTTEST = 40
# How the step of a coat begins.
LAYS = "Lay "
ASKS_COLOUR = "ΔE00 to the sheltered patch, one figure a spot"
PHOTO = Step("Take a photo of it as it is, in the light you will use again.", 1, proof=Proof.PHOTO)
AFTER = Step("Take the same photo again.", 1, proof=Proof.PHOTO)
_RINSE = Step("Rinse it with clear water, dry it: what comes next must not meet what was on it.", 5, 30)


@dataclass(frozen=True)
class School:
    """A way to whiten. `alone` and `hands` minutes a round, `evenly` how far spots lie apart afterwards (ΔE00), `asks`
    what it wants. Figures: common practice, no source."""

    code: str
    title: str
    does: str
    risks: str
    asks: tuple[str, ...]
    alone: int
    hands: int
    evenly: float
    mixes: bool = True
    bath: bool = False
    daylight: bool = False


SCHOOLS = (
    School(
        "gel",
        "Gel under film",
        "One side after the other, in a lamp or in the sun.",
        "Streaks where it dries or a bubble stays.",
        ("cling film", "lamp or daylight", "gloves", "goggles"),
        120,
        12,
        1.4,
    ),
    School(
        "bath",
        "Bath with a lamp",
        "All sides at once; what floats is turned.",
        "Goes chalky above 40 °C; much peroxide.",
        ("open tub", "lamp", "gloves", "goggles"),
        180,
        12,
        0.6,
        bath=True,
    ),
    School(
        "vapour",
        "Vapour in a vented box",
        "Slow and even, little peroxide.",
        "A box that is shut bursts; days of waiting.",
        ("vented box", "gloves", "goggles"),
        1440,
        5,
        0.8,
    ),
    School(
        "sun",
        "Sunlight alone",
        "Days behind glass or outside, nothing on it.",
        "Some plastics yellow more.",
        ("daylight",),
        2880,
        3,
        1.0,
        mixes=False,
        daylight=True,
    ),
)
LEAVE_IT = "Leave it: it is what it came through its years with."


def school_of(code: str) -> School:
    """Raises CareError for none of that code."""
    found = next((school for school in SCHOOLS if school.code == code), None)
    if found is None:
        raise CareError("Choose how it is whitened.", "school")
    return found


def whitening_refused(approach: Approach | None) -> str:
    """Why an approach has nothing whitened; empty where it may be."""
    return f"Conserve: {LEAVE_IT[:1].lower()}{LEAVE_IT[1:]}" if approach is Approach.CONSERVE else ""


def amount_ml(
    school: School,
    area_cm2: Decimal,
    tub_ml: Decimal | None = None,
    displaced_ml: Decimal = Decimal(0),
    gel_ml: Decimal = GEL_ML,
) -> Decimal:
    """How much is mixed: `gel_ml` on each cm² for what is spread, the tub less what the part takes of it for a bath.

    Raises CareError.
    """
    if not 0 < area_cm2 <= MOST_AREA:
        raise CareError(f"An area from above 0 to {MOST_AREA:,} cm².", "area")
    if not school.bath:
        return area_cm2 * gel_ml
    if tub_ml is None or tub_ml <= 0:
        raise CareError("Say how much the tub holds, ml.", "tub")
    if not 0 <= displaced_ml < tub_ml:
        raise CareError("The part takes less than the tub holds.", "displaced")
    return tub_ml - displaced_ml


def mixture_for(school: School, bottle: Decimal, wanted: Decimal, amount: Decimal) -> Mixture | None:
    """None for a school that mixes nothing. Raises CareError."""
    return dilute(bottle, wanted, amount) if school.mixes else None


def clean(surface: Surface, agents: Sequence[Agent], part: str = "") -> Recipe:
    """A cleaning of a surface with agents in their order; between two that must not meet it is rinsed and dried.

    Raises CareError for what the surface never bears.
    """
    if not agents:
        raise CareError("Choose what it is cleaned with.", "agents")
    for agent in agents:
        if bears(surface, agent) is Bears.NEVER:
            raise CareError(f"Never {agent} on {surface}.", "agents")
    steps = [PHOTO]
    if surface is Surface.UNKNOWN:
        steps.append(
            Step(
                "Find out whether it is painted: another colour inside, at edges or screw holes, drips, texture that "
                "lies on top. Not sure? Then treat it as paint.",
                4,
            )
        )
    # What is on it since it was last rinsed.
    on_it: list[Agent] = []
    for agent in agents:
        if any(clash(before, agent) for before in on_it):
            steps.append(_RINSE)
            on_it = []
        if bears(surface, agent) is Bears.HIDDEN:
            steps.append(
                Step(
                    f"Try {agent} on a hidden spot and look at the swab: no colour, no print, no shine may come off.",
                    3,
                    hazards=agent.hazards,
                    needs=(Need(agent.value, Decimal(1), "ml"),) if agent is not Agent.SPONGE else (),
                )
            )
        steps.append(_apply(agent, surface))
        on_it = [] if agent in RINSES else [*on_it, agent]
    if on_it:
        steps.append(Step("Wipe it with clear water, dry it.", 4, 15))
    steps.append(AFTER)
    what = f"Clean: {part}" if part else f"Clean: {surface}"
    return Recipe("care-clean", what[:80], JobKind.CLEAN, tuple(steps))


def _apply(agent: Agent, surface: Surface) -> Step:
    wet = surface in {Surface.BOARD, Surface.CONTACTS}
    words = {
        Agent.SPONGE: "Melamine sponge, damp, without pressing: it sands. Stop where the shine changes.",
        Agent.OIL: "Lay it on the residue, let it work, then roll it off; again where some is left.",
        Agent.PEROXIDE: "Dab it on, keep it off metal and print.",
    }.get(agent, f"{agent[:1].upper()}{agent[1:]} on a cloth or swab, from outside in; a fresh side every time.")
    needs = () if agent is Agent.SPONGE else (Need(agent.value, Decimal(10), "ml"),)
    return Step(
        words,
        8,
        agent.dwell_minutes,
        hazards=(*agent.hazards, *((Hazard.STATIC,) if wet else ())),
        caution="No flame, no hot air, power off until it is dry." if Hazard.SOLVENT in agent.hazards else "",
        needs=needs,
        undone=agent not in {Agent.SPONGE, Agent.PEROXIDE},
    )


def whiten(school: School, mixture: Mixture | None, part: str, rounds: int, minutes: int, daylight: str = "") -> Recipe:
    """A whitening with a measurement before, after each round, and photos. `minutes` a round, by itself and watched;
    `daylight`: what the sun brings in these days, where that matters."""
    if not part:
        raise CareError("Say of what: top case, keys, front.", "part")
    if not 1 <= rounds <= MOST_ROUNDS:
        raise CareError(f"From 1 to {MOST_ROUNDS} rounds.", "rounds")
    if not 5 <= minutes <= 14 * 24 * 60:
        raise CareError("A round from 5 minutes to 14 days.", "minutes")
    peroxide = (Hazard.PEROXIDE,) if school.mixes else ()
    measure = Step(
        "Measure it against the sheltered patch, in the same light.", 4, proof=Proof.COLOUR, asks=ASKS_COLOUR
    )
    steps = [
        Step("Take the part off, all metal out of it, markings masked.", 12, proof=Proof.PHOTO),
        measure,
    ]
    if mixture is not None:
        steps += [
            Step("Try it on the inside: no streak, no haze after an hour.", 3, 60, hazards=peroxide),
            Step(
                f"Mix {mixture.bottle_ml:f} ml of the bottle ({mixture.bottle_percent:.1f} %) into "
                f"{mixture.water_ml:f} ml of water: {mixture.total_ml:f} ml of {mixture.percent:.1f} %. "
                "Write on it what it is, and when.",
                6,
                hazards=peroxide,
                caution="Never close the vessel: it makes gas. Pour nothing back. What is left: by your local rules.",
                needs=(
                    Need("peroxide", mixture.bottle_ml, "ml"),
                    Need("deionised water", mixture.water_ml, "ml"),
                    *(Need(name) for name in school.asks),
                ),
                undone=False,
            ),
        ]
    for number in range(1, rounds + 1):
        turn = "Lay it on" if number == 1 else "Turn it a quarter, wet it again, smooth the film"
        turn = {"bath": "Into the bath" if number == 1 else "Turn it over in the bath"}.get(school.code, turn)
        turn = "Into the light" if number == 1 and not school.mixes else turn if school.mixes else "Turn it a quarter"
        steps.append(
            Step(
                f"Round {number}: {turn[:1].lower()}{turn[1:]}. No warmer than {HOTTEST} °C, somebody near a lamp.",
                school.hands,
                minutes,
                daylight,
                hazards=peroxide,
                caution="" if not school.mixes else "Gloves and goggles on to unwrap, turn and re-wet. Window open.",
                needs=tuple(Need(name) for name in school.asks if "light" in name),
                undone=False,
                attended=not school.daylight,
            )
        )
        steps.append(measure)
    steps += [Step("Rinse it lukewarm, dry it in the shade.", 8, 60, hazards=peroxide), AFTER]
    return Recipe("care-whiten", f"Whiten {part}, {school.title.lower()}"[:80], JobKind.WHITEN, tuple(steps))


def repaint(area_cm2: Decimal, coats: Sequence[Coat], part: str, cure_days: int = 7, colour: str = "") -> Recipe:
    """A repaint coat by coat, each laid within the window of the one under it; `colour` says which to buy.

    Raises CareError.
    """
    if not part:
        raise CareError("Say of what: top case, front, foot rail.", "part")
    if not 0 <= cure_days <= 14:
        raise CareError("From 0 to 14 days of curing.", "cure")
    if spray := next((coat for coat in coats if coat.two_component), None):
        raise CareError(
            f"{spray.name} hardens with isocyanate: left to people with air-fed breathing who may spray it.", "coats"
        )
    bought = "; ".join(
        f"{name} {number if number is not None else 'how many cans nobody said'}"
        + (f" can{'s' if number > 1 else ''}" if number else "")
        for name, _, number in paint_list(area_cm2, coats)
    )
    steps = [
        PHOTO,
        Step(
            f"Have it here: {bought}. Look what is under the old paint: rust there means all of it comes off."[:300],
            5,
            why=colour,
        ),
        Step(
            "Take old paint off wet, mask on; unknown or old paint may hold lead: never sand it dry, wash your hands.",
            40,
            hazards=(Hazard.SANDING, Hazard.DUST),
            undone=False,
        ),
        Step(
            "Degrease it, mask what stays bare, hang it so that every side is reached.",
            20,
            30,
            hazards=(Hazard.SOLVENT,),
        ),
    ]
    under: Coat | None = None
    for coat in coats:
        thick = f", {coat.microns} µm" if coat.microns else ""
        steps.append(
            Step(
                f"{LAYS}{coat.name}{thick}: thin, crosswise, no runs."[:300],
                max(5, round(area_cm2 / 200)),
                coat.earliest,
                hazards=(Hazard.SANDING,),
                caution="Mask with filters, door open, no flame and no power near the mist.",
                undone=False,
                low=Decimal(str(coat.limits.coldest)),
                high=Decimal(str(coat.limits.warmest)),
                most_humid=round(coat.limits.moistest),
                within_minutes=(under.latest or 0) if under else 0,
                late=f"wait until {under.name} is cured, sand it matt, then lay {coat.name}"
                if under and under.latest
                else "",
            )
        )
        under = coat
    if cure_days:
        steps.append(Step(f"Let it cure {cure_days} days before it is touched hard or packed.", 1, cure_days * 24 * 60))
    steps.append(AFTER)
    return Recipe("care-repaint", f"Repaint {part}"[:80], JobKind.REFINISH, tuple(steps))


def meets(recipe: Recipe) -> list[str]:
    """Agents of a cleaning that follow one another and must not meet: for a check of a plan that somebody changed."""
    found, on_it = [], list[Agent]()
    for agent in (one for step in recipe.steps for one in _agents_in(step)):
        found += [why for before in on_it if (why := clash(before, agent))]
        on_it = [] if agent in RINSES else [*on_it, agent]
    return found


def _agents_in(step: Step) -> list[Agent]:
    if step == _RINSE:
        return [Agent.WATER]
    return [agent for agent in Agent for need in step.needs if need.name == agent.value]

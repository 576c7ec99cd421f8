"""The stage column: worked out in core/flow from what every station has recorded.

Stations further on tell intake how to gather their facts by registering a source; so intake needs to
know none of them. Each source gets a list of units and answers with facts by unit id, in a number of
queries that does not grow with the list.
"""

from collections.abc import Callable, Iterable, Mapping

from core.flow.stage import FlowFacts, NextKind, Standing, standing
from core.intake.completeness import Presence
from core.intake.condition import HAZARDOUS, FindingKind
from core.intake.triage import Path
from stations.intake.models import Content, Finding, Unit
from stations.people import clock
from stations.people.refusals import shortened

Source = Callable[[list[Unit]], Mapping[int, dict]]
_sources: list[Source] = []


def register(source: Source) -> Source:
    """Add a source of facts: names of FlowFacts fields and their values, by unit id."""
    if source not in _sources:
        _sources.append(source)
    return source


def facts_of(units: list[Unit]) -> dict[int, FlowFacts]:
    """Everything the stages of these units rest on."""
    gathered = intake_facts(units)
    for source in _sources:
        for unit_id, known in source(units).items():
            merge(gathered[unit_id], known)
    return {unit_id: FlowFacts(**known) for unit_id, known in gathered.items()}


# What several stations know something of: lists add up, and of two holds the first that is known stays.
_ADD_UP = {"failed", "not_proven"}


def merge(facts: dict, more: Mapping) -> dict:
    """Lay what one source knows over what is known already."""
    held = bool(facts.get("safety_hold"))
    for name, value in more.items():
        if name in _ADD_UP:
            facts[name] = list(dict.fromkeys([*facts.get(name, ()), *value]))
        elif not (held and name in {"safety_hold", "hold_kind"}):
            facts[name] = value
    return facts


def standings(units: list[Unit]) -> dict[int, Standing]:
    return {unit_id: standing(facts) for unit_id, facts in facts_of(units).items()}


def refresh(*units: Unit) -> None:
    """Bring the stage columns up to date; called by every service that changed a fact, in its transaction."""
    fresh = list(Unit.objects.filter(pk__in=[unit.pk for unit in units]).select_related("lot", "line", "model"))
    for unit_id, stands in standings(fresh).items():
        unit = next(u for u in fresh if u.pk == unit_id)
        changed = apply(unit, stands)
        if changed:
            Unit.objects.filter(pk=unit.pk).update(**changed)
    for unit in units:
        unit.refresh_from_db()


def apply(unit: Unit, stands: Standing) -> dict:
    """The columns in which the unit differs from where it stands."""
    wanted = {
        "stage": stands.stage.value,
        "station": stands.station.value,
        "state": stands.state.value,
        "stage_reason": shortened(stands.reason, 200),
        "next_step": shortened(stands.next_step, 120),
        "next_kind": stands.next_kind.value,
        "next_minutes": stands.minutes,
    }
    changed = {name: value for name, value in wanted.items() if getattr(unit, name) != value}
    if changed.keys() & {"stage", "state"}:
        changed["stage_since"] = clock.now()
    return changed


def intake_facts(units: Iterable[Unit]) -> dict[int, dict]:
    """What intake itself knows of each unit: two queries for all. A leak or a swollen cell that is open holds it."""
    ids = [unit.pk for unit in units]
    unseen = set(Content.objects.filter(unit_id__in=ids, presence=Presence.UNSEEN).values_list("unit_id", flat=True))
    holds: dict[int, str] = {}
    hazards = Finding.objects.filter(unit_id__in=ids, kind__in=HAZARDOUS, status=Finding.Status.OPEN)
    for unit_id, kind, words in hazards.order_by("-id").values_list("unit_id", "kind", "words"):
        what = "leak" if kind == FindingKind.LEAK else FindingKind(kind).label
        holds[unit_id] = f"{what}: {words}" if words else what
    facts = {}
    for unit in units:
        gaps = [
            words
            for words, missing in (
                ("what it is", unit.identified_at is None),
                ("completeness", unit.pk in unseen),
                ("its looks", unit.looked_over_at is None),
                ("approach", not unit.approach),
            )
            if missing
        ]
        facts[unit.pk] = {
            "intake_gaps": gaps,
            "assessed": unit.assessed_at is not None,
            "custody": unit.custody,
            "donor": unit.approach == "donor",
            "parked": unit.parked,
            "scrapped": unit.scrapped_at is not None,
            "returned": unit.returned_at is not None,
            "safety_hold": holds.get(unit.pk, ""),
            "hold_kind": NextKind.INTAKE,
            "sell_as_is": unit.path == Path.SELL and unit.assessed_at is not None,
        }
    return facts

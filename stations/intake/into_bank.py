"""A machine of a model that is not in the bank puts its model there: what was seen on it is what is known of it."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction

from core.flow.stage import GONE
from core.intake.completeness import Presence
from stations.catalogue import services as catalogue
from stations.catalogue.bank import Expected
from stations.catalogue.models import MachineModel
from stations.common.details import as_kept
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.intake.services import Identity, identify
from stations.people.models import Person
from stations.units.models import Unit

# What a unit and a model say alike.
ALIKE = ("form_factor", "supply", "battery", "picture_tube", "drives", "keyboard")


def suggested(unit: Unit) -> dict[str, Any]:
    """What the bank would say of its model, as far as it was seen on this one: the maker is the first word of what it
    is called; what came with it and what is missing belongs with it."""
    maker, _, name = unit.title.partition(" ")
    belongs = unit.contents.exclude(presence__in=[Presence.EXTRA, Presence.NOT_ORIGINAL]).order_by("-weight", "id")
    things = [Expected(row.name, row.weight, row.estimate) for row in belongs]
    said = {field: getattr(unit, field) for field in ALIKE}
    return said | {
        "maker": maker[:40],
        "name": name.strip()[:40],
        "keeps_data": unit.data_on_board,
        "expected": "\n".join(map(str, things)),
    }


def like_it(unit: Unit) -> list[Unit]:
    """Others that are here, are called the same and are of no model either: one query."""
    rows = Unit.objects.filter(model=None, title=unit.title, form_factor=unit.form_factor).exclude(pk=unit.pk)
    return list(rows.exclude(stage__in=GONE).order_by("pk")[:200])


@transaction.atomic
def put_in_bank(
    person: Person, unit: Unit, model: MachineModel, expected: Sequence[Expected], others: Iterable[Unit] = ()
) -> MachineModel:
    """Put the model in the bank; the unit is of it from now on, and so are the `others`. What was recorded of each of
    them stays."""
    held = [lock_row(Unit.objects.all(), one) for one in sorted([unit, *others], key=lambda one: one.pk)]
    unit = next(one for one in held if one == unit)
    if unit.model_id:
        raise Refused(f"Somebody said meanwhile that it is a {unit.model}.")
    catalogue.add_model(person, model, expected)
    for one in held:
        if one.model_id is None:
            identify(person, one, one.version, replace(as_kept(Identity, one), model=model, title=str(model)))
    return model

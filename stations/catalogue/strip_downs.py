"""What a model is put together from: kept with the model, and carried by every unit of it."""

from django.db import transaction

from core.catalogue.assemblies import AssemblyError, StripDown
from core.catalogue.assembly_text import as_data, from_data
from core.catalogue.orders import check
from stations.catalogue.models import MachineModel, ModelStripDown
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned


def strip_down_of_model(model: MachineModel) -> StripDown:
    kept = ModelStripDown.objects.filter(model=model).first()
    return from_data(kept.assemblies) if kept else StripDown({})


def checked(strip: StripDown) -> StripDown:
    """The same if it can be taken apart and put together; Refused naming the ring that can't."""
    try:
        return check(strip)
    except AssemblyError as problem:
        raise Refused(str(problem), problem.at) from problem


@transaction.atomic
def keep_for_model(person: Person, model: MachineModel, strip: StripDown, seen_version: int | None = None) -> None:
    """Put right what a model is put together from. Units that have their own keep it."""
    require(person, "change a model")
    rows = as_data(checked(strip))
    kept = ModelStripDown.objects.filter(model=model).first()
    if kept is not None and kept.assemblies == rows:
        return
    words = f"Strip-down of {model} put down: {len(strip)} assemblies"
    history.record(person, "catalogue.keep_for_model", HistoryEntry.Subject.MODEL, model.pk, words)
    if kept is None:
        ModelStripDown.objects.create(model=model, assemblies=rows)
    else:
        save_versioned(kept, kept.version if seen_version is None else seen_version, {"assemblies": rows})

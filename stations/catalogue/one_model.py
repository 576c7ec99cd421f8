"""Two models of the bank that are one, typed in two ways: whatever is of the one is of the other from then on."""

from dataclasses import fields
from typing import Any

from django.db import IntegrityError, models, transaction

from core.machine.supply import Battery, Supply
from stations.catalogue.models import MachineModel

# What nobody said, whatever the field.
UNSAID = {None, "", Supply.UNKNOWN.value, Battery.UNKNOWN.value}


def put_together(model: MachineModel, other: MachineModel, said: Any) -> None:
    """Everything of `model` is of `other`, and `model` is no more. What is known of `other` stays; `said` of the one
    fills in only what is not. Both are locked by the caller."""
    told = {f.name: getattr(said, f.name) for f in fields(said) if getattr(other, f.name) in UNSAID}
    MachineModel.objects.filter(pk=other.pk).update(**told)
    if other.expected.exists():
        model.expected.all().delete()
    # Every table that points at a model, of whatever room: read off, so that none is forgotten.
    for relation in MachineModel._meta.related_objects:
        rows: models.Manager = relation.related_model._base_manager
        name = relation.field.name
        if relation.many_to_many:
            for row in rows.filter(**{name: model}):
                getattr(row, name).add(other)
            continue
        of_it = rows.filter(**{name: model})
        if not _moved(of_it, name, other):
            for row in of_it.order_by("pk"):
                if not _moved(rows.filter(pk=row.pk), name, other):
                    # The other has one like it already, which stays.
                    row.delete()
    model.delete()


def _moved(rows: models.QuerySet, name: str, other: MachineModel) -> bool:
    """Whether all of them could be put under the other one."""
    try:
        with transaction.atomic():
            rows.update(**{name: other})
    except IntegrityError:
        return False
    return True

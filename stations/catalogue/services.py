"""What people put into the catalogue: models, how makers number, what a base number stands for."""

from collections.abc import Sequence

from django.db import transaction

from stations.catalogue import bank
from stations.catalogue.models import MachineModel, SerialPattern, VariantRule
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

MODEL = HistoryEntry.Subject.MODEL


@transaction.atomic
def add_model(person: Person, model: MachineModel, expected: Sequence[bank.Expected]) -> MachineModel:
    """Put a model in the bank, with what belongs with it: (name, weight, what a replacement costs)."""
    require(person, "add a model")
    if MachineModel.objects.filter(maker=model.maker, name=model.name).exists():
        raise Refused(f"There is a {model} in the bank already.", "name")
    model.save(force_insert=True)
    bank.expect(model, expected)
    history.record(person, "catalogue.add_model", MODEL, model.pk, f"{model} added")
    return model


@transaction.atomic
def add_pattern(person: Person, pattern: SerialPattern) -> None:
    """Add how a maker numbered."""
    require(person, "add to the model bank")
    pattern.save(force_insert=True)
    history.record(person, "catalogue.add_pattern", MODEL, 0, f"Serial numbers of {pattern} added")


@transaction.atomic
def drop_pattern(person: Person, pattern: SerialPattern) -> None:
    """The maker did not number so. What was read by it stays as it was read."""
    require(person, "add to the model bank")
    SerialPattern.objects.filter(pk=pattern.pk).delete()
    history.record(person, "catalogue.drop_pattern", MODEL, 0, f"Serial numbers of {pattern} taken out")


@transaction.atomic
def drop_rule(person: Person, rule: VariantRule) -> None:
    """The numbers do not stand for that."""
    require(person, "add to the model bank")
    VariantRule.objects.filter(pk=rule.pk).delete()
    history.record(person, "catalogue.drop_rule", MODEL, 0, f"Numbers of {rule} taken out")


@transaction.atomic
def add_rule(person: Person, rule: VariantRule) -> None:
    """Add what a maker's base number and the next one stand for."""
    require(person, "add to the model bank")
    rule.save(force_insert=True)
    history.record(person, "catalogue.add_rule", MODEL, 0, f"Numbers of {rule} added")

"""What people put into the catalogue: models, how makers number, what a base number stands for."""

from collections.abc import Sequence

from django.db import transaction

from stations.catalogue import bank
from stations.catalogue.models import MachineModel, SerialPattern, VariantRule
from stations.people.models import Person
from stations.people.permissions import require


@transaction.atomic
def add_model(person: Person, data: dict, expected: Sequence[bank.Expected]) -> MachineModel:
    """Put a model in the bank, with what belongs with it: (name, weight, what a replacement costs)."""
    require(person, "add a model")
    model = MachineModel.objects.create(**data)
    bank.expect(model, expected)
    return model


@transaction.atomic
def add_pattern(person: Person, data: dict) -> SerialPattern:
    """Add how a maker numbered."""
    require(person, "add to the model bank")
    return SerialPattern.objects.create(**data)


@transaction.atomic
def add_rule(person: Person, data: dict) -> VariantRule:
    """Add what a maker's base number and the next one stand for."""
    require(person, "add to the model bank")
    return VariantRule.objects.create(**data)

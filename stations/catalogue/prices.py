"""What models fetch elsewhere, by whoever knows it."""

from collections.abc import Callable, Mapping

from core.intake.triage import Prices
from stations.catalogue.models import MachineModel
from stations.common.registry import Registry

# Prices by model, of those models that the source knows.
price_sources: Registry[Callable[[set[int]], Mapping[int, Prices]]] = Registry("what models fetch")


def prices_of(model: MachineModel) -> Prices | None:
    """What sales elsewhere say a model fetches; None while there are too few."""
    return prices_by_model({model.pk}).get(model.pk)


def prices_by_model(models: set[int]) -> dict[int, Prices]:
    found: dict[int, Prices] = {}
    for source in price_sources.values():
        found.update(source(models))
    return found

"""Ways to have a missing thing again, side by side."""

from collections.abc import Mapping
from decimal import Decimal

from core.catalogue.fit.kinds import Origin
from core.money import ZERO
from core.workshop.upgrades.best import Worth
from core.workshop.upgrades.buyers import Buyer
from core.workshop.upgrades.candidates import Part as CouldBe
from core.workshop.upgrades.candidates import candidates_of
from core.workshop.upgrades.instead import Instead, alternatives, serving
from core.workshop.worth import Appraisal, Changes
from stations.catalogue.fit_sheets import needs_of, sheets_of
from stations.catalogue.models import PartSheet
from stations.people import shop_settings
from stations.units.models import Content, Unit
from stations.workshop.buyers import buyers
from stations.workshop.upgrade_parts import MOST, buyers_for, parts_for, worth_of
from stations.workshop.worth import appraisal_of


def instead_of(unit: Unit, content: Content) -> tuple[list[Instead], Decimal | None, tuple[Buyer, ...]]:
    """Ways to have a missing thing again, what the unit should fetch now (None: nothing to compare), and the buyers."""
    appraisal = appraisal_of(unit)
    names = _sheets_serving(content.name)
    parts = {part.name: part for part in parts_for(unit, names)}
    # One that nobody known has is a way too, with a price that is not known.
    sheets = sheets_of(names)
    could = [parts.get(sheet.name) or CouldBe(sheet.name, needs_of(sheet), ()) for sheet in sheets.values()]
    machine, worth = worth_of(unit, could, appraisal)
    there = tuple(buyers().values())
    if worth is None or appraisal is None:
        unpriced = Worth(machine, candidates_of(machine, could), ZERO, shop_settings.settings().labour_rate)
        return alternatives(unpriced, content.name, there, {}), None, there
    there = tuple(buyers_for(worth.price, appraisal).values())
    return alternatives(worth, content.name, there, _lifts(appraisal, content, worth.price)), worth.price, there


def _sheets_serving(thing: str) -> list[str]:
    """Parts whose sheets say that they do the work of a thing: one query."""
    rows = PartSheet.objects.filter(needs__has_key="serves").order_by("name")[:MOST]
    return [sheet.name for sheet in rows if serving(needs_of(sheet), thing)]


def _lifts(appraisal: Appraisal, content: Content, price: Decimal) -> Mapping[Origin, Decimal | None]:
    """By how much the price rises with the thing there again, the original or another."""
    found: dict[Origin, Decimal | None] = {}
    for origin in Origin:
        numbers = frozenset({content.pk})
        original = origin is Origin.ORIGINAL
        then = appraisal.at(Changes(contents=numbers) if original else Changes(substituted=numbers))
        found[origin] = then.likely - price if then else None
    return found

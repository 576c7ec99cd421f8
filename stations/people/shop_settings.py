"""The shop's one row of settings."""

from dataclasses import dataclass
from datetime import time
from decimal import Decimal

from stations.people.models import Person, ShopSettings
from stations.people.permissions import require
from stations.people.screens import save_versioned


@dataclass(frozen=True)
class SettingsDetails:
    """What an owner sets: money in the shop's own, for an hour where it is a rate; trays, benches and tubs by number;
    where the shop is in degrees, None where nobody says. What each is for stands at the fields of ShopSettings."""

    name: str
    labour_rate: Decimal
    target_margin: Decimal
    postage: Decimal
    closes_at: time | None
    trays: int
    benches: int
    tubs: int
    holding: Decimal
    gel_ml_cm2: Decimal
    latitude: Decimal | None
    longitude: Decimal | None
    tax_scheme: str
    tax_percent: Decimal
    premium_counts: bool


def settings() -> ShopSettings:
    """The settings, made with their defaults when there are none yet."""
    found, _ = ShopSettings.objects.get_or_create(pk=1)
    return found


def change_settings(person: Person, seen_version: int, said: SettingsDetails) -> ShopSettings:
    require(person, "change the settings of the shop")
    row = settings()
    save_versioned(row, seen_version, vars(said))
    return row


def take_turns() -> None:
    """Whoever takes the next lot or tag number waits here for whoever is taking one; until the transaction ends."""
    ShopSettings.objects.select_for_update().get(pk=settings().pk)


def take_tags(count: int, used: int) -> int:
    """The first of `count` tag numbers that were never given out, all above `used`; waits for whoever takes some."""
    take_turns()
    last = max(settings().last_tag, used)
    ShopSettings.objects.filter(pk=1).update(last_tag=last + count)
    return last + 1

"""The shop's one row of settings."""

from decimal import Decimal

from stations.people.models import Person, ShopSettings
from stations.people.permissions import require
from stations.people.screens import save_versioned


def settings() -> ShopSettings:
    """The settings, made with their defaults when there are none yet."""
    found, _ = ShopSettings.objects.get_or_create(pk=1)
    return found


def change_settings(person: Person, seen_version: int, changes: dict[str, str | Decimal]) -> ShopSettings:
    require(person, "change the settings of the shop")
    row = settings()
    save_versioned(row, seen_version, changes)
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

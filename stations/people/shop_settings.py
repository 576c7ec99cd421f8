"""The shop's one row of settings."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, time, timedelta
from decimal import Decimal
from itertools import pairwise

from django.db import transaction

from stations.common import clock
from stations.common.happened import FIRST_DAY
from stations.common.refusals import Refused, StaleEdit
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import EarlierTax, HistoryEntry, Person, ShopSettings, TaxScheme, TaxTerms
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


# Why days can't be taxed anew, as a sentence, or nothing: asked for the first, the one after the last, and how.
taxed_already: Registry[Callable[[date, date, TaxTerms], str]] = Registry("what was taxed already")
# A rate is decided a year ahead, or two.
AHEAD = timedelta(days=731)


@transaction.atomic
def change_settings(
    person: Person, seen_version: int, said: SettingsDetails, tax_from: date | None = None
) -> ShopSettings:
    """`tax_from`: the day from which scheme and rate hold, today where they change and none is said; it may be one to
    come, or one before where nothing was taxed otherwise since."""
    require(person, "change the settings of the shop")
    row = settings()
    if row.version != seen_version:
        # Before its tax is compared with what somebody else said meanwhile.
        raise StaleEdit(row)
    before = _taxed_before(row, said, tax_from)
    new = {**vars(said), "tax_before": [one.kept for one in before]}
    turns = f", tax from {before[-1].turn:%-d %B %Y}" if before and before != row.earlier_taxes else ""
    history.changed(person, "people.change_settings", HistoryEntry.Subject.SHOP, 0, f"Settings{turns}", row, new)
    save_versioned(row, seen_version, new)
    return row


def _taxed_before(row: ShopSettings, said: SettingsDetails, tax_from: date | None) -> list[EarlierTax]:
    """What held before the scheme and rate that are said. Refused where days were taxed otherwise already."""
    now, last = TaxTerms(TaxScheme(said.tax_scheme), said.tax_percent), row.last_tax
    if tax_from is None and now == last:
        return row.earlier_taxes
    since = tax_from or clock.today()
    if not FIRST_DAY < since <= clock.today() + AHEAD:
        raise Refused("Look at the year.", "tax_from")
    if tax_from is None and row.nobody_said and not _in_the_way(row, now, []):
        # What a new shop begins with was said by nobody, so that it never held.
        return []
    before = _held_before(row, now, since)
    if now == last and before == row.earlier_taxes:
        raise Refused("That held before already: no day is needed.", "tax_from")
    if why := _in_the_way(row, now, before):
        raise Refused(why, "tax_from")
    return before


def _held_before(row: ShopSettings, now: TaxTerms, since: date) -> list[EarlierTax]:
    earlier = [one for one in row.earlier_taxes if one.turn < since]
    held = row.tax_on(since - timedelta(days=1))
    if held == now and earlier:
        # It holds already and is to do so from later on.
        held = earlier.pop().tax
    return earlier if held == now else [*earlier, EarlierTax(since, held)]


def _in_the_way(row: ShopSettings, now: TaxTerms, before: list[EarlierTax]) -> str:
    """Why days that would be taxed otherwise than they were can't be; nothing where they can."""
    new = ShopSettings(tax_scheme=now.scheme, tax_percent=now.percent, tax_before=[one.kept for one in before])
    end = clock.today() + timedelta(days=1)
    turns = {one.turn for one in (*row.earlier_taxes, *before)}
    days = [FIRST_DAY, *sorted(day for day in turns if day < end), end]
    for first, after in pairwise(days):
        terms = new.tax_on(first)
        if terms != row.tax_on(first):
            for asked in taxed_already.values():
                if why := asked(first, after, terms):
                    return why
    return ""


def take_turns() -> None:
    """Whoever takes the next lot or tag number waits here for whoever is taking one; until the transaction ends."""
    ShopSettings.objects.select_for_update().get(pk=settings().pk)


def take_tags(count: int, used: int) -> int:
    """The first of `count` tag numbers that were never given out, all above `used`; waits for whoever takes some."""
    take_turns()
    last = max(settings().last_tag, used)
    ShopSettings.objects.filter(pk=1).update(last_tag=last + count)
    return last + 1

"""Who bought something is kept as long as the terms say after it was closed, then wiped wherever it stands."""

import re
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.db.models import CharField, JSONField, Model, Q, QuerySet, TextField

from stations.common import clock
from stations.common.locking import lock_row
from stations.dispatch.models import BankLine, BankTable, OwnerPayment, Parcel, Receipt, Return
from stations.dispatch.terms import terms
from stations.ledger.models import Account, LedgerEntry, Posting
from stations.people.models import HistoryEntry
from stations.selling.models import ChannelMessage, Listing, Offer, Question, Reserved, Sale
from stations.units.models import Unit

SOME = 20
TABLES_STAY = timedelta(days=1)
GONE = "somebody"
# Whose rows about a unit may name a buyer.
ROOMS = {"selling", "dispatch", "day"}


def due(now: datetime | None = None):
    """Sales whose buyer is to be wiped; one of which a return is open is kept."""
    before = (now or clock.now()) - timedelta(days=terms().wipe_after)
    over = Q(closed_at__lte=before) | Q(ended_at__lte=before)
    return Sale.objects.filter(over, wiped_at=None, return_open=None).order_by("pk")


def wipe_some() -> int:
    """Wipe a few of those that are due; answers how many."""
    rows = list(due().select_related("unit")[:SOME])
    for sale in rows:
        _wipe(sale)
    _wipe_bank()
    return len(rows)


def _wipe_bank() -> None:
    """Who paid for what is no sale, or was paid, is kept as long as a buyer."""
    before = clock.today() - timedelta(days=terms().wipe_after)
    lines = BankLine.objects.filter(Q(amount__lt=0) | ~Q(aside=""), day__lt=before, bookings=None)
    lines.exclude(who="", words="").update(who="", words="")
    # Nobody said how it is read; the bank has it still.
    BankTable.objects.filter(uploaded_at__lt=clock.now() - TABLES_STAY).delete()


@transaction.atomic
def _wipe(sale: Sale) -> None:
    lock_row(Unit.objects.all(), sale.unit)
    sale = lock_row(Sale.objects.select_related("unit"), sale)
    if sale.wiped_at:
        return
    now = clock.now()
    until = sale.closed_at or sale.ended_at or now
    names = {sale.buyer}
    Sale.objects.filter(pk=sale.pk).update(buyer="", wiped_at=now)
    Return.objects.filter(sale=sale).update(words="", went_back_by="")
    # A parcel or a receipt with several sales keeps its address until the last of them is wiped.
    for parcel in Parcel.objects.filter(items__sale=sale).exclude(items__sale__wiped_at=None):
        names |= set(parcel.address.splitlines()[:1])
        Parcel.objects.filter(pk=parcel.pk).update(address="")
    for receipt in Receipt.objects.filter(lines__sale=sale).exclude(lines__sale__wiped_at=None):
        names |= set(receipt.buyer.splitlines()[:1])
        Receipt.objects.filter(pk=receipt.pk).update(buyer="", wiped_at=now)
    # What the bank said of who paid for it, once that is for nobody else who is known still.
    lines = BankLine.objects.filter(bookings__payment__sale=sale)
    for line in lines.exclude(bookings__payment__sale__wiped_at=None).distinct():
        names |= {line.who}
        BankLine.objects.filter(pk=line.pk).update(who="", words="")
    # Others who asked and offered while it was for sale.
    offers, questions = Offer.objects.filter(unit=sale.unit_id), Question.objects.filter(unit=sale.unit_id)
    held = Reserved.objects.filter(unit=sale.unit_id)
    offers, questions = offers.filter(made_at__lte=until), questions.filter(asked_at__lte=until)
    held = held.filter(made_at__lte=until)
    names |= {*offers.values_list("buyer", flat=True), *held.values_list("buyer", flat=True)}
    names |= set(questions.values_list("who", flat=True))
    offers.update(buyer=GONE, contact="")
    questions.update(who=GONE, contact="")
    held.update(buyer=GONE)
    for message in ChannelMessage.objects.filter(unit=sale.unit_id, came_at__lte=until):
        raw = message.raw if isinstance(message.raw, dict) else {}
        names |= {str(raw.get("who", ""))}
        kept = {key: value for key, value in raw.items() if key not in {"who", "words", "contact"}}
        ChannelMessage.objects.filter(pk=message.pk).update(raw=kept | ({"who": GONE} if "who" in raw else {}))
    # “R. Moen, Skerry” is told of as R. Moen too.
    names |= {name.partition(",")[0].strip() for name in names}
    _out_of_the_story(sale, {name for name in names if len(name) > 1 and name != GONE})


def _out_of_the_story(sale: Sale, names: set[str]) -> None:
    """The names, as whole words, out of all that was typed about the unit, its sale and what went with it, and out of
    the titles of their postings; what was done, and every entry of the book, stays."""
    if not names:
        return
    longest = sorted(names, key=len, reverse=True)
    said = re.compile("|".join(rf"(?<!\w){re.escape(name)}(?!\w)" for name in longest), re.IGNORECASE)
    for rows in _typed_about(sale):
        for row in rows:
            kept = {field: getattr(row, field) for field in _texts(type(row))}
            changed = {field: new for field, old in kept.items() if (new := _without(said, old)) != old}
            if changed:
                type(row)._base_manager.filter(pk=row.pk).update(**changed)


def _typed_about(sale: Sale) -> Iterator[QuerySet]:
    """Rows that may name whoever bought it. Of the unit those of the rooms that know a buyer: what was wiped above by
    its moment is of others, who came later."""
    unit = sale.unit
    yield HistoryEntry.objects.filter(subject=HistoryEntry.Subject.UNIT, subject_id=unit.pk)
    of_unit, of_sale = Q(account=Account.UNIT, account_id=unit.pk), Q(account=Account.BUYER_OWES, account_id=sale.pk)
    yield Posting.objects.filter(pk__in=LedgerEntry.objects.filter(of_unit | of_sale).values("posting"))
    yield Posting.objects.filter(reverses__in=OwnerPayment.objects.filter(sale=sale).values("posting"))
    yield ChannelMessage.objects.filter(unit=unit)
    yield Sale.objects.filter(pk=sale.pk)
    # What is offered names no buyer, and a buyer may be called as a maker is.
    others = {Sale, Offer, Question, Reserved, ChannelMessage, Listing}
    for relation in Unit._meta.related_objects:
        if relation.related_model._meta.app_label in ROOMS and relation.related_model not in others:
            yield relation.related_model._base_manager.filter(**{relation.field.name: unit})
    for relation in Sale._meta.related_objects:
        yield relation.related_model._base_manager.filter(**{relation.field.name: sale})
    whole = Parcel.objects.filter(items__sale=sale).exclude(items__sale__wiped_at=None)
    yield whole
    for relation in Parcel._meta.related_objects:
        yield relation.related_model._base_manager.filter(**{f"{relation.field.name}__in": whole})


def _texts(model: type[Model]) -> list[str]:
    """Its fields that hold what somebody typed."""
    kinds = (CharField, TextField, JSONField)
    return [f.attname for f in model._meta.concrete_fields if isinstance(f, kinds) and not f.choices and not f.unique]


def _without(said: re.Pattern[str], value: Any) -> Any:
    """The same without the names, however deep it holds text."""
    if isinstance(value, str):
        return said.sub(GONE, value)
    if isinstance(value, list):
        return [_without(said, one) for one in value]
    return {key: _without(said, one) for key, one in value.items()} if isinstance(value, dict) else value

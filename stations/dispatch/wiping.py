"""Who bought something is kept as long as the terms say after it was closed, then wiped wherever it stands."""

import re
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import Q

from stations.common import clock
from stations.common.locking import lock_row
from stations.dispatch.models import Parcel, Receipt, Return
from stations.dispatch.terms import terms
from stations.ledger.models import Posting
from stations.people.models import HistoryEntry
from stations.selling.models import ChannelMessage, Offer, Question, Reserved, Sale
from stations.units.models import Unit

SOME = 20
GONE = "somebody"


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
    return len(rows)


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
    Return.objects.filter(sale=sale).update(words="")
    # A parcel or a receipt with several sales keeps its address until the last of them is wiped.
    for parcel in Parcel.objects.filter(items__sale=sale).exclude(items__sale__wiped_at=None):
        names |= set(parcel.address.splitlines()[:1])
        Parcel.objects.filter(pk=parcel.pk).update(address="")
    for receipt in Receipt.objects.filter(lines__sale=sale).exclude(lines__sale__wiped_at=None):
        names |= set(receipt.buyer.splitlines()[:1])
        Receipt.objects.filter(pk=receipt.pk).update(buyer="", wiped_at=now)
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
    _out_of_the_story(sale, {name for name in names if len(name) > 1})


def _out_of_the_story(sale: Sale, names: set[str]) -> None:
    """The names, as whole words, out of what is told of the unit and out of the title of its posting; what was done,
    and every entry of the book, stays."""
    unit = sale.unit
    if not names:
        return
    said = re.compile("|".join(rf"(?<!\w){re.escape(name)}(?!\w)" for name in sorted(names, key=len, reverse=True)))
    rows = [*HistoryEntry.objects.filter(subject=HistoryEntry.Subject.UNIT, subject_id=unit.pk)]
    for row in rows:
        if (words := said.sub(GONE, row.words)) != row.words:
            HistoryEntry.objects.filter(pk=row.pk).update(words=words)
    if sale.posting:
        Posting.objects.filter(pk=sale.posting.pk).update(document=said.sub(GONE, sale.posting.document))
    for message in ChannelMessage.objects.filter(unit=unit):
        if (words := said.sub(GONE, message.words)) != message.words:
            ChannelMessage.objects.filter(pk=message.pk).update(words=words)

"""What waits after a sale: money, packing, sending, arrival, returns, claims."""

from datetime import timedelta

from django.db.models import Case, F, OuterRef, Q, Subquery, When
from django.db.models.functions import Coalesce

from core.selling.taking_back import Reason
from stations.common import clock
from stations.common.paging import First, first_of
from stations.dispatch.models import Parcel, Receipt, Return
from stations.selling.models import Channel, Payment, Sale

SHOWN = 25
# So long on its way, somebody asks (common practice, no source).
ASK_AFTER = timedelta(days=10)
# A marketplace that has not paid out for so long after it was sent is asked (common practice, no source).
PAID_OUT_AFTER = timedelta(days=14)

# Who has paid is kept waiting no longer, and who has not is asked (common practice, no source).
SENT_AFTER = timedelta(days=3)
PAID_AFTER = timedelta(days=7)

_SALES = Sale.objects.select_related("unit", "channel", "parcel_item__parcel")


def _owed():
    return _SALES.filter(ended_at=None, price__gt=F("paid") + F("refunded"))


def to_pay():
    """Sold, not paid in full, by whoever pays us."""
    return _owed().exclude(channel__kind=Channel.Kind.MARKET).order_by("sold_at")


def payments_overdue():
    """Of that, what should be here by now."""
    return to_pay().filter(sold_at__lt=clock.now() - PAID_AFTER)


def to_be_paid_out():
    """Sold where a marketplace takes the money, which it has not passed on, the longest sent first."""
    return _owed().filter(channel__kind=Channel.Kind.MARKET).order_by(F("sent_at").asc(nulls_last=True), "sold_at")


def overdue():
    """Of that, what should be here by now."""
    return to_be_paid_out().filter(sent_at__lt=clock.now() - PAID_OUT_AFTER)


def owners_to_pay():
    """Things on commission that are paid for, and their owners are not; first those who were paid too much."""
    had = F("owner_back") + F("owner_paid")
    due = Q(owners_part__gt=had, price__lte=F("paid") + F("refunded"), ended_at=None)
    return _SALES.filter(due | Q(owners_part__lt=had)).order_by(F("owners_part") - had, "sold_at")


def to_pack():
    """Sold and still here, each with when its buyer had paid all of it; None where that is not so."""
    last = Payment.objects.standing().filter(sale=OuterRef("pk")).order_by("-came_at").values("came_at")[:1]
    paid = Case(
        # A marketplace takes the money at the sale.
        When(channel__kind=Channel.Kind.MARKET, then=F("sold_at")),
        When(price__lte=F("paid") + F("refunded"), then=Coalesce(Subquery(last), F("sold_at"))),
    )
    return _SALES.filter(ended_at=None, sent_at=None).annotate(had_money_at=paid).order_by("sold_at")


def kept_waiting():
    """Of that, what should be on its way by now."""
    return to_pack().filter(had_money_at__lt=clock.now() - SENT_AFTER)


def on_the_way():
    """Sent and not closed, the longest first."""
    return _SALES.filter(ended_at=None, sent_at__isnull=False, closed_at=None).order_by("sent_at")


def coming_back():
    return Return.objects.filter(settled_at=None).select_related("sale__unit").order_by("asked_at")


def claims():
    """Broken on the way, and the carrier has not answered."""
    rows = Parcel.objects.filter(damage_at__isnull=False, paid_back=None)
    return rows.select_related("carrier").prefetch_related("items__sale__unit").order_by("damage_at")


def waiting() -> dict[str, First]:
    """All of it: at most two queries a heap."""
    return {
        "to_pay": first_of(to_pay(), SHOWN),
        "to_be_paid_out": first_of(to_be_paid_out(), SHOWN),
        "owners": first_of(owners_to_pay(), SHOWN),
        "to_pack": first_of(to_pack(), SHOWN),
        "on_the_way": first_of(on_the_way(), SHOWN),
        "coming_back": first_of(coming_back(), SHOWN),
        "claims": first_of(claims(), SHOWN),
    }


def never_arrived(sale: Sale) -> bool:
    """It was closed since it was lost on the way: what was told of it is settled, and it did not come back."""
    settled = sale.returns.filter(reason=Reason.LOST, taken_back=False, open_for=None)
    return sale.closed_at is not None and settled.exists()


def late(sale: Sale) -> bool:
    """So long on its way, paid for and still here, or not paid for, that somebody should see to it."""
    if sale.sent_at is not None:
        return sale.closed_at is None and clock.now() - sale.sent_at > ASK_AFTER
    # Only what is read to be packed says when it was paid for.
    had_money_at = getattr(sale, "had_money_at", None)
    if had_money_at is not None:
        return clock.now() - had_money_at > SENT_AFTER
    return sale.owed > 0 and not sale.channel.pays_out and clock.now() - sale.sold_at > PAID_AFTER


def payout_late(sale: Sale) -> bool:
    """So long sent and not paid out that its marketplace should be asked."""
    waits = sale.stands and sale.owed > 0 and sale.channel.pays_out
    return waits and sale.sent_at is not None and clock.now() - sale.sent_at > PAID_OUT_AFTER


def receipts(words: str = ""):
    """Every receipt, the newest first; `words`: its number, or somebody’s name."""
    rows = Receipt.objects.all()
    year, _, number = words.strip().partition("-")
    if year.isascii() and year.isdecimal() and number.isascii() and number.isdecimal() and len(words) < 16:
        return rows.filter(year=int(year), number=int(number))
    return rows.filter(Q(buyer__icontains=words.strip())) if words.strip() else rows

"""The entries of one unit."""

from django.shortcuts import get_object_or_404, render

from core.books.earnings import an_hour
from stations.books import selectors
from stations.books.drawing import waterfall
from stations.ledger.models import Account
from stations.ledger.selectors import postings_of
from stations.units.costs import cost_unknown
from stations.units.models import Unit
from stations.workshop.models import Job


def unit(request, number):
    """One unit's ledger, entry by entry, with reversals in sight."""
    row = get_object_or_404(Unit.objects.select_related("lot", "line"), number=number)
    money = selectors.units_earnings([row])[row.pk]
    postings = [
        (posting, [e for e in posting.entries.all() if e.account == Account.UNIT and e.account_id == row.pk])
        for posting in postings_of(Account.UNIT, row.pk)
    ]
    minutes = selectors.minutes_on(Job.objects.filter(unit=row))
    context = {
        "unit": row,
        "money": money,
        "fall": waterfall(money, row.expected_worth),
        "postings": postings,
        "cost_unknown": cost_unknown(row),
        "minutes": minutes,
        "an_hour": an_hour(money, minutes),
    }
    return render(request, "books/unit.html", context)

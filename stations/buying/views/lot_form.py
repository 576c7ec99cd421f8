"""Recording and correcting a lot, with what it cost."""

from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST

from stations.buying import services
from stations.buying.charges import ChargeRefused, charges_of, work_out
from stations.buying.details import LotDetails
from stations.buying.forms import LotForm, charges_form, lines_form
from stations.buying.models import Lot, Supplier
from stations.common import clock
from stations.common.refusals import Refused
from stations.people.screens import attempt

# A lot longer than this came by a manifest; its lines are not edited on one form.
MOST_LINES_ON_A_FORM = 100


def record(request):
    return _lot_form(request, None)


def correct(request, number):
    return _lot_form(request, get_object_or_404(Lot.objects.select_related("supplier"), number=number))


def _lot_form(request, lot):
    sent = request.POST or None
    form = LotForm(sent, instance=lot)
    charges = charges_form(sent, lot, _day(request, lot))
    long = lot is not None and lot.lines.count() > MOST_LINES_ON_A_FORM
    lines = None if long else lines_form(sent, lot)
    if request.method == "POST":
        # Each part is checked whatever the others say, so that everything wrong is said at once.
        parts_right = [part.is_valid() for part in (form, charges, lines) if part is not None]

        def act(data):
            seen = data.pop("version")
            said, rows = LotDetails(**data, charges=charges.charges), lines.filled if lines else None
            try:
                if lot is None:
                    return reverse("buying:lot", args=[services.record_lot(request.user, said, rows).number])
                services.correct_lot(request.user, Lot.objects.get(pk=lot.pk), seen, said, rows)
            except ChargeRefused as refusal:
                charges.refuse(refusal.index, refusal.at, refusal.message)
                raise
            return reverse("buying:lot", args=[lot.number])

        if all(parts_right) and (leads_to := attempt(request, form, act)):
            return redirect(leads_to)
        if hasattr(form, "stale"):
            form.stale += charges.differences(lot) + (lines.differences(lot) if lines else [])
    context = {
        "form": form,
        "charges": charges,
        "lines": lines,
        "lot": lot,
        "suppliers": Supplier.objects.all()[:200],
        "cost": work_out(charges_of(lot), lot.rate, lot.currency) if lot and request.method == "GET" else None,
    }
    return render(request, "buying/lot_form.html", context)


def _day(request, lot):
    """The day whose exchange rates count: as typed, or else the lot's, or today."""
    try:
        typed = parse_date(request.POST.get("bought_on", ""))
    except ValueError:
        typed = None
    return typed or (lot.bought_on if lot else clock.today())


@require_POST
def landed(request):
    """The landed cost of what stands in the form now: a partial that htmx swaps in while one types."""
    form = LotForm(request.POST)
    form.is_valid()
    charges = charges_form(request.POST, day=_day(request, None))
    cost, problem = None, ""
    rate, currency = form.cleaned_data.get("rate"), form.cleaned_data.get("currency")
    if not charges.is_valid():
        problem = next((e for row in charges.errors for errors in row.values() for e in errors), "") or "; ".join(
            charges.non_form_errors()
        )
    elif rate and currency:
        try:
            cost = work_out(charges.charges, rate, currency)
        except Refused as refusal:
            problem = refusal.message
    context = {"cost": cost, "problem": problem, "rate": rate, "currency": currency}
    return render(request, "buying/_landed.html", context)

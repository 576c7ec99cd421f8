from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST

from core.buying.odds import OUTCOMES
from core.buying.share import Basis
from stations.buying import rates, selectors, services
from stations.buying.charges import ChargeRefused, charges_of, current, work_out
from stations.buying.forms import LotForm, OneLineForm, ShareForm, charges_form, lines_form
from stations.buying.models import BidPlan, ExchangeRate, Lot, LotLine, Supplier
from stations.buying.money_bar import money_bars
from stations.buying.sharing import charge_table, current_sharing, share_lot, shares_on
from stations.common import clock
from stations.common.refusals import Refused
from stations.people import history, shop
from stations.people.editing import attempt, press

LINES_A_PAGE = 50
# A lot longer than this came by a manifest; its lines are not edited on one form.
MOST_LINES_ON_A_FORM = 100


def lots(request):
    page = Paginator(selectors.lots(), 25).get_page(request.GET.get("page"))
    return render(request, "buying/lots.html", {"page": page, "rows": selectors.with_money(list(page))})


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
            data = data | {"charges": charges.charges}
            rows = lines.filled if lines else None
            try:
                if lot is None:
                    new = [{k: v for k, v in row.items() if k != "id"} for row in rows]
                    return reverse("buying:lot", args=[services.record_lot(request.user, data, new).number])
                services.correct_lot(request.user, Lot.objects.get(pk=lot.pk), data["version"], data, rows)
            except ChargeRefused as refusal:
                charges.refuse(refusal.index, refusal.at, refusal.message)
                raise
            return reverse("buying:lot", args=[lot.number])

        if all(parts_right) and (leads_to := attempt(request, form, act)):
            return redirect(leads_to)
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


def line(request, number, pk):
    """One line of a lot on a page of its own."""
    row = get_object_or_404(LotLine.objects.select_related("lot"), pk=pk, lot__number=number)
    form = OneLineForm(request.POST or None, instance=row)
    if request.method == "POST":

        def act(data):
            services.correct_line(request.user, LotLine.objects.get(pk=pk), data)
            return reverse("buying:lot", args=[number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "buying/line_form.html", {"form": form, "line": row, "lot": row.lot})


def suppliers(request):
    page = Paginator(selectors.suppliers(), 25).get_page(request.GET.get("page"))
    return render(request, "buying/suppliers.html", {"page": page})


def supplier(request, pk):
    """What somebody claimed, and what was true."""
    row = get_object_or_404(Supplier, pk=pk)
    page = Paginator(selectors.lots().filter(supplier=row), 25).get_page(request.GET.get("page"))
    context = {
        "supplier": row,
        "claims": selectors.claims_of(row),
        "outcomes": OUTCOMES,
        "page": page,
        "rows": selectors.with_money(list(page)),
    }
    return render(request, "buying/supplier.html", context)


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


@require_POST
def fetch_rates(request):
    there = reverse("buying:rates")

    def act():
        count = rates.fetch(request.user)
        messages.success(request, f"{count} rates taken in.")
        return there

    return press(request, act, there)


def exchange_rates(request):
    """What the source published, newest first."""
    page = Paginator(ExchangeRate.objects.order_by("-on", "currency"), 50).get_page(request.GET.get("page"))
    ours = shop.settings().currency
    rows = [(rate, rates.known_rate(rate.currency, rate.on)) for rate in page] if page.paginator.count else []
    return render(request, "buying/rates.html", {"page": page, "rows": rows, "ours": ours})


def lot(request, number):
    row = get_object_or_404(selectors.lots(), number=number)
    sharing = current_sharing(row)
    every = list(row.lines.all())
    page = Paginator(every, LINES_A_PAGE).get_page(request.GET.get("page"))
    lines = list(page.object_list)
    initial = {"basis": sharing.basis if sharing else Basis.VALUE}
    form = ShareForm(request.POST or None, initial=initial, lines=lines)
    if request.method == "POST":

        def act(data):
            share_lot(request.user, row, Basis(data["basis"]), form.by_hand)
            return reverse("buying:lot", args=[row.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    held = current(row)
    result = selectors.with_money([row])[0]
    standing = selectors.standing_of(result, every)
    context = {
        "lot": row,
        "page": page,
        "lines": selectors.lines_with_shares(lines, sharing),
        "charges": held,
        "table": charge_table(sharing, lines) if sharing and sharing.posting_id else None,
        "sharing": sharing,
        "form": form,
        "money": result,
        "standing": standing,
        "bar": money_bars([standing])[row.pk],
        "units": selectors.units_by_line(row, lines),
        "plan": BidPlan.objects.filter(lot=row).first(),
        "history": history.of("lot", row.pk),
        "previews": _previews(row, every, held, page, form),
    }
    return render(request, "buying/lot.html", context)


def _previews(lot, lines, held, page, form):
    """What each basis would give each line of the page, side by side, before anything is posted."""
    shares, problems = {}, {}
    for basis in Basis:
        try:
            shares[basis.value] = shares_on(lot, lines, held, basis).shares
        except Refused as refusal:
            problems.setdefault(refusal.message, []).append(basis.value)
            shares[basis.value] = [None] * len(lines)
    if len(problems) == 1 and not any(map(any, shares.values())):
        return {"refused": next(iter(problems))}
    start = page.start_index() - 1
    rows = [
        {"line": line, "by_hand": form[f"fixed_{line.pk}"], **{b: column[start + i] for b, column in shares.items()}}
        for i, line in enumerate(page.object_list)
    ]
    return {"rows": rows, "problems": [f"By {' and '.join(on)}: {words}" for words, on in problems.items()]}

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.buying.odds import OUTCOMES
from core.buying.share import Basis
from stations.buying import selectors, services
from stations.buying.forms import LotForm, ShareForm, lines_form
from stations.buying.models import BidPlan, Lot, Supplier
from stations.people import history
from stations.people.editing import attempt
from stations.people.refusals import Refused

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
    form = LotForm(request.POST or None, instance=lot)
    long = lot is not None and lot.lines.count() > MOST_LINES_ON_A_FORM
    lines = None if long else lines_form(request.POST or None, lot)
    if request.method == "POST":
        lines_right = lines is None or lines.is_valid()

        def act(data):
            rows = lines.filled if lines else None
            if lot is None:
                new = [{k: v for k, v in row.items() if k != "id"} for row in rows]
                return reverse("buying:lot", args=[services.record_lot(request.user, data, new).number])
            services.correct_lot(request.user, Lot.objects.get(pk=lot.pk), data["version"], data, rows)
            return reverse("buying:lot", args=[lot.number])

        if form.is_valid() and lines_right and (leads_to := attempt(request, form, act)):
            return redirect(leads_to)
    context = {"form": form, "lines": lines, "lot": lot, "suppliers": Supplier.objects.all()[:200]}
    return render(request, "buying/lot_form.html", context)


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
    cost, problem = None, ""
    if form.cleaned_data.get("rate"):
        try:
            cost = services.work_out(form.cleaned_data)
        except Refused as refusal:
            problem = refusal.message
    return render(request, "buying/_landed.html", {"cost": cost, "problem": problem})


def lot(request, number):
    row = get_object_or_404(selectors.lots(), number=number)
    sharing = services.current_sharing(row)
    form = ShareForm(request.POST or None, initial={"basis": sharing.basis if sharing else Basis.VALUE})
    if request.method == "POST":

        def act(data):
            services.share_lot(request.user, row, Basis(data["basis"]))
            return reverse("buying:lot", args=[row.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    every = list(row.lines.all())
    page = Paginator(every, LINES_A_PAGE).get_page(request.GET.get("page"))
    context = {
        "lot": row,
        "page": page,
        "lines": selectors.lines_with_shares(page.object_list, sharing),
        "charges": row.charges.all(),
        "sharing": sharing,
        "form": form,
        "money": selectors.with_money([row])[0],
        "plan": BidPlan.objects.filter(lot=row).first(),
        "history": history.of("lot", row.pk),
        "previews": _previews(row, every, page),
    }
    return render(request, "buying/lot.html", context)


def _previews(lot, lines, page):
    """What each basis would give each line of the page, side by side, before anything is posted."""
    shares, problems, kept = {}, [], services.kept_pieces(lot)
    for basis in Basis:
        try:
            _, shares[basis.value], _ = services.shares_on(lot, lines, basis, kept)
        except Refused as refusal:
            problems.append(f"By {basis.value}: {refusal.message}")
            shares[basis.value] = [None] * len(lines)
    start = page.start_index() - 1
    rows = [
        {"line": line, **{basis: column[start + index] for basis, column in shares.items()}}
        for index, line in enumerate(page.object_list)
    ]
    return {"rows": rows, "problems": problems}

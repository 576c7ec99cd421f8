"""One lot, its lines and shares."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.buying.share import Basis
from stations.buying import selectors, services, taken_back
from stations.buying.charges import current
from stations.buying.forms import NotComeForm, OneLineForm, ShareForm
from stations.buying.models import BidPlan, Lot, LotLine
from stations.buying.money_bar import money_bars
from stations.buying.not_come import say_not_come
from stations.buying.sharing import charge_table, current_sharing, share_lot, shares_on
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved, sent

LINES_A_PAGE = 50


def lot_line(request, number, pk):
    """One line of a lot on a page of its own."""
    row = get_object_or_404(LotLine.objects.select_related("lot"), pk=pk, lot__number=number)
    form = OneLineForm(request.POST or None, instance=row)
    if done := saved(
        request,
        form,
        lambda _: services.correct_line(request.user, LotLine.objects.get(pk=pk), form.details),
        reverse("buying:lot", args=[number]),
    ):
        return done
    return _line_page(request, row, form)


def _line_page(request, row, form, missing=None):
    context = {"form": form, "line": row, "lot": row.lot, "missing": missing or NotComeForm(line=row)}
    return render(request, "buying/line_form.html", context)


@require_POST
def not_bought(request, number):
    row = get_object_or_404(Lot, number=number)
    there = reverse("buying:lot", args=[number])
    return press(request, lambda: taken_back.not_bought(request.user, row, sent(request, "why")), there, "why")


@require_POST
def line_not_come(request, number, pk):
    row = get_object_or_404(LotLine.objects.select_related("lot"), pk=pk, lot__number=number)
    form = NotComeForm(request.POST, line=row)

    def save(data):
        say_not_come(request.user, row, data["pieces"], data["why"])

    done = saved(request, form, save, reverse("buying:lot", args=[number]))
    return done or _line_page(request, row, OneLineForm(instance=row), form)


def lot(request, number):
    row = get_object_or_404(selectors.lots(), number=number)
    sharing = current_sharing(row)
    every = list(row.lines.all())
    page = Paginator(every, LINES_A_PAGE).get_page(request.GET.get("page"))
    lines = list(page.object_list)
    form = ShareForm(request.POST or None, lot=row, lines=lines)
    if done := saved(
        request,
        form,
        lambda data: share_lot(request.user, row, Basis(data["basis"]), form.by_hand),
        reverse("buying:lot", args=[row.number]),
    ):
        return done
    held = current(row)
    result = selectors.with_money([row])[0]
    status = selectors.lot_status(result)
    context = {
        "lot": row,
        "page": page,
        "lines": selectors.lines_with_shares(lines, sharing),
        "charges": held,
        "table": charge_table(sharing, lines) if sharing and sharing.posting_id else None,
        "sharing": sharing,
        "form": form,
        "money": result,
        "status": status,
        "bar": money_bars([status])[row.pk],
        "units": selectors.units_by_line(row, lines),
        "plan": BidPlan.objects.filter(lot=row).first(),
        "story": history.latest(HistoryEntry.Subject.LOT, row.pk, history.WHOLE),
        "previews": _previews(row, every, held, page, form),
    }
    return render(request, "buying/lot.html", context)


def _previews(lot, lines, held, page, form):
    """What each basis would give each line of the page, side by side, before anything is posted."""
    shares, problems = {}, {}
    for basis in Basis:
        try:
            told = shares_on(lot, lines, held, basis)
            shares[basis.value] = told.shares
            for note in told.instead:
                problems.setdefault(note, []).append(basis.value)
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

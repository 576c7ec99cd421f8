"""Returns: what was said beside what is complained of, who answers, how it ends, what is learned."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.money import ZERO
from stations.common.typed import whole_number
from stations.dispatch import here_again
from stations.dispatch import returns as given_back
from stations.dispatch.forms import PutRightForm, ReceivedForm, SettleForm, WentBackForm
from stations.dispatch.models import Return
from stations.people.screens import press, saved, sent
from stations.units import busy


def returns(request):
    """Every return, open ones first, and what they teach."""
    rows = Return.objects.select_related("sale__unit").order_by("settled_at", "-id")
    page = Paginator(rows, 25).get_page(request.GET.get("page"))
    return render(request, "dispatch/returns.html", {"page": page, "lessons": given_back.lessons()})


def _return(pk) -> Return:
    return get_object_or_404(
        Return.objects.select_related("sale__unit__lot", "sale__unit__line", "sale__unit__model", "sale__channel"),
        pk=pk,
    )


def one(request, pk):
    """One return."""
    form = _settle_form(_return(pk), request.POST or None)

    def save(data):
        given_back.settle(request.user, _return(pk), _chosen(data))

    if done := saved(request, form, save, reverse("dispatch:one-return", args=[pk])):
        return done
    return _page(request, _return(pk), form=form)


def _chosen(data) -> given_back.Settlement:
    return given_back.Settlement(
        refund=data["refund"],
        fee_back=data["fee_back"] or ZERO,
        take_back=data.get("take_back", False),
        cost=data["cost"] or ZERO,
        missing=data["missing"],
        lesson=data["lesson"],
        on=data["on"],
    )


@require_POST
def put_right(request, pk):
    form = PutRightForm(request.POST, back=_return(pk))

    def save(data):
        given_back.put_right(request.user, _return(pk), _chosen(data), data["why"])

    there = reverse("dispatch:one-return", args=[pk])
    return saved(request, form, save, there) or _page(request, _return(pk), right_form=form)


def _settle_form(row, data=None) -> SettleForm:
    verdict = given_back.verdict_of(row)
    begin = {"refund": verdict.refund, "take_back": row.is_here and verdict.refund > 0}
    return SettleForm(data, initial=begin | {"lesson": verdict.lesson})


def _page(request, row, **given):
    near = given_back.near_of(row)
    told = [(place, told, told in near) for place, told in enumerate(given_back.told_of(row.sale))]
    context = {
        "back": row,
        "sale": row.sale,
        "unit": row.sale.unit,
        "verdict": given_back.verdict_of(row) if row.is_open else None,
        "case": given_back.case_of(row),
        "told": sorted(told, key=lambda each: not each[2]),
        "refunds": row.refunds.all(),
        "form": _settle_form(row),
        "right_form": None if row.is_open else PutRightForm(back=row),
        "received_form": ReceivedForm(prefix="received"),
        "went_form": WentBackForm(prefix="went"),
        "mending": here_again.mending_of(row) if row.is_open else row.mending,
        "going_on": busy.what(row.sale.unit) if row.is_here else [],
        **given,
    }
    return render(request, "dispatch/return.html", context)


@require_POST
def about(request, pk):
    row, place = _return(pk), sent(request, "about")
    there = reverse("dispatch:one-return", args=[pk])
    return press(request, lambda: given_back.is_about(request.user, row, whole_number(place)), there)


@require_POST
def not_asked(request, pk):
    row = _return(pk)
    there = reverse("dispatch:sale", args=[row.sale_id])
    return press(request, lambda: given_back.not_asked(request.user, row, sent(request, "why")) or there, there, "why")


@require_POST
def receive(request, pk):
    form = ReceivedForm(request.POST, prefix="received")

    def save(data):
        here_again.receive(request.user, _return(pk), data["on"])

    there = reverse("dispatch:one-return", args=[pk])
    return saved(request, form, save, there) or _page(request, _return(pk), received_form=form)


@require_POST
def went_back(request, pk):
    form = WentBackForm(request.POST, prefix="went")

    def save(data):
        here_again.went_back(request.user, _return(pk), data["by"], data["on"])

    there = reverse("dispatch:one-return", args=[pk])
    return saved(request, form, save, there) or _page(request, _return(pk), went_form=form)


_TAKEN_BACK = {"received": here_again.not_received, "went_back": here_again.still_here}


@require_POST
def taken_back(request, pk, what):
    """Something that was said of it by mistake."""
    there = reverse("dispatch:one-return", args=[pk])
    return press(request, lambda: _TAKEN_BACK[what](request.user, _return(pk), sent(request, "why")), there, "why")

"""What is missing or wrong, and what it costs."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.paging import first_of
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.people.screens import press, saved, sent
from stations.stock.models import PartOffer
from stations.units import contents, offers, selectors
from stations.units.forms import OfferForm, WayForm
from stations.units.models import Content, WantedPart
from stations.units.views.units import PER_PAGE


def wanted(request):
    """What is missing from units that are here, with what a replacement costs about."""
    rows = selectors.wanted().select_related("unit__lot", "unit__model")
    page = Paginator(rows, PER_PAGE).get_page(request.GET.get("page"))
    coming = offers.on_its_way(page)
    parts = Paginator(selectors.wanted_parts(), PER_PAGE).get_page(request.GET.get("parts"))
    due = offers.on_its_way(parts)
    total, unsaid = selectors.wanted_total()
    context = {
        "page": page,
        "total": total,
        "unsaid": unsaid,
        "rows": [(row, coming.get(row.pk)) for row in page],
        "without": Paginator(selectors.wanted(done_without=True), PER_PAGE).get_page(request.GET.get("without")),
        "parts": parts,
        "part_rows": [(row, due.get(row.pk)) for row in parts],
    }
    return render(request, "units/wanted.html", context)


@require_POST
def drop_want(request, pk):
    """A part that is not wanted after all."""
    row = get_object_or_404(WantedPart, pk=pk)
    return press(request, lambda: offers.drop_want(request.user, row), reverse("units:wanted"))


@require_POST
def estimate(request, pk):
    content = get_object_or_404(Content, pk=pk)
    page, was = whole_number(request.POST.get("page", "")), request.POST.get("was")
    back = reverse("units:wanted") + (f"?page={page}" if page is not None else "")

    def act():
        typed = selectors.amount_in(sent(request, "estimate"))
        contents.estimate(request.user, content, typed, selectors.amount_in(was) if was is not None else None)
        if request.POST.get("done_without"):
            contents.do_without(request.user, content)

    return press(request, act, back, "estimate")


@require_POST
def want_after_all(request, pk):
    content = get_object_or_404(Content, pk=pk)
    return press(request, lambda: contents.want_after_all(request.user, content), reverse("units:wanted"))


def cheapest_way(request):
    """Which offers to take from whom; the form notes one more."""
    there = offers.wants()
    wants = [(name, offers.how_many(rows)) for name, rows in there.items()]
    wants += [(name, 0) for name in offers.with_sheets() if name not in there]
    form = OfferForm(request.POST or None, wants=wants)

    def note(data):
        offers.note_offer(request.user, offers.Quote(**data))

    if done := saved(request, form, note, reverse("units:cheapest-way")):
        return done
    way = WayForm(request.GET if {"budget", "days"} & set(request.GET) else None)
    asked = way.cleaned_data if way.is_bound and way.is_valid() else {}
    best = offers.best_way(asked.get("budget"), asked.get("days"))
    rows = first_of(PartOffer.objects.select_related("seller", "seen_by"), 200)
    doubts = offers.doubts_of(best) if best else []
    context = {"form": form, "way": way, "best": best, "rows": rows, "wants": wants, "doubts": doubts}
    return render(request, "units/cheapest_way.html", context)


@require_POST
def order_it(request):
    """Order what the cheapest way says."""
    way = WayForm(request.POST)
    there = reverse("units:cheapest-way")

    def act():
        asked = way.cleaned_data if way.is_valid() else {}
        if not sent(request, "sure"):
            best = offers.best_way(asked.get("budget"), asked.get("days"))
            if best and (doubts := offers.doubts_of(best)):
                raise Refused(f"{doubts[0]} Look at the numbers, then order it all the same or leave it.")
        made = offers.order_best(request.user, sent(request, "seen"), asked.get("budget"), asked.get("days"))
        messages.success(request, f"Ordered: {', '.join(map(str, made))}.")
        return reverse("stock:orders")

    return press(request, act, there)


@require_POST
def forget_offer(request, pk):
    row = get_object_or_404(PartOffer, pk=pk)
    return press(request, lambda: offers.forget_offer(request.user, row), reverse("units:cheapest-way"))

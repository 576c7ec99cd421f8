"""What an upgrade is worth: the best set for a buyer, other ways for a missing thing, what buyers pay for."""

from dataclasses import asdict

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.workshop.upgrades.best import NO_LIMITS
from core.workshop.upgrades.instead import TREATED
from stations.catalogue.models import PartSheet
from stations.common.refusals import Refused
from stations.people.screens import press, saved, sent
from stations.units.models import Content, Unit
from stations.workshop import buyers, upgrades
from stations.workshop import instead as other_ways
from stations.workshop.forms_upgrades import BuyerForm, SetForm
from stations.workshop.upgrade_drawing import scale_of, side_of

PER_PAGE = 25
# Over so many upgrades the set and the next few are shown, the rest on asking.
FEW, NEXT = 8, 3
# So many ways stand side by side.
MOST_ABREAST = 5


def best_set(request, number):
    """The best set of upgrades for who pays most, or for who is chosen; asked for again when something changes."""
    unit = _unit(number)
    form = SetForm(request.GET or None, buyers=buyers.buyers().values())
    template = "workshop/_upgrades.html" if request.headers.get("HX-Request") else "workshop/upgrades.html"
    if form.is_bound and not form.is_valid():
        return render(request, template, {"unit": unit, "form": form})
    return render(request, template, {"unit": unit, "form": form, **_context(request, unit, form)})


def _context(request, unit: Unit, form: SetForm) -> dict:
    found, musts = _found(unit, form)
    every = "all" in request.GET
    shown = found.rows
    if len(shown) > FEW and not every:
        shown = shown[: max(FEW, len(found.best.chosen) + NEXT) if found.best else FEW]
    page = Paginator(shown, PER_PAGE).get_page(request.GET.get("page")) if every else None
    best = found.best
    each = found.worth.in_turn(best) if best and found.worth else []
    return {
        "found": found,
        "best": best,
        "musts": musts,
        "rows": page or shown,
        "page": page,
        "folded": len(found.rows) - len(shown),
        "scale": scale_of(found.rows),
        "side": side_of(best, each, found.limits.budget) if best and best.chosen else None,
        "kept": upgrades.kept_for(unit),
        "asked_for": form.is_bound and bool(form.cleaned_data["buyer"]),
        "asked": request.GET.urlencode() if form.is_bound else "",
    }


def _found(unit: Unit, form: SetForm):
    if not form.is_bound:
        return upgrades.found_for(unit, "", NO_LIMITS), []
    data = form.cleaned_data
    return upgrades.found_for(unit, data["buyer"], form.limits, data["musts"]), data["musts"]


@require_POST
def plan(request, number):
    """Jobs, reservations and wanted entries of the set that was shown; or the set kept as a what-if."""
    unit = _unit(number)
    there = f"{reverse('workshop:upgrades', args=[number])}?{sent(request, 'asked')[:600]}"
    form = SetForm(request.POST, buyers=buyers.buyers().values())

    def act():
        if not form.is_valid():
            raise Refused("Look at the buyer, the budget and the minutes again.")
        found, musts = _found(unit, form)
        if "keep" in request.POST:
            upgrades.keep_what_if(request.user, found, musts)
            messages.success(request, "Kept with the machine.")
            return there
        jobs = upgrades.plan_set(request.user, unit, found, request.POST.getlist("key"), musts)
        messages.success(request, f"{len(jobs)} job{'s' if len(jobs) > 1 else ''} planned; parts are held or wanted.")
        return reverse("workshop:unit", args=[number])

    return press(request, act, there)


def instead(request, number, pk):
    """Other ways to have a missing thing again, side by side."""
    unit = _unit(number)
    content = get_object_or_404(Content, pk=pk, unit=unit)
    ways, price, there = other_ways.instead_of(unit, content)
    context = {
        "unit": unit,
        "content": content,
        "ways": ways[:MOST_ABREAST],
        "more": ways[MOST_ABREAST:],
        "price": price,
        "buyers": there,
        "approaches": TREATED,
    }
    return render(request, "workshop/instead.html", context)


def part_by_name(request, number):
    """The page of a part on this unit, by the name drawers call it."""
    sheet = get_object_or_404(PartSheet, name=request.GET.get("name", "")[:80])
    return redirect("workshop:fit-part", number, sheet.pk)


def all_buyers(request):
    """Who buys such machines, and what each pays for."""
    return render(request, "workshop/buyers.html", {"buyers": buyers.buyers().values(), "dropped": buyers.dropped()})


def buyer(request, code=""):
    """What one of them pays for; without a code a new one."""
    try:
        typed, version = buyers.as_typed(code) if code else (buyers.BuyerTyped("", ""), 0)
    except KeyError:
        raise Http404 from None
    form = BuyerForm(request.POST or None, initial={**asdict(typed), "version": version})
    there = reverse("workshop:buyers")

    def keep(data):
        seen = data.pop("version") or 0
        return buyers.keep_buyer(request.user, code, buyers.BuyerTyped(**data), seen) and there

    if done := saved(request, form, keep):
        return done
    return render(request, "workshop/buyer.html", {"form": form, "code": code, "name": typed.name})


@require_POST
def drop_buyer(request, code):
    def act():
        try:
            buyers.drop_buyer(request.user, code, sent(request, "dropped") != "no")
        except KeyError:
            raise Http404 from None

    return press(request, act, reverse("workshop:buyers"))


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "line", "model"), number=number)

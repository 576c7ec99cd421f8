"""Does it fit: a part on a unit, what fits at all, memory slot by slot, from plug to plug."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.bottleneck import PURPOSES, compared, sentence, slot_rates
from core.catalogue.fit.ends import Wanted, wanted
from core.catalogue.fit.paths import Rates, Wish
from core.catalogue.fit.rules import RULES
from core.catalogue.fit.schema import write_size
from core.machine.names import as_seen
from core.machine.quantities import Mark, QuantityError, read_number
from stations.catalogue import fit_sheets
from stations.catalogue.fit_drawing import draw, memory_of
from stations.catalogue.models import PartSheet
from stations.people.screens import press, sent
from stations.stock.models import StockItem
from stations.units import fitting as units
from stations.units.models import Unit
from stations.workshop import fitting
from stations.workshop.which import which_of_mine

PER_PAGE = 25
MOST_JUDGED = 1000
MOST_RULES = 12  # so many are shown all; beyond, what simply fits folds


def what_fits(request, number):
    """Parts with a sheet, and what the rules say of each on this unit; and what limits it for a use."""
    unit = _unit(number)
    machine = units.machine_of(unit)
    words = request.GET.get("q", "").strip()[:80]
    show = request.GET.get("show", "")
    rows = PartSheet.objects.filter(converts=False)
    rows = rows.filter(name__icontains=words) if words else rows
    if show in set(Answer):
        some = list(rows[:MOST_JUDGED])
        judged = [
            pair for pair in zip(some, units.verdicts_of(machine, unit, some), strict=True) if pair[1].answer == show
        ]
        page = Paginator(judged, PER_PAGE).get_page(request.GET.get("page"))
        found = list(page)
    else:
        page = Paginator(rows, PER_PAGE).get_page(request.GET.get("page"))
        found = list(zip(page, units.verdicts_of(machine, unit, list(page)), strict=True))
    free = _free([sheet.name for sheet, _ in found])
    purpose = _purpose(request)
    limits = compared(machine, purpose)
    context = {
        "unit": unit,
        "page": page,
        "rows": [(sheet, verdict, free.get(as_seen(sheet.name))) for sheet, verdict in found],
        "words": words,
        "show": show,
        "answers": list(Answer),
        "drawn": draw(machine),
        "purposes": PURPOSES,
        "purpose": purpose,
        "limits": limits,
        "limited": sentence(limits),
        "slot_rates": slot_rates(machine),
        "clashes": units.clashes_in(machine),
        "whole": machine.whole,
        "own": units.own_groups(unit),
        **dict(zip(("moved", "impossible"), fitting.jumpers_to_move(machine), strict=True)),
        "sockets": [(one.name, one.name.lower() in machine.stretched) for one in machine.offers.sockets or ()],
    }
    return render(request, "workshop/what_fits.html", context)


def which(request, number):
    """Which of mine does most for it, for a use."""
    unit = _unit(number)
    machine, purpose = units.machine_of(unit), _purpose(request)
    page = Paginator(which_of_mine(unit, machine, purpose), PER_PAGE).get_page(request.GET.get("page"))
    context = {"unit": unit, "page": page, "purposes": PURPOSES, "purpose": purpose}
    return render(request, "workshop/which.html", {**context, "limited": sentence(compared(machine, purpose))})


def _purpose(request):
    return next((one for one in PURPOSES if one.name == request.GET.get("use")), PURPOSES[0])


def _sheets_by_name(names: list[str]) -> dict[str, int]:
    """The keys of the sheets of these parts, by the names as they were given: one query."""
    sheets = fit_sheets.sheets_of(names)
    return {name: sheets[as_seen(name)].pk for name in names if as_seen(name) in sheets}


def _free(names: list[str]) -> dict[str, StockItem]:
    """Of these parts what is free in a drawer: one query."""
    rows = StockItem.objects.filter(name__in=names).exclude(condition="faulty")
    return {as_seen(item.name): item for item in rows if item.free >= 1}


def fit(request, number, pk):
    """One part on this unit: the verdict, every rule, the drawing, ways from plug to plug, a proposed setting."""
    unit, sheet = _unit(number), get_object_or_404(PartSheet, pk=pk)
    return _page(request, unit, sheet)


def _page(request, unit: Unit, sheet: PartSheet, **more):
    machine = units.machine_of(unit)
    needs, verdict = fit_sheets.needs_of(sheet), units.verdict_of(machine, unit, sheet)
    wish = Wish(request.GET["wish"]) if request.GET.get("wish") in set(Wish) else Wish.CHEAPEST
    moved, impossible = fitting.jumpers_to_move(machine, sheet) if needs.uses else ([], "")
    chains = [(one, one.ways(machine.ways, wish)) for one in wanted(machine, needs)][:6]
    order = sorted(verdict.findings, key=lambda finding: -finding.answer.rank)
    folded = [finding for finding in order if finding.answer is Answer.FITS] if len(order) > MOST_RULES else []
    context = {
        "unit": unit,
        "sheet": sheet,
        "verdict": verdict,
        "asks": [(ask, verdict.settled_by(ask)) for ask in verdict.asks],
        "order": [finding for finding in order if finding not in folded],
        "folded": folded,
        "drawn": draw(machine, needs, verdict),
        "item": fitting.in_stock(sheet),
        "moved": moved,
        "impossible": impossible,
        "chains": [(one, ways) for one, ways in chains if ways],
        "wish": wish,
        "wishes": list(Wish),
        "sources": {rule.name: rule.source for rule in RULES.values()},
        "fitted_sheets": _sheets_by_name(_fitted(verdict)),
        **more,
    }
    return render(request, "workshop/fit.html", context)


def _fitted(verdict) -> list[str]:
    return [ask.of for ask in verdict.asks if ask.of]


@require_POST
def answer(request, number, pk):
    """One thing that was not known."""
    unit, sheet = _unit(number), get_object_or_404(PartSheet, pk=pk)

    def act():
        verdict = units.verdict_of(units.machine_of(unit), unit, sheet)
        own = sent(request, "whose") == "unit"
        ask = fitting.answer(request.user, unit, sheet, verdict, sent(request, "ask"), sent(request, "answer"), own)
        messages.success(request, f"Remembered: {ask.name} {ask.key}.")

    return press(request, act, _there(number, pk), "answer")


@require_POST
def reserve(request, number, pk):
    unit, sheet = _unit(number), get_object_or_404(PartSheet, pk=pk)

    def act():
        job = fitting.reserve_for(request.user, unit, sheet)
        return reverse("workshop:job", args=[job.pk])

    return press(request, act, _there(number, pk))


@require_POST
def take_settings(request, number, pk=None):
    """The proposed setting of all that is in it, and of a part that is tried."""
    unit, sheet = _unit(number), get_object_or_404(PartSheet, pk=pk) if pk else None

    def act():
        moved = fitting.take_settings(request.user, unit, sheet)
        messages.success(request, f"{len(moved)} written into the sheet of settings.")
        return reverse("workshop:settings", args=[number])

    return press(request, act, _there(number, pk) if pk else reverse("workshop:what-fits", args=[number]))


@require_POST
def whole(request, number):
    """All that is in it is written down, or not."""
    unit = _unit(number)
    there = sent(request, "there")
    back = there if there.startswith(f"/workshop/W-{number}/") else reverse("workshop:what-fits", args=[number])
    return press(request, lambda: units.say_whole(request.user, unit, sent(request, "whole") == "yes"), back)


@require_POST
def as_its_model(request, number):
    """What was said of this very unit counts no more."""
    unit = _unit(number)
    there = reverse("workshop:what-fits", args=[number])
    return press(request, lambda: units.as_its_model(request.user, unit, sent(request, "group")), there)


@require_POST
def stretched(request, number):
    """A board with thicker pins has sat in a socket, or not."""
    unit = _unit(number)

    def act():
        units.say_stretched(request.user, unit, sent(request, "socket"), sent(request, "stretched") == "yes")

    return press(request, act, reverse("workshop:what-fits", args=[number]))


def memory(request, number):
    """Memory slot by slot, and which module is bad. The address carries what was tried: `found` is p and f in turn."""
    unit = _unit(number)
    names = [name for name in request.GET.getlist("with") if name][:16]
    known = {sheet.pk: sheet for sheet in PartSheet.objects.filter(pk__in=[n for n in names if n.isdecimal()])}
    more = [known[int(name)] for name in names if name.isdecimal() and int(name) in known]
    plan = fitting.memory_plan(unit, more)
    trail = "".join(letter for letter in request.GET.get("found", "") if letter in "pf")[:16]
    node = plan.search
    for letter in trail:
        node = (node.passes if letter == "p" else node.fails) if node and node.starts else node
    sockets = [socket.name for socket in plan.in_order]
    context = {
        "unit": unit,
        "plan": plan,
        "size": write_size(plan.filling.size) if plan.filling else "",
        "places": [(name, plan.filling.places.get(name, "")) for name in sockets] if plan.filling else [],
        "more": more,
        "node": node,
        "put_in": list(zip(node.put_in, sockets, strict=False)) if node else [],
        "trail": trail,
        "names": {stick.key: stick.at or stick.module.name for stick in plan.sticks},
        "before": memory_of(plan.machine),
        "after": memory_of(plan.machine, plan.filling.places) if plan.filling else None,
        "choices": PartSheet.objects.filter(needs__has_key="modules")[:60],
    }
    return render(request, "workshop/memory.html", context)


def ways(request):
    """From one plug to another, through converters."""
    start, goal = (request.GET.get(name, "").strip()[:80] for name in ("from", "to"))
    wish = Wish(request.GET["wish"]) if request.GET.get("wish") in set(Wish) else Wish.CHEAPEST
    wrong: dict[str, str] = {}
    rates = {name: _rate(request.GET.get(name, ""), name, wrong) for name in ("line", "field")}
    every = units.ways()
    asked = Wanted(start, goal, Rates(**rates))
    found = asked.ways(every, wish) if start and goal and not wrong else []
    blind = every.several(start, goal, wish) if start and goal and not found and any(rates.values()) else []
    context = {
        "start": start,
        "goal": goal,
        "wish": wish,
        "wishes": list(Wish),
        "rates": {name: request.GET.get(name, "")[:12] for name in ("line", "field")},
        "wrong": wrong,
        "one": asked,
        "found": found,
        "blind": bool(blind),
        "ends": sorted({end for one in every.converters for end in (one.way.goes_in, one.way.comes_out) if end}),
    }
    return render(request, "workshop/ways.html", context)


def _rate(typed: str, name: str, wrong: dict[str, str]):
    if not typed.strip():
        return None
    try:
        value = read_number(typed[:12], Mark.DECIMAL)
        if not 0 < value < 1000:
            raise QuantityError("From above 0 to 1000.")
    except QuantityError as problem:
        wrong[name] = str(problem)
        return None
    return value


def _there(number, pk) -> str:
    return reverse("workshop:fit-part", args=[number, pk])


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "line", "model"), number=number)

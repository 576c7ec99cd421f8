"""What is inside a machine: its parts, each with its place, cost, data and record; and parts by themselves."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.bench.part_checks import checks_for, figure_words
from core.safety import said
from stations.bench import power
from stations.catalogue.weaknesses import Thing, known_to_fail
from stations.common.paging import first_of
from stations.common.spreadsheet import csv_answer
from stations.ledger.models import Account
from stations.ledger.selectors import balance, balances
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved, sent
from stations.stock.models import StockItem
from stations.stock.services import Sort
from stations.units import loose_parts, part_slips, part_tests, parts
from stations.units.models import Part, Unit
from stations.workshop import knowledge, sanitising
from stations.workshop.forms_parts import (
    BuyForm,
    FoundForm,
    MoveForm,
    NotSanitisedForm,
    PartForm,
    ReasonForm,
    TestForm,
    VerifiedForm,
    WhereForm,
    WithOthersForm,
)
from stations.workshop.forms_storage import SanitiseForm
from stations.workshop.side_by_side import whole_worth

PER_PAGE = 40


def inside(request, number):
    """The parts in a machine; the form records one that was found in it."""
    row = get_object_or_404(Unit.objects.select_related("lot", "line", "model"), number=number)
    form = FoundForm(request.POST or None, unit=row)

    def save(data):
        parts.record_part(request.user, form.place, form.described)

    if done := saved(request, form, save, reverse("workshop:inside", args=[number])):
        return done
    rows = row.parts.select_related("content", "came_from")
    context = {
        "unit": row,
        "form": form,
        "page": Paginator(rows, PER_PAGE).get_page(request.GET.get("page")),
        "elsewhere": Part.objects.filter(came_from=row, original=True, gone_at=None).exclude(unit=row),
        "went": first_of(row.parts_out.select_related("part", "to_unit", "who").order_by("-id"), 40),
        "charged": power.charged_words(row),
    }
    return render(request, "workshop/inside.html", context)


def loose(request):
    """Single parts that lie in drawers, with what each cost."""
    rows = loose_parts.loose()
    if words := request.GET.get("q", "").strip()[:80]:
        rows = rows.filter(name__icontains=words) | rows.filter(serial__iexact=words)
    page = Paginator(rows, PER_PAGE).get_page(request.GET.get("page"))
    own = balances(Account.PART, [part.pk for part in page])
    found = [(part, own[part.pk]) for part in page]
    return render(request, "workshop/loose_parts.html", {"page": page, "rows": found, "words": words})


def loose_csv(request):
    """All of them, as a spreadsheet takes them."""
    return csv_answer("single-parts.csv", loose_parts.FILE_HEAD, loose_parts.file_rows())


def buy(request):
    """A part that was bought by itself."""
    form = BuyForm(request.POST or None)

    def save(data):
        return _there(parts.buy_part(request.user, form.described, data["paid"], form.drawer, data["on"]).number)

    if done := saved(request, form, save):
        return done
    return render(
        request, "workshop/part_form.html", {"form": form, "title": "Buy a single part", "verb": "Into the drawer"}
    )


def single_out(request, pk):
    """A record of its own for one piece of a drawer."""
    item = get_object_or_404(StockItem, pk=pk)
    start = {"name": item.name, "condition": item.condition, "keeps_data": item.keeps_data or None}
    form = PartForm(request.POST or None, in_unit=False, initial={**start, "drawer": item.drawer})

    def save(data):
        return _there(parts.single_out(request.user, item, form.described).number)

    if done := saved(request, form, save):
        return done
    title = f"A record for one {item.name}"
    return render(
        request, "workshop/part_form.html", {"form": form, "title": title, "verb": "Give it a record", "item": item}
    )


def part(request, number):
    return part_page(request, _part(number))


def part_page(request, row, **given):
    figures = row.tests.exclude(figure="").values_list("figure", "should_give").first()
    start = {"figure": figures[0], "should_give": figures[1]} if figures else {}
    thing = Thing(row.name, row.serial, row.revision)
    wiped = list(row.sanitisings.order_by("-id")[:6])
    void = sanitising.withdrawn(wiped)
    context = {
        "part": row,
        "unit": row.unit,
        "cost": parts.fitted_cost(row) if row.unit_id else balance(Account.PART, row.pk),
        "pictures": knowledge.pictures_of(row),
        "weak": known_to_fail(row.unit.model_id if row.unit else None, [thing]),
        "tests": [(test, _figure(test)) for test in row.tests.select_related("fixture", "in_unit", "who")],
        "may_be_back": part_slips.may_be_back(row),
        "only_bought": part_slips.only_bought(row),
        "moves": row.moves.select_related("who").order_by("-id"),
        "story": history.latest(HistoryEntry.Subject.PART, row.pk),
        "change": PartForm(instance=row, in_unit=bool(row.unit_id)),
        "test": TestForm(part=row, initial=start),
        "where": WhereForm(),
        "others": WithOthersForm(initial={"name": row.name, "drawer": row.drawer}),
        "gone": ReasonForm(),
        "verified": VerifiedForm(),
        "wipe": SanitiseForm(initial={"what": row.name, "serial": row.serial}),
        "sanitised": [(one, void.get(one.pk)) for one in wiped],
        "unsanitised": NotSanitisedForm(),
        "test_cautions": said({hazard for check in checks_for(row.is_what) for hazard in check.hazards}),
        **given,
    }
    return render(request, "workshop/part.html", context)


def _figure(test) -> str:
    if test.measured is None or not test.should_give:
        return ""
    return figure_words(test.measured, test.should_give)


def _part(number) -> Part:
    rows = Part.objects.select_related("unit__lot", "unit__model", "unit__line", "came_from", "content")
    return get_object_or_404(rows, number=number)


def _there(number) -> str:
    return reverse("workshop:part", args=[number])


@require_POST
def change(request, number):
    row = _part(number)
    form = PartForm(request.POST, instance=row, in_unit=bool(row.unit_id))

    def save(data):
        parts.change_part(request.user, _part(number), data["version"], form.described, form.slot, form.drawer)

    return saved(request, form, save, _there(number)) or part_page(request, _part(number), change=form)


def move(request, number):
    """Where it goes is said first; then what goes along: its cost, its data, its line on both lists."""
    row = _part(number)
    asked = WhereForm(request.GET)
    if not asked.is_valid():
        return part_page(request, row, where=asked)
    to = asked.cleaned_data["to"]
    shared = bool(row.unit and parts.fitted_cost(row) is None and parts.say_worth_first([row.unit]))
    start = {
        "worth": row.worth,
        "whole": whole_worth(row.unit) if row.unit else None,
        "drawer": row.drawer,
        "slot": row.slot,
    }
    form = MoveForm(request.POST or None, part=row, to=to, shared=shared, initial=start)

    def save(data):
        if data.get("keeps") is not None:
            parts.say_data(request.user, _part(number), data["keeps"])
        parts.move_part(request.user, _part(number), form.place, data["why"], form.worths, data["seen"])
        return reverse("workshop:inside", args=[to.number]) if to else _there(number)

    if done := saved(request, form, save):
        return done
    context = {
        "part": row,
        "to": to,
        "form": form,
        "shared": shared,
        "cost": None if shared else parts.fitted_cost(row) if row.unit else balance(Account.PART, row.pk),
        "charged": [(unit, words) for unit in (row.unit, to) if unit and (words := power.charged_words(unit))],
    }
    return render(request, "workshop/move.html", context)


@require_POST
def test(request, number):
    row = _part(number)
    form = TestForm(request.POST, part=row)

    def save(data):
        tested = part_tests.test_part(request.user, _part(number), form.seen)
        for words in tested.rested:
            messages.warning(request, f"Look again: {words}.")

    return saved(request, form, save, _there(number)) or part_page(request, _part(number), test=form)


@require_POST
def with_others(request, number):
    row = _part(number)
    form = WithOthersForm(request.POST)

    def save(data):
        item = parts.put_with_others(request.user, _part(number), Sort(data["name"], row.condition, data["drawer"]))
        return reverse("stock:item", args=[item.pk])

    return saved(request, form, save) or part_page(request, _part(number), others=form)


@require_POST
def not_gone(request, number):
    act = part_slips.not_gone
    return press(request, lambda: act(request.user, _part(number), sent(request, "why")), _there(number), "why")


@require_POST
def not_bought(request, number):
    act = part_slips.not_bought
    return press(request, lambda: act(request.user, _part(number), sent(request, "why")), _there(number), "why")


@require_POST
def gone(request, number):
    form = ReasonForm(request.POST)

    def save(data):
        parts.part_gone(request.user, _part(number), data["reason"])

    return saved(request, form, save, _there(number)) or part_page(request, _part(number), gone=form)


@require_POST
def sanitise(request, number):
    form = VerifiedForm(request.POST)

    def save(data):
        parts.sanitise_part(request.user, _part(number), data["verified"])

    return saved(request, form, save, _there(number)) or part_page(request, _part(number), verified=form)


@require_POST
def not_sanitised(request, number):
    """It was another one, or data are there still."""
    form = NotSanitisedForm(request.POST)

    def save(data):
        parts.not_sanitised(request.user, _part(number), data["why"])

    return saved(request, form, save, _there(number)) or part_page(request, _part(number), unsanitised=form)


@require_POST
def certified(request, number):
    """A part by itself was sanitised, with a certificate."""
    form = SanitiseForm(request.POST)

    def save(data):
        sanitising.sanitise_alone(request.user, _part(number), sanitising.Wiped(**data))

    return saved(request, form, save, _there(number)) or part_page(request, _part(number), wipe=form)


@require_POST
def say_no_doubt(request, number):
    """What spoke against the print on it was looked at, and it is what it says."""
    return press(request, lambda: parts.no_doubt(request.user, _part(number)), _there(number))

"""Taking a machine apart and closing it: the page with the step in hand, and its presses."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.catalogue.assemblies import AssemblyError
from stations.common.refusals import Refused
from stations.people.screens import press, saved, sent
from stations.units.models import Unit
from stations.workshop import in_hand, openings, strip_downs, strip_page, tray_sheet
from stations.workshop.forms_strip import OddForm, UnlistedForm, targets_of
from stations.workshop.models import Opening


def strip(request, number, odd=None, unlisted=None):
    """The machine that is open with its step in hand; a closed one with the choice of what to reach."""
    unit = get_object_or_404(Unit.objects.select_related("lot", "model__strip_down"), number=number)
    opening = Opening.objects.filter(open_for=unit).select_related("unit__model__strip_down", "opened_by").first()
    if opening is None:
        return _closed(request, unit)
    page = strip_page.strip_page(opening, request.GET.getlist("unfold"))
    context = {
        "unit": unit,
        "page": page,
        "opening": opening,
        "one": reverse("workshop:strip-edit-one", args=[number]),
        "odd": odd or OddForm(hand=page.hand),
        "unlisted": unlisted or UnlistedForm(strip=page.strip),
    }
    return render(request, "workshop/strip.html", context)


def _closed(request, unit):
    machine = strip_downs.strip_down_of(unit)
    chosen = [name for name in request.GET.getlist("reach") if name in machine.assemblies]
    context = {"unit": unit, "machine": machine, "chosen": chosen, "layers": targets_of(unit, machine)}
    context["one"] = reverse("workshop:strip-edit-one", args=[unit.number])
    if len(machine):
        context["desk"], context["phone"], context["way"] = strip_page.preview(unit, machine, chosen)
    return render(request, "workshop/strip_closed.html", context)


def _there(number):
    return reverse("workshop:strip", args=[number])


def _opening(number):
    return get_object_or_404(Opening.objects.select_related("unit__model"), open_for__number=number)


@require_POST
def open_up(request, number):
    unit = get_object_or_404(Unit, number=number)
    return press(request, lambda: openings.open_up(request.user, unit, request.POST.getlist("reach")), _there(number))


@require_POST
def thing(request, number):
    """The very next thing is done."""
    mark = sent(request, "mark")
    return press(request, lambda: openings.do_thing(request.user, _opening(number), mark), _there(number))


@require_POST
def cautions(request, number):
    return press(request, lambda: openings.read_cautions(request.user, _opening(number)), _there(number))


@require_POST
def back_one(request, number):
    mark = sent(request, "mark")
    return press(request, lambda: openings.back_one(request.user, _opening(number), mark), _there(number))


@require_POST
def turn(request, number):
    back = sent(request, "way") == "back"
    return press(request, lambda: openings.turn(request.user, _opening(number), back), _there(number))


@require_POST
def also(request, number):
    name = sent(request, "name")
    return press(request, lambda: openings.reach_also(request.user, _opening(number), name), _there(number))


@require_POST
def tested(request, number):
    name = sent(request, "name")
    return press(request, lambda: openings.pass_test(request.user, _opening(number), name), _there(number))


@require_POST
def anyway(request, number):
    name, reason = sent(request, "name"), sent(request, "reason")
    return press(
        request, lambda: openings.close_anyway(request.user, _opening(number), name, reason), _there(number), "reason"
    )


@require_POST
def odd(request, number):
    """What is short, odd or broken at the assembly in hand."""
    opening = _opening(number)
    machine = strip_downs.strip_down_of(opening.unit)
    rows = in_hand.rows_of(opening, machine)
    form = OddForm(request.POST, hand=in_hand.in_hand(machine, opening, rows))

    def save(data):
        openings.note_odd(request.user, opening, form.name, **form.given)

    return saved(request, form, save, _there(number)) or strip(request, number, odd=form)


@require_POST
def note(request, number):
    name, words = sent(request, "name"), sent(request, "note")
    return press(
        request, lambda: openings.keep_note(request.user, _opening(number), name, words), _there(number), "note"
    )


@require_POST
def photo(request, number):
    name, file = sent(request, "name"), request.FILES.get("photo")

    def act():
        if file is None:
            raise Refused("Choose a picture.", "photo")
        openings.photograph(request.user, _opening(number), name, file)

    return press(request, act, _there(number))


@require_POST
def unlisted(request, number):
    """Build as one goes: something more comes off."""
    opening = _opening(number)
    machine = strip_downs.strip_down_of(opening.unit)
    off = [name for name, row in in_hand.rows_of(opening, machine).items() if row.is_off]
    form = UnlistedForm(request.POST, strip=machine)

    def save(data):
        try:
            assembly = form.assembly(off)
        except AssemblyError as problem:
            raise Refused(str(problem), problem.at) from problem
        openings.take_off_unlisted(request.user, opening, assembly)

    return saved(request, form, save, _there(number)) or strip(request, number, unlisted=form)


def sheet(request, number):
    """The tray sheet as PDF, to lay on the bench."""
    unit = get_object_or_404(Unit.objects.select_related("model"), number=number)
    opening = Opening.objects.filter(open_for=unit).select_related("unit__model").first()
    if opening is None:
        return redirect(_there(number))
    answer = HttpResponse(tray_sheet.pdf(opening), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{unit.tag}-trays.pdf"'
    return answer

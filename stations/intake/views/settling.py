"""What ends or changes the course of a unit, each said first on a page of its own."""

from django.contrib import messages
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.flow.stage import GONE
from core.safety import OF_FINDING, said
from stations.intake import receiving, services, settling
from stations.intake.forms import (
    CameBackForm,
    GiveBackForm,
    ParkForm,
    ReasonForm,
    SanitiseForm,
    SettleForm,
    SlipForm,
    WriteOffForm,
)
from stations.people.screens import attempt, press, saved
from stations.units import dealt_with, findings
from stations.units.models import Finding, Unit
from stations.units.slips import on_record, take_off

FORMS = {
    "park": ParkForm,
    "un-receive": ReasonForm,
    "write-off": WriteOffForm,
    "take-back-write-off": ReasonForm,
    "give-back": GiveBackForm,
    "came-back": CameBackForm,
    "sanitise": SanitiseForm,
    "data-still-there": ReasonForm,
}


DOES = {
    "park": lambda person, unit, data: settling.park(person, unit, data["reason"]),
    "un-receive": lambda person, unit, data: receiving.un_receive(person, unit, data["reason"]),
    "write-off": lambda person, unit, data: settling.write_off(person, unit, data["reason"], data["on"]),
    "take-back-write-off": lambda person, unit, data: settling.take_back_write_off(person, unit, data["reason"]),
    "give-back": lambda person, unit, data: settling.give_back(person, unit, data["to_whom"], data["on"]),
    "came-back": lambda person, unit, data: settling.came_back(
        person, unit, data["reason"], data["never_left"], data["on"]
    ),
    "sanitise": lambda person, unit, data: settling.record_sanitisation(
        person, unit, data["how"], data["verified"], data["imaged"]
    ),
    "data-still-there": lambda person, unit, data: settling.data_still_there(person, unit, data["reason"]),
}


def act(request, number, what):
    """One act: what will happen is said before it is done."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model", "line"), number=number)
    if what not in settling.ACTS:
        raise Http404
    the_act = settling.ACTS[what]
    there = reverse("floor:unit", args=[number])
    form = FORMS[what](request.POST or None)
    if request.method == "POST":

        def do(data):
            DOES[what](request.user, row, data)
            return there if Unit.objects.filter(number=number).exists() else reverse("intake:table")

        if leads_to := attempt(request, form, do):
            story = row.tag if leads_to == there else row.lot.code
            messages.success(request, f"{the_act.title}: done. It stands in the story of {story}.")
            return redirect(leads_to)
    possible = the_act.possible(row)
    context = {
        "unit": row,
        "act": the_act,
        "form": form,
        "possible": possible,
        "allowed": the_act.allowed(request.user),
        "against": the_act.against(row) if possible else [],
        "consequences": the_act.consequences(row),
        "roles": the_act.roles,
    }
    return render(request, "intake/act.html", context, status=422 if form.errors else 200)


def slips(request, number):
    """What was recorded by a slip is taken off the record."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model", "line"), number=number)
    there = on_record(row)
    form = SlipForm(request.POST or None, there=there)
    again = reverse("intake:slips", args=[number])
    if done := saved(request, form, lambda data: take_off(request.user, row, data["mark"], data["why"]), again):
        messages.success(request, "Taken off the record. It stands in the story of the unit.")
        return done
    context = {"unit": row, "form": form, "there": there, "gone": row.stage in GONE}
    return render(request, "intake/slips.html", context)


@require_POST
def take_up(request, number):
    row = get_object_or_404(Unit, number=number)
    there = reverse("floor:unit", args=[number])

    return press(request, lambda: settling.take_up(request.user, row), there)


def settle_hazard(request, pk):
    """A leak or a swollen cell: settled by what was done, with what on record shows it."""
    finding = get_object_or_404(Finding.objects.select_related("unit__lot", "unit__model"), pk=pk)
    unit = finding.unit
    there = reverse("intake:unit", args=[unit.number]) + "#finding"
    form = SettleForm(request.POST or None)
    if done := saved(
        request,
        form,
        lambda data: findings.settle_finding(request.user, finding, Finding.Status.RESOLVED, data["words"]),
        there,
    ):
        return done
    shown = dealt_with.since(unit, finding.seen_at)
    context = {
        "unit": unit,
        "finding": finding,
        "form": form,
        "shown": shown,
        "hazard_words": said(OF_FINDING.get(finding.kind, ())),
    }
    return render(request, "intake/settle_hazard.html", context, status=422 if form.errors else 200)


@require_POST
def looked_over(request, number):
    row = get_object_or_404(Unit, number=number)
    back = reverse("intake:unit", args=[number]) + "#finding"

    return press(request, lambda: services.looked_over(request.user, row), back)

"""Findings on the case."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.intake import capture
from stations.intake.forms import FindingForm
from stations.intake.views.unit import _row, _screen
from stations.people.screens import press, saved, sent
from stations.units import findings, photos
from stations.units.models import Finding, Photo


@require_POST
def add_finding(request, number):
    """The full form of a finding, or the quick way: a face and a kind."""
    if "quick" in request.POST:
        return _quick(request, number)

    def act(row, data, form):
        findings.add_finding(request.user, row, findings.Observation(**data))

    row = _row(number)
    form = FindingForm(request.POST, form_factor=row.form_factor)

    if done := saved(
        request, form, lambda data: act(row, data, form), reverse("intake:unit", args=[number]) + "#finding"
    ):
        return done
    return _screen(request, _row(number), finding=form)


def _quick(request, number) -> HttpResponse:
    row = _row(number)
    back = reverse("intake:unit", args=[number]) + "#finding"

    def act():
        place = [_fraction(request.POST.get(name) or "0.5") for name in ("x", "y")]
        capture.quick_finding(request.user, row, request.POST.get("face", ""), request.POST["quick"], *place)

    return press(request, act, back)


@require_POST
def settle_finding(request, pk):
    """Move a finding, settle it, put it right, or say which picture shows it."""
    finding = get_object_or_404(Finding.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[finding.unit.number]) + "#finding"

    def act():
        if "x" in request.POST:
            face = request.POST.get("face", finding.face)
            x, y = _fraction(request.POST["x"]), _fraction(request.POST.get("y", ""))
            findings.move_finding(request.user, finding, face, x, y)
        elif "photo" in request.POST:
            wanted = request.POST["photo"]
            photo = Photo.objects.filter(pk=whole_number(wanted)).first()
            photos.show_finding(request.user, finding, photo)
        else:
            words = sent(request, "words")
            findings.settle_finding(request.user, finding, request.POST.get("status", ""), words)

    return press(request, act, back)


def change_finding(request, pk):
    """A finding on a page of its own, to put it right."""
    finding = get_object_or_404(Finding.objects.select_related("unit__lot", "unit__model"), pk=pk)
    form = FindingForm(request.POST or None, instance=finding, form_factor=finding.unit.form_factor)
    if done := saved(
        request,
        form,
        lambda data: findings.change_finding(request.user, Finding.objects.get(pk=pk), findings.Observation(**data)),
        reverse("intake:unit", args=[finding.unit.number]) + f"#f{pk}",
    ):
        return done
    return render(
        request,
        "intake/finding.html",
        {"form": form, "finding": finding, "unit": finding.unit, "photos": finding.unit.photos.all()},
    )


def _fraction(text: str) -> float:
    try:
        return float(text)
    except ValueError as problem:
        raise Refused("That place is off the face.") from problem

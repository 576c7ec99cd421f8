"""What a unit is put together from, put right on the unit itself."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.catalogue.assemblies import StripDown
from core.machine.casing import FormFactor
from stations.catalogue.views.strip import assembly_typed, changed_by_button, drawn
from stations.people.screens import press, sent
from stations.units.models import Unit
from stations.workshop import strip_downs
from stations.workshop.models import UnitStripDown


def _unit(number):
    return get_object_or_404(Unit.objects.select_related("lot", "model__strip_down"), number=number)


def edit(request, number):
    """The assemblies of a unit with their section; an empty one may begin with the usual outline of its shape."""
    unit = _unit(number)
    machine, there = strip_downs.strip_down_of(unit), reverse("workshop:strip-edit", args=[number])
    if request.method == "POST":
        if gone := sent(request, "remove"):
            return press(request, lambda: strip_downs.take_out(request.user, unit, gone), there)
        begun = changed_by_button(request, machine, FormFactor(unit.form_factor))
        words = "Strip-down begun with the usual outline of its shape"
        return press(request, lambda: strip_downs.keep_strip_down(request.user, unit, begun(), None, words), there)
    shown = drawn(machine, unit.form_factor, reverse("workshop:strip-edit-one", args=[number]))
    context = {"unit": unit, "off_now": strip_downs.off_now(unit), **shown}
    return render(request, "workshop/strip_edit.html", context)


def one(request, number):
    """Add an assembly, or put one right."""
    unit = _unit(number)
    own = UnitStripDown.objects.filter(unit=unit).first()

    def keep(strip: StripDown, version: int, was: str, name: str) -> None:
        strip_downs.put_right(request.user, unit, strip, version, was, name)

    form, done = assembly_typed(
        request,
        strip_downs.strip_down_of(unit),
        own.version if own else 0,
        keep,
        reverse("workshop:strip-edit", args=[number]),
    )
    return done or render(request, "workshop/strip_assembly.html", {"unit": unit, "form": form, "machine": form.strip})

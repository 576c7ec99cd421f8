"""What a unit is put together from, put right on the unit itself."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.catalogue.outlines import outline
from core.machine.casing import FormFactor
from stations.catalogue.forms_strip import AssemblyForm, without
from stations.catalogue.section import draw
from stations.people.screens import press, saved, sent
from stations.units.models import Unit
from stations.workshop import openings
from stations.workshop.models import UnitStripDown
from stations.workshop.strip_page import DESK, PHONE


def _unit(number):
    return get_object_or_404(Unit.objects.select_related("lot", "model__strip_down"), number=number)


def edit(request, number):
    """The assemblies of a unit with their section; an empty one may begin with the usual outline of its shape."""
    unit = _unit(number)
    machine = openings.strip_down_of(unit)
    there = reverse("workshop:strip-edit", args=[number])
    if request.method == "POST":
        if sent(request, "remove"):
            name = sent(request, "remove")
            return press(request, lambda: _remove(request.user, unit, machine, name), there)
        return press(request, lambda: _begin(request.user, unit), there)
    context = {
        "unit": unit,
        "machine": machine,
        "outline": outline(FormFactor(unit.form_factor)),
        "desk": draw(machine, {}, (), DESK),
        "phone": draw(machine, {}, (), PHONE),
        "one": reverse("workshop:strip-edit-one", args=[number]),
    }
    return render(request, "workshop/strip_edit.html", context)


def _begin(person, unit):
    usual = outline(FormFactor(unit.form_factor))
    if not len(usual):
        raise openings.Refused("There is no usual outline for this shape. Add what you find.")
    if len(openings.strip_down_of(unit)):
        raise openings.Refused("It has a strip-down already.")
    openings.keep_strip_down(person, unit, usual, None, "Strip-down begun with the usual outline of its shape")


def _remove(person, unit, machine, name):
    if name not in machine.assemblies:
        raise openings.Refused(f"There is no {name} in it.")
    openings.keep_strip_down(person, unit, without(machine, name), None, f"Not in it: {name}")


def one(request, number):
    """Add an assembly, or put one right."""
    unit = _unit(number)
    machine = openings.strip_down_of(unit)
    own = UnitStripDown.objects.filter(unit=unit).first()
    name = request.GET.get("name", "")
    initial = (
        AssemblyForm.values_of(machine[name]) if name in machine.assemblies else {"x_from": 0, "x_to": 400, "clips": 0}
    )
    form = AssemblyForm(request.POST or None, strip=machine, initial=initial | {"version": own.version if own else 0})
    there = reverse("workshop:strip-edit", args=[number])

    def save(data):
        strip = form.changed(data)
        openings.keep_strip_down(request.user, unit, strip, data["version"], f"Put together from: {data['name']}")

    if done := saved(request, form, save, there):
        return done
    return render(
        request, "workshop/strip_assembly.html", {"unit": unit, "form": form, "name": name, "machine": machine}
    )

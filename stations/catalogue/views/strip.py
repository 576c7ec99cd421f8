"""What a model is put together from: its assemblies with their section, and one of them as it is typed."""

from collections.abc import Callable

from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.catalogue.assemblies import StripDown
from core.catalogue.changes import without
from core.catalogue.outlines import outline
from core.machine.casing import FormFactor
from stations.catalogue.forms_strip import AssemblyForm
from stations.catalogue.models import MachineModel, ModelStripDown
from stations.catalogue.section import DESK, PHONE, draw
from stations.catalogue.strip_downs import keep_for_model, strip_down_of_model
from stations.common.refusals import Refused
from stations.people.screens import press, saved, sent


def strip(request, pk):
    """The assemblies of a model; an empty one may begin with the usual outline of its shape."""
    model = get_object_or_404(MachineModel, pk=pk)
    machine, there = strip_down_of_model(model), reverse("catalogue:strip", args=[pk])
    if request.method == "POST":
        changed = changed_by_button(request, machine, FormFactor(model.form_factor))
        return press(request, lambda: keep_for_model(request.user, model, changed()), there)
    context = {"model": model, **drawn(machine, model.form_factor, reverse("catalogue:strip-one", args=[pk]))}
    return render(request, "catalogue/strip.html", context)


def one(request, pk):
    """Add an assembly to a model, or put one right."""
    model = get_object_or_404(MachineModel, pk=pk)
    kept = ModelStripDown.objects.filter(model=model).first()

    def keep(strip: StripDown, version: int, was: str, name: str) -> None:
        keep_for_model(request.user, model, strip, version)

    form, done = assembly_typed(
        request, strip_down_of_model(model), kept.version if kept else 0, keep, reverse("catalogue:strip", args=[pk])
    )
    return done or render(
        request, "catalogue/strip_assembly.html", {"model": model, "form": form, "machine": form.strip}
    )


def drawn(machine: StripDown, form_factor: str, address: str) -> dict:
    """What the page of assemblies shows; `address` changes one."""
    return {
        "machine": machine,
        "outline": outline(FormFactor(form_factor)),
        "desk": draw(machine, {}, (), DESK),
        "phone": draw(machine, {}, (), PHONE),
        "one": address,
    }


def changed_by_button(request, machine: StripDown, form_factor: FormFactor) -> Callable[[], StripDown]:
    """The machine without what a button takes out, or begun with the usual outline."""
    name = sent(request, "remove")

    def changed() -> StripDown:
        if name:
            if name not in machine.assemblies:
                raise Refused(f"There is no {name} in it.")
            return without(machine, name)
        if len(machine):
            raise Refused("It has a strip-down already.")
        if not len(usual := outline(form_factor)):
            raise Refused("There is no usual outline for this shape. Add what you find.")
        return usual

    return changed


def assembly_typed(
    request, machine: StripDown, version: int, keep: Callable[[StripDown, int, str, str], None], there: str
):
    """The form of one assembly and, once it is kept, the way back."""
    name = request.GET.get("name", "")
    initial = AssemblyForm.values_of(machine[name]) if name in machine.assemblies else {"x_from": 0, "x_to": 400}
    form = AssemblyForm(request.POST or None, strip=machine, initial=initial | {"version": version})

    def save(data):
        keep(form.changed(data), data["version"], data["was"], data["name"].strip())

    return form, saved(request, form, save, there)

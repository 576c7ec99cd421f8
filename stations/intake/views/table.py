"""What is to be received and what is at intake."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.flow.stage import Station
from core.safety import UNPOWERED
from stations.buying.models import LotLine
from stations.catalogue.models import MachineModel
from stations.intake import selectors as intake_selectors
from stations.intake import services
from stations.intake.forms import ReceiveForm
from stations.people.screens import saved
from stations.units import selectors

PER_PAGE = 25


def table(request):
    """The intake table: what is still in boxes, and what lies open."""
    form = ReceiveForm(request.POST or None)

    def act(data):
        line = get_object_or_404(LotLine, pk=data["line"])
        made = services.receive(request.user, line, data["count"], data["model"], data["place"])
        return reverse("intake:unit", args=[made[0].number])

    if done := saved(request, form, act):
        return done
    lines = Paginator(intake_selectors.lines_to_receive(), PER_PAGE).get_page(request.GET.get("lines"))
    models = [("", "not known yet"), *((model.pk, str(model)) for model in MachineModel.objects.to_choose())]
    rows = [(line, _receive_form(form, line, models)) for line in lines]
    here = selectors.units().filter(station=Station.INTAKE)
    context = {
        "unpowered": UNPOWERED,
        "rows": rows,
        "lines": lines,
        "page": Paginator(here, PER_PAGE).get_page(request.GET.get("page")),
    }
    return render(request, "intake/table.html", context)


def _receive_form(form, line, models):
    """The posted form back at its own line; a fresh one at every other. All share one list of `models`."""
    if not (form.is_bound and form.data.get("line") == str(line.pk)):
        form = ReceiveForm(initial={"line": line.pk, "count": line.outstanding}, auto_id=f"id_{line.pk}_%s")
    form.fields["model"].choices = models
    return form

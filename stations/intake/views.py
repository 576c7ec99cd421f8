"""The intake table, the buttons that settle what becomes of a unit, and its pictures."""

from django.contrib.auth.decorators import login_not_required
from django.core.paginator import Paginator
from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control

from core.flow.stage import Station
from stations.buying.models import LotLine
from stations.intake import photos, selectors, services
from stations.intake.forms import ReceiveForm
from stations.intake.models import MachineModel, Photo
from stations.people.editing import attempt

PER_PAGE = 25


def table(request):
    """The intake table: what is still in boxes, and what lies open."""
    form = ReceiveForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            line = get_object_or_404(LotLine, pk=data["line"])
            made = services.receive(request.user, line, data["count"], data["model"], data["place"])
            return reverse("intake:unit", args=[made[0].number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    lines = Paginator(selectors.lines_to_receive(), PER_PAGE).get_page(request.GET.get("lines"))
    models = [("", "not known yet"), *((model.pk, str(model)) for model in MachineModel.objects.all())]
    rows = [(line, _receive_form(form, line, models)) for line in lines]
    here = selectors.units().filter(station=Station.INTAKE)
    context = {
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


@login_not_required
@cache_control(max_age=31536000, immutable=True, private=True)
def photo(request, pk, size):
    """A picture; without sign-in only those of a unit on offer."""
    row = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    if not request.user.is_authenticated and row.unit.stage not in {"listed", "sold", "sent"}:
        raise Http404
    path = photos.path_of(row.sha256, small=size == "small")
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")

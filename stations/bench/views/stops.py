"""Unplugged and stopped, discharged, and how a unit comes to have power again."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.bench import stops
from stations.bench.forms import EndStopForm
from stations.bench.models import PowerStop
from stations.people.screens import press, saved, sent
from stations.units import dealt_with
from stations.units.models import Unit


@require_POST
def stop(request, number):
    """Unplugged: stop. One press with what it was; nothing is asked first."""
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    def act():
        post = request.POST
        stops.stop(request.user, row, post.get("what", ""), sent(request, "words"), post.get("code", ""))

    return press(request, act, there, "words")


def end_stop(request, pk):
    """How a unit that was stopped comes to have power again: what it was, what was done, what shows it."""
    held = get_object_or_404(PowerStop.objects.select_related("unit__lot", "unit__model", "who"), pk=pk)
    form = EndStopForm(request.POST or None)
    if done := saved(
        request,
        form,
        lambda data: stops.end(request.user, held, data["words"]),
        reverse("bench:unit", args=[held.unit.number]),
    ):
        return done
    context = {"unit": held.unit, "held": held, "form": form, "shown": dealt_with.since(held.unit, held.when)}
    return render(request, "bench/end_stop.html", context, status=422 if form.errors else 200)


@require_POST
def discharge(request, number):
    """Discharged and measured, outside a run."""
    row = get_object_or_404(Unit, number=number)
    back = request.POST.get("back", "")
    there = back if back.startswith(("/bench/", "/workshop/")) else reverse("bench:unit", args=[number])

    def act():
        post = request.POST
        stops.discharge(request.user, row, post.get("what", ""), post.get("volts", ""), bool(post.get("silent")))

    return press(request, act, there, "volts")

"""The instruments."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.bench import instruments
from stations.bench.forms import InstrumentForm
from stations.bench.models import Instrument
from stations.common.refusals import Refused
from stations.people.permissions import may
from stations.people.screens import press, saved


def the_instruments(request):
    """The instruments; each is asked who it is when one looks."""
    form = InstrumentForm(request.POST or None)

    def add(data):
        instruments.add(request.user, Instrument(**data))

    if done := saved(request, form, add, reverse("bench:instruments")):
        return done
    look = bool(request.GET.get("look")) and may(request.user, "command an instrument")
    rows = [(row, _who(row) if look else None) for row in Instrument.objects.all()]
    return render(request, "bench/instruments.html", {"rows": rows, "form": form, "looked": look})


def _who(instrument):
    try:
        return instruments.ask(instrument, "*IDN?")
    except Refused:
        return ""


@require_POST
def remove_instrument(request, pk):
    row = get_object_or_404(Instrument, pk=pk)
    there = reverse("bench:instruments")

    return press(request, lambda: instruments.remove(request.user, row), there)

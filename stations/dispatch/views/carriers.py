"""Boxes, carriers, and what each asks into each zone."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.selling.carriers import bands_text
from stations.dispatch import carriers as kept
from stations.dispatch.forms import BandsForm, BoxForm, CarrierForm
from stations.dispatch.models import BoxSize, Carrier
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved


def boxes(request):
    """Every size of box, and a new one."""
    return _box_page(request, None)


def box(request, pk):
    return _box_page(request, get_object_or_404(BoxSize, pk=pk))


def _box_page(request, row):
    form = BoxForm(request.POST or None, instance=row)

    def save(data):
        said = kept.BoxDetails(**form.changes)
        if row is None:
            kept.add_box(request.user, BoxSize(**vars(said)))
        else:
            kept.change_box(request.user, BoxSize.objects.get(pk=row.pk), data["version"], said)

    if done := saved(request, form, save, reverse("dispatch:boxes")):
        return done
    page = Paginator(BoxSize.objects.order_by("-in_use", "name"), 50).get_page(request.GET.get("page"))
    return render(request, "dispatch/boxes.html", {"page": page, "form": form, "box": row})


def carriers(request):
    """Every carrier, and a new one."""
    form = CarrierForm(request.POST or None)

    def save(data):
        return reverse("dispatch:carrier", args=[kept.add_carrier(request.user, Carrier(**form.changes)).pk])

    if done := saved(request, form, save):
        return done
    page = Paginator(Carrier.objects.prefetch_related("bands"), 25).get_page(request.GET.get("page"))
    return render(request, "dispatch/carriers.html", {"page": page, "form": form})


def carrier(request, pk):
    row = get_object_or_404(Carrier, pk=pk)
    form = CarrierForm(request.POST or None, instance=row)

    def save(data):
        said = kept.CarrierDetails(**form.changes)
        kept.change_carrier(request.user, Carrier.objects.get(pk=pk), data["version"], said)

    if done := saved(request, form, save, reverse("dispatch:carrier", args=[pk])):
        return done
    return _carrier_page(request, pk, form, BandsForm(prefix="new"))


def _carrier_page(request, pk, form, bands_form):
    row = Carrier.objects.prefetch_related("bands").get(pk=pk)
    zones = {}
    for band in row.bands.all():
        zones.setdefault(band.zone, []).append(band)
    shown = [(zone, bands_text(found)) for zone, found in zones.items()]
    return render(
        request,
        "dispatch/carrier.html",
        {
            "carrier": row,
            "form": form,
            "zones": shown,
            "bands_form": bands_form,
            "story": history.latest(HistoryEntry.Subject.CARRIER, row.pk),
        },
    )


@require_POST
def bands(request, pk):
    row = get_object_or_404(Carrier, pk=pk)
    form = BandsForm(request.POST, prefix="new")

    def save(data):
        kept.keep_bands(request.user, row, data["zone"], data["bands"])

    there = reverse("dispatch:carrier", args=[pk])
    return saved(request, form, save, there) or _carrier_page(request, pk, CarrierForm(instance=row), form)


@require_POST
def fetch(request):
    def ask():
        messages.success(request, f"The prices of {kept.fetch(request.user)} carriers are here.")

    return press(request, ask, reverse("dispatch:carriers"))

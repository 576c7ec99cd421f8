"""The packing table: what to do, which box, which carrier, the pictures, the label; and what arrived broken."""

from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from core.selling.packing import LIFT_ALONE_G, Moment
from stations.common.refusals import Refused
from stations.dispatch import packing, papers, parcels
from stations.dispatch import taken_back as back
from stations.dispatch.drawing import pack_drawing
from stations.dispatch.forms import (
    ArrivedForm,
    BrokenForm,
    ClaimPaidForm,
    CloseForm,
    MeasureForm,
    SendForm,
    TrackingForm,
)
from stations.dispatch.models import Carrier, Parcel, ParcelPhoto
from stations.people.screens import press, saved, sent
from stations.units import picture_files, seen
from stations.units.models import Unit


def _parcel(pk) -> Parcel:
    return get_object_or_404(Parcel.objects.select_related("box", "inner_box", "carrier"), pk=pk)


def parcel(request, pk):
    return _page(request, _parcel(pk))


def _page(request, row, **given):
    plan = packing.plan_of(row)
    if not plan.sales:
        raise Http404
    packed, weight = plan.packed, plan.weight_g
    taken, not_taken = packing.quotes_of(plan, row.zone)
    names = {box.name: box for box in plan.boxes}
    first, zones = taken[0] if taken else None, packing.zones()
    context = {
        "parcel": row,
        "plan": plan,
        "unit": plan.sales[0].unit,
        "drawing": pack_drawing(plan.size, packed, upright=plan.upright) if plan.size and packed else None,
        "quotes": taken,
        "not_taken": not_taken,
        "weight": weight,
        "heavy": bool(weight and weight > LIFT_ALONE_G),
        "photos": row.photos.all(),
        "moments": list(Moment),
        "zones": zones,
        "measure_form": MeasureForm(instance=row, zones=zones),
        "close_form": CloseForm(
            initial={
                "box": names.get(packed.outer.name) if packed else None,
                "inner": names.get(packed.inner.name) if packed and packed.inner else None,
            }
        ),
        "send_form": SendForm(
            initial={
                "carrier": Carrier.objects.filter(name=first.carrier).first() if first else None,
                "price": first.total if first else None,
            }
        ),
        "tracking_form": TrackingForm(instance=row),
        "arrived_form": ArrivedForm(),
        "broken_form": BrokenForm(parcel=row),
        "claim_form": ClaimPaidForm(),
        **given,
    }
    return render(request, "dispatch/parcel.html", context)


def _there(pk, section="") -> str:
    return reverse("dispatch:parcel", args=[pk]) + (f"#{section}" if section else "")


@require_POST
def measure(request, pk):
    row = _parcel(pk)
    form = MeasureForm(request.POST, instance=row, zones=packing.zones())

    def save(data):
        parcels.measure(request.user, _parcel(pk), data["version"], parcels.Measured(**form.changes))

    return saved(request, form, save, _there(pk)) or _page(request, _parcel(pk), measure_form=form)


@require_POST
def step(request, pk, key):
    return press(request, lambda: parcels.tick(request.user, _parcel(pk), key), _there(pk, "steps"))


@require_POST
def say(request, pk, number):
    """What is seen in a thing while it is packed, and nobody recorded."""
    unit = get_object_or_404(Unit, number=number, sales__parcel_item__parcel=pk)
    return press(
        request,
        lambda: seen.say(request.user, unit, sent(request, "fact"), sent(request, "answer")),
        _there(pk, "steps"),
    )


@require_POST
def pictures(request, pk):
    row, files = _parcel(pk), request.FILES.getlist("photos")

    def keep():
        if not files:
            raise Refused("Choose a picture first.")
        for complaint in parcels.add_pictures(request.user, row, sent(request, "moment"), files):
            messages.warning(request, complaint)

    return press(request, keep, _there(pk, "steps"))


@require_POST
def drop_picture(request, pk):
    photo = get_object_or_404(ParcelPhoto.objects.select_related("parcel"), pk=pk)
    return press(request, lambda: parcels.drop_picture(request.user, photo), _there(photo.parcel_id, "steps"))


@require_POST
def close(request, pk):
    form = CloseForm(request.POST)

    def save(data):
        parcels.close(request.user, _parcel(pk), data["box"], data["inner"], data["packed_g"])

    return saved(request, form, save, _there(pk, "send")) or _page(request, _parcel(pk), close_form=form)


@require_POST
def send(request, pk):
    form = SendForm(request.POST)

    def save(data):
        carrier, price, tracking = data["carrier"], data["price"], data["tracking"]
        parcels.send(request.user, _parcel(pk), carrier, price, tracking, data["unpaid"], data["on"])

    return saved(request, form, save, _there(pk)) or _page(request, _parcel(pk), send_form=form)


@require_POST
def tracking(request, pk):
    form = TrackingForm(request.POST, instance=_parcel(pk))

    def save(data):
        parcels.name_tracking(request.user, _parcel(pk), data["tracking"])

    return saved(request, form, save, _there(pk, "send")) or _page(request, _parcel(pk), tracking_form=form)


@require_POST
def broken(request, pk):
    form = BrokenForm(request.POST, parcel=_parcel(pk))

    def save(data):
        parcels.broken(request.user, _parcel(pk), data["damage"], data["claimed"], data["lost"])

    return saved(request, form, save, _there(pk, "broken")) or _page(request, _parcel(pk), broken_form=form)


@require_POST
def claim_paid(request, pk):
    form = ClaimPaidForm(request.POST)

    def save(data):
        parcels.claim_paid(request.user, _parcel(pk), data["paid_back"], data["on"])

    return saved(request, form, save, _there(pk, "broken")) or _page(request, _parcel(pk), claim_form=form)


@require_POST
def reopen(request, pk):
    return press(request, lambda: parcels.reopen(request.user, _parcel(pk)), _there(pk))


@require_POST
def arrived(request, pk):
    form = ArrivedForm(request.POST)

    def save(data):
        parcels.arrived(request.user, _parcel(pk), data["on"])

    return saved(request, form, save, _there(pk)) or _page(request, _parcel(pk), arrived_form=form)


_TAKEN_BACK = {
    "arrived": back.not_arrived,
    "sent": back.not_sent,
    "broken": back.not_broken,
    "claim": back.claim_not_paid,
}


@require_POST
def taken_back(request, pk, what):
    """Something that was said of it by mistake."""
    row = _parcel(pk)
    there = _there(pk, "broken" if what in {"broken", "claim"} else "send")
    return press(request, lambda: _TAKEN_BACK[what](request.user, row, sent(request, "why")), there, "why")


def label(request, pk):
    row = _parcel(pk)
    name = f'inline; filename="parcel-{row.pk}.pdf"'
    return HttpResponse(papers.label(row), content_type="application/pdf", headers={"Content-Disposition": name})


def claim(request, pk):
    row = _parcel(pk)
    if row.damage_at is None:
        raise Http404
    name = f'attachment; filename="claim-parcel-{row.pk}.zip"'
    return HttpResponse(papers.claim(row), content_type="application/zip", headers={"Content-Disposition": name})


@cache_control(max_age=31536000, immutable=True, private=True)
def picture(request, pk, size):
    row = get_object_or_404(ParcelPhoto, pk=pk)
    path = picture_files.path_of(row.sha256, small=size == "small")
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")

"""What goes with a parcel or after it: the label, and the file for a claim."""

import io
import re
import zipfile

from django.template.loader import render_to_string

from core.selling.packing import LIFT_ALONE_G, kg
from stations.common import qr
from stations.common.currency import base_currency
from stations.dispatch.models import Parcel
from stations.dispatch.packing import PackPlan, plan_of
from stations.dispatch.terms import terms
from stations.units import picture_files


def _pdf(template: str, context: dict) -> bytes:
    from weasyprint import HTML  # slow to load, and only wanted here

    return HTML(string=render_to_string(template, context)).write_pdf()


def label(parcel: Parcel) -> bytes:
    """The address label, 100 × 150 mm, with what a carrier’s people must know."""
    plan = plan_of(parcel)
    weight = plan.weight_g
    context = {
        "parcel": parcel,
        "sender": terms().address,
        "tags": [str(sale.unit.tag) for sale in plan.sales],
        "kg": kg(weight) if weight else None,
        "heavy": bool(weight and weight > LIFT_ALONE_G),
        "screen": plan.upright,
        "cell": plan.cell,
        "code": qr.svg(parcel.tracking or str(parcel)),
    }
    return _pdf("dispatch/label_paper.html", context)


def claim(parcel: Parcel) -> bytes:
    """A zip for the carrier: a report, the pictures of before, packed and broken, and what was said of the thing.

    Of a picture whose file is lost the report says so."""
    plan, photos = plan_of(parcel), list(parcel.photos.all())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        paths = [picture_files.path_of(photo.sha256) for photo in photos]
        names = [
            (photo, _file_name(number, photo), path.exists())
            for number, (photo, path) in enumerate(zip(photos, paths, strict=True), 1)
        ]
        file.writestr("report.pdf", _pdf("dispatch/claim_paper.html", _claim(plan, names)))
        for (_, name, there), path in zip(names, paths, strict=True):
            if there:
                file.writestr(name, path.read_bytes())
        for sale in plan.sales:
            said = "\n".join(f"{what}: {words}" for what, _, words in sale.told)
            file.writestr(f"what-was-said-{sale.unit.tag}.txt", said)
    return out.getvalue()


def _file_name(number: int, photo) -> str:
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", photo.original_name.rpartition(".")[0])[:40].strip("-") or "picture"
    return f"{photo.moment}/{number:02}-{stem}.jpg"


def _claim(plan: PackPlan, names: list) -> dict:
    parcel = plan.parcel
    return {
        "parcel": parcel,
        "plan": plan,
        "shop": terms().address,
        "kg": kg(parcel.packed_g) if parcel.packed_g else None,
        "names": names,
        "currency": base_currency(),
    }

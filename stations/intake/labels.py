"""The printable label of a unit: QR code and readable tag, as SVG."""

import segno
from django.urls import reverse

from stations.intake.models import Unit


def qr_svg(unit: Unit) -> str:
    """The tag as an SVG QR code, without frame: any scanner types the tag, the scan box opens the unit."""
    code = segno.make(str(unit.tag), error="m", micro=False)
    return code.svg_inline(scale=4, border=2, svgclass="qr", lineclass=None, omitsize=True)


def address(unit: Unit) -> str:
    return reverse("intake:unit", args=[unit.number])

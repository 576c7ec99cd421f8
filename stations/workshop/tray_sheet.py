"""The tray sheet of a machine that is open, as PDF: one frame a tray, to lay on the bench and put screws on."""

from django.template.loader import render_to_string

from stations.common import clock
from stations.people import shop_settings
from stations.workshop.models import Opening
from stations.workshop.strip_page import strip_page


def pdf(opening: Opening) -> bytes:
    from weasyprint import HTML  # slow to load, and only wanted here

    context = {
        "page": strip_page(opening),
        "unit": opening.unit,
        "shop": shop_settings.settings(),
        "now": clock.now(),
    }
    return HTML(string=render_to_string("workshop/tray_sheet.html", context)).write_pdf()

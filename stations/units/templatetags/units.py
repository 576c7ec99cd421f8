"""How a unit stands, and the way to its pages."""

from django import template
from django.urls import reverse
from django.utils.html import format_html

from core.flow.stage import State
from stations.common.templatetags.shell import glyph
from stations.units.models import Unit

register = template.Library()

_STATES = {
    State.DECISION: ("st--stuck", "stuck", "Needs a decision"),
    State.HOLD: ("st--hold", "hold", "Safety hold"),
    State.WAITING: ("st--wait", "clock", "Waiting"),
    State.SOLD: ("st--wait", "sold", ""),
    State.MOVING: ("st--ok", "now", ""),
}
_PAGES = (
    ("sheet", "Sheet", "floor:unit"),
    ("intake", "Intake", "intake:unit"),
    ("bench", "Bench", "bench:unit"),
    ("workshop", "Workshop", "workshop:unit"),
    ("selling", "Selling", "selling:unit"),
    ("books", "Books", "books:unit"),
    ("label", "Label", "units:label"),
)


@register.simple_tag
def unit_state(unit: Unit):
    """Its state with the reason; while it moves or is done, its stage with the reason."""
    style, sign, words = _STATES[State(unit.state)]
    stage = unit.get_stage_display()
    words = words or stage[:1].upper() + stage[1:]
    return format_html('<span class="st {}">{}{}: {}</span>', style, glyph(sign), words, unit.stage_reason)


@register.inclusion_tag("units/_pages.html")
def unit_pages(unit: Unit, here: str):
    """The pages of a unit, with the one that is shown marked."""
    return {"pages": [(words, reverse(name, args=[unit.number]), page == here) for page, words, name in _PAGES]}

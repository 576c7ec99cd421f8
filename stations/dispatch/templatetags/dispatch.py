"""Marks of dispatch."""

from django import template
from django.utils.html import format_html

from core.selling.packing import kg as in_kg
from core.selling.taking_back import Whose
from stations.common.templatetags.shell import glyph
from stations.dispatch import selectors

register = template.Library()

_WHOSE = {
    Whose.OURS: ("stuck", "stuck"),
    Whose.BUYERS: ("pass", "ok"),
    Whose.CARRIERS: ("clock", "info"),
    Whose.RIGHT: ("pass", "info"),
    Whose.OPEN: ("todo", "wait"),
}


@register.filter
def kg(grams: int | None) -> str:
    """Grams as kg with two decimals; what is not known, as that."""
    return "not known" if grams is None else f"{in_kg(grams)} kg"


@register.simple_tag
def whose(value: str):
    """Who answers for a return, with its mark."""
    if not value:
        return ""
    one = Whose(value)
    mark, state = _WHOSE[one]
    return format_html('<span class="st st--{}">{}{}</span>', state, glyph(mark), one.label)


@register.filter
def is_late(sale) -> bool:
    return selectors.late(sale)


@register.filter
def payout_is_late(sale) -> bool:
    return selectors.payout_late(sale)

"""Marks of care: what a surface bears."""

from django import template

from core.workshop.care.agents import Bears
from stations.common.templatetags.shell import mark

register = template.Library()


@register.simple_tag
def bears_mark(said: Bears):
    """Fits, a hidden spot first, never."""
    sign = {Bears.FITS: "pass", Bears.HIDDEN: "ask", Bears.NEVER: "fail"}[said]
    return mark(sign, said.value)


@register.filter
def evenly_wide(evenly: float) -> str:
    """How wide the bar of a school is."""
    return f"{evenly * 28:.1f}"

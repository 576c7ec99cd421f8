"""Marks of what fits."""

from django import template
from django.utils.html import format_html

from core.catalogue.fit.answers import Answer
from stations.common.templatetags.shell import glyph

register = template.Library()

_SIGNS = {Answer.FITS: "pass", Answer.WITH: "with", Answer.NOT: "fail", Answer.UNKNOWN: "ask"}


@register.simple_tag
def fit_sign(answer: str, extra: str = ""):
    """The sign of an answer, with its word for a screen reader."""
    answer = Answer(answer)
    return format_html('{}<span class="visually-hidden">{}</span>', glyph(_SIGNS[answer], extra), answer.label)


@register.filter
def at(mapping, key):
    """What stands under a key; empty where nothing does."""
    return mapping.get(key, "")

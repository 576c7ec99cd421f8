"""Marks of selling."""

from django import template
from django.utils.html import format_html

from core.selling.channel import Standing
from core.selling.listing import Block, BlockKind
from stations.common.templatetags.shell import glyph

register = template.Library()

_BLOCKS = {BlockKind.TEMPORARY: "stuck", BlockKind.CUSTODY: "stuck", BlockKind.SAFETY: "hold"}


@register.filter
def chance(share: float) -> str:
    """A chance in words; what is next to sure, either way, is not told as sure."""
    if share > 0.99:
        return "over 99 in 100"
    return "under 1 in 100" if share < 0.01 else f"{share * 100:.0f} in 100"


@register.filter
def is_gone(kind: str) -> bool:
    return kind == "gone"


@register.filter
def is_new(kind: str) -> bool:
    return kind == "new"


_STANDINGS = {
    Standing.OFF: ("todo", "todo"),
    Standing.GOING_UP: ("clock", "wait"),
    Standing.UP: ("pass", "ok"),
    Standing.CHANGING: ("clock", "wait"),
    Standing.MAYBE_UP: ("stuck", "stuck"),
}


@register.simple_tag
def standing_of(placement):
    """How a unit stands on a channel, with its mark; one that never was there is not on offer there."""
    stands = placement.standing if placement else Standing.OFF
    mark, state = _STANDINGS[stands]
    words = stands.words_by_hand if placement and placement.channel.by_hand else stands.words
    return format_html('<span class="st st--{}">{}{}</span>', state, glyph(mark), words)


@register.simple_tag
def block_mark(block: Block):
    """How serious it is that it blocks: unsafe, to be decided, or only still to do."""
    return glyph(_BLOCKS.get(block.kind, "todo"))

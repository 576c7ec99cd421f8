"""Marks of parts: how one is, where it is from, what a test said, what becomes of a pair."""

from django import template
from django.urls import reverse
from django.utils.html import format_html, format_html_join

from core.stock.parts import Condition
from core.workshop.beside import Choice
from stations.common.templatetags.shell import glyph
from stations.units.models import Part, PartTest, Unit
from stations.workshop.side_by_side import Row

register = template.Library()

_CONDITION = {
    Condition.TESTED: ("st--ok", "pass"),
    Condition.FAULTY: ("st--hold", "fail"),
    Condition.UNTESTED: ("st--wait", "todo"),
}


@register.simple_tag
def part_state(part: Part):
    """Its condition, and what speaks against it: data that are not sanitised, a doubt about its print."""
    condition = Condition(part.condition)
    style, sign = _CONDITION.get(condition, ("st--info", "now"))
    marks = [(style, glyph(sign), condition.label)]
    if part.holds_data:
        marks.append(("st--hold", glyph("caution"), "holds data"))
    if part.doubt:
        marks.append(("st--stuck", glyph("caution"), f"doubted: {part.doubt}"))
    return format_html_join(" ", '<span class="st {}">{}{}</span>', marks)


@register.simple_tag
def part_origin(part: Part, here: Unit | None):
    """Where it was first seen: in this very machine, in another, or nowhere but here."""
    if part.came_from is None:
        return format_html('<span class="soft">bought</span>')
    if here is not None and part.came_from_id == here.pk:
        return "its own" if part.original else "found in it"
    address = reverse("workshop:inside", args=[part.came_from.number])
    return format_html('<a href="{}">{}</a>', address, part.came_from.tag.short)


@register.simple_tag
def test_mark(test: PartTest):
    """What a test of a part came to."""
    style, sign, words = {
        True: ("st--ok", "pass", "good"),
        False: ("st--hold", "fail", "bad"),
        None: ("st--wait", "todo", "not settled"),
    }[test.good]
    return format_html('<span class="st {}">{}{}</span>', style, glyph(sign), words)


@register.simple_tag
def change_over(row: Row):
    """What becomes of a pair, with a box to leave it out where something changes."""
    if row.pair.choice is Choice.STAY:
        return format_html('<span class="soft small">stay: {}</span>', row.pair.why)
    arrow = "⇄ change places" if row.pair.choice is Choice.SWAP else "← moves over"
    if row.needs:
        return format_html(
            '<b>{}</b><br><span class="small">{}</span><br><span class="st st--stuck small">first {}</span>',
            arrow,
            row.pair.why,
            row.needs,
        )
    data = (
        format_html('<br><span class="st st--hold small">{}{}</span>', glyph("caution"), row.data) if row.data else ""
    )
    return format_html(
        '<label class="check"><input type="checkbox" name="part" value="{}" checked> <b>{}</b></label>'
        '<span class="small">{}</span>{}',
        row.there.pk if row.there else "",
        arrow,
        row.pair.why,
        data,
    )

"""The condition map: a pin of its own shape for every kind of finding, and how its damage is drawn."""

from django import template
from django.utils.html import format_html
from django.utils.safestring import mark_safe

from core.intake.condition import FindingKind
from core.machine.casing import Face, FormFactor, face_label
from stations.units.drawing import Pin

register = template.Library()

# The shape of a pin around 0, and where its number stands: (outline, ink on paper, x, y).
_PINS = {
    FindingKind.CRACK: ('<path class="pin" d="M0-11L11 9H-11z"/>', False, 0, 6.5),
    FindingKind.SCRATCH: ('<path class="pin" d="M0-11L11 0 0 11-11 0z"/>', False, 0, 4),
    FindingKind.YELLOWING: ('<path class="pin" d="M-9-9h18v18h-18z"/>', False, 0, 4),
    FindingKind.RUST: ('<path class="pin" d="M-5-10h10l5 5v10l-5 5h-10l-5-5v-10z"/>', False, 0, 4),
    FindingKind.MISSING: ('<circle class="pin pin--gone" r="10"/>', True, 0, 4),
    FindingKind.LEAK: (
        '<path class="pin pin--leak" d="M0-12C7-3 10 0 10 4A10 8 0 0 1-10 4C-10 0-7-3 0-12z"/>',
        False,
        0,
        7,
    ),
    FindingKind.STICKER: ('<path class="pin pin--note" d="M-10-7h20v14h-14l-6-5z"/>', True, 0, 4),
    FindingKind.PAINT: ('<path class="pin" d="M0-11L10.5-3.4 6.5 8.9H-6.5L-10.5-3.4z"/>', False, 0, 4.5),
    FindingKind.RESIDUE: ('<ellipse class="pin" rx="12" ry="9"/>', False, 0, 4),
    FindingKind.BROKEN: ('<path class="pin" d="M-10-9L10-9 4 0 10 9-10 9-4 0z"/>', False, 0, 4),
    FindingKind.LOOSE: ('<path class="pin" d="M-11-9H11L0 11z"/>', False, 0, 1),
    FindingKind.CELL: (
        '<path class="pin pin--leak" d="M-8-9h16a14 14 0 0 1 0 18h-16a14 14 0 0 1 0-18z"/>',
        False,
        0,
        4,
    ),
    FindingKind.NOISE: ('<path class="pin pin--note" d="M-10-5h6l8-7v24l-8-7h-6z"/>', True, -2, 4),
    FindingKind.SWOLLEN: ('<path class="pin" d="M-9 9V-3A9 8 0 0 1 9-3V9z"/>', False, 0, 6),
}
_OTHER = ('<path class="pin pin--note" d="M-4-10h8v6h6v8h-6v6h-8v-6h-6v-8h6z"/>', True, 0, 4)
_CRACK = '<path class="dm dm--crack" d="M-14-18l5 9-6 7 7 10-4 8"/>'
_SCRATCH = '<path class="dm dm--crack" d="M-24 8L24-8M-16 16L12 4"/>'
_GONE = '<rect class="dm dm--gone" x="-22" y="-9" width="16" height="14"/>'
_MARKS = {FindingKind.CRACK: _CRACK, FindingKind.SCRATCH: _SCRATCH, FindingKind.MISSING: _GONE}
_AREAS = {FindingKind.YELLOWING: "yellow", FindingKind.RUST: "rust"}


@register.simple_tag
def pin(kind: str, number: object = ""):
    """The pin of a finding, drawn around 0, with its number on it."""
    outline, ink, x, y = _PINS.get(FindingKind(kind), _OTHER)
    style = "pin-t pin-t--ink" if ink else "pin-t"
    return format_html(
        '{}<text class="{}" x="{}" y="{}">{}</text>',
        mark_safe(outline),  # noqa: S308 - from the table above
        style,
        x,
        y,
        number,
    )


@register.simple_tag
def damage(of: Pin):
    """What was found, drawn around its pin: an area as large as it is, a crack, a gap; nothing for the rest."""
    kind = FindingKind(of.finding.kind)
    if kind in _MARKS:
        return mark_safe(_MARKS[kind])  # noqa: S308 - from the table above
    if kind not in _AREAS:
        return ""
    width, height = of.damage_width, of.damage_height
    return format_html(
        '<rect class="dm dm--{}" x="{}" y="{}" width="{}" height="{}"/>',
        _AREAS[kind],
        f"{-width / 2:.1f}",
        f"{-height / 2:.1f}",
        f"{width:.1f}",
        f"{height:.1f}",
    )


@register.filter
def face_words(face, form_factor: str) -> str:
    """What a face is called on a thing of this shape: the top of a board is its component side."""
    return face_label(Face(face), FormFactor(form_factor))

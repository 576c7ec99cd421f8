"""Marks of the section through a machine."""

from django import template
from django.utils.safestring import mark_safe

from stations.catalogue.section import Slab

register = template.Library()

_HELD = {"stays": "stays", "off": "off", "safe": "made safe", "now": "in hand", "next": "to come off"}
_HELD |= {"goal": "to be reached", "held": "do not close yet", "gone": "not in"}

_PINS = {
    "in": '<path d="M0 2v14M-5 2h10"/>',
    "out": '<circle cy="9" r="3.5"/>',
    "short": '<path d="M-4 5l8 8M4 5l-8 8"/>',
}
_PINS_SAFE = {state: mark_safe(shape) for state, shape in _PINS.items()}  # noqa: S308 - from the table above


@register.simple_tag
def pin_shape(state: str):
    """A fastener in the section: in, out, or short."""
    return _PINS_SAFE[state]


@register.simple_tag
def slab_words(slab: Slab) -> str:
    """All that a slab says, for a screen reader."""
    said = slab.mark
    parts = [f"step {said.step}: {slab.name}" if said.step else slab.name, _HELD[said.look.value], said.words]
    if said.letters:
        parts.append(f"open work {', '.join(letter for letter in said.letters if letter.isalpha())}".strip())
    if said.short:
        parts.append(f"{said.short} short")
    return ", ".join(filter(None, parts))

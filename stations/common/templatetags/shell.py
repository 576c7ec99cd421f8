"""Small marks that every page uses: glyphs, tags, money, keys that make a press count once."""

from decimal import Decimal

from babel.numbers import format_decimal
from django import template
from django.utils.html import format_html

from core.buying.odds import OUTCOMES
from core.machine.casing import Face, FormFactor, face_label
from core.machine.tags import Tag
from core.safety import Hazard, said
from stations.common.keys import new_key

register = template.Library()


@register.simple_tag
def write_key():
    """A hidden field that makes a double press do the thing once."""
    return format_html('<input type="hidden" name="write_key" value="{}">', new_key())


@register.simple_tag
def glyph(name: str, extra: str = ""):
    """A state glyph from the sheet; the word always stands beside it."""
    return format_html('<svg class="g {}" aria-hidden="true"><use href="#g-{}"/></svg>', extra, name)


@register.filter
def money(amount, places: int = 2) -> str:
    """1,234.50 with a true minus sign."""
    if amount is None:
        return "–"
    pattern = "#,##0.00" if places == 2 else "#,##0"
    return format_decimal(amount, format=pattern, locale="en").replace("-", "−")


@register.filter
def whole(amount) -> str:
    """Money to the whole unit, for drawings and summaries."""
    return money(Decimal(amount).quantize(Decimal(1)) if amount is not None else None, 0)


@register.filter
def signed(amount) -> str:
    """With a sign: +€243, −€44."""
    if amount is None:
        return "–"
    rounded = Decimal(amount).quantize(Decimal(1))
    sign = "−" if rounded < 0 else "+"
    return f"{sign}€{money(abs(rounded), 0)}"


@register.filter
def duration(minutes) -> str:
    """2 h 10, 35 min."""
    minutes = int(minutes or 0)
    return f"{minutes // 60} h {minutes % 60:02d}" if minutes >= 60 else f"{minutes} min"


@register.filter
def tag_text(number: int) -> str:
    return str(Tag(number))


@register.filter
def form_symbol(form_factor: str) -> str:
    """The silhouette of a form factor in the sheet of symbols."""
    return {
        "keyboard": "keyb",
        "desktop": "desk",
        "tower": "tower",
        "all_in_one": "aio",
        "laptop": "laptop",
        "luggable": "lug",
        "terminal": "aio",
        "monitor": "mon",
        "board": "board",
        "drive": "drive",
        "card": "board",
        "chip": "chip",
        "cabinet": "cabinet",
        "adapter": "adapter",
    }.get(form_factor, "desk")


@register.simple_tag
def silhouette(form_factor: str, state: str = "move", extra: str = ""):
    return format_html(
        '<svg class="sil is-{} {}" viewBox="0 0 40 32" aria-hidden="true"><use href="#f-{}"/></svg>',
        state,
        extra,
        form_symbol(form_factor),
    )


@register.inclusion_tag("shell/field.html")
def field(bound, note: str = "", extra: str = ""):
    """One form field: label above, what was typed kept, errors in red under it."""
    return {"field": bound, "note": note, "extra": extra}


@register.inclusion_tag("shell/cautions.html")
def hazard_cautions(*names: str):
    """The usual cautions of these hazards."""
    return {"cautions": said(Hazard(name) for name in names)}


@register.inclusion_tag("shell/cautions.html")
def cautions(words):
    """Cautions as they stand at a step or an action."""
    return {"cautions": list(words)}


@register.filter
def dressed(bound):
    """The widget with its style and, when something is wrong, the pointer that screen readers follow."""
    kind = "form-select" if bound.widget_type in {"select", "nullbooleanselect"} else "form-control"
    attrs = {"class": kind if bound.widget_type != "radioselect" else ""}
    if bound.errors:
        attrs |= {"aria-invalid": "true", "aria-describedby": f"{bound.auto_id}_wrong"}
    if bound.widget_type == "number":
        attrs["inputmode"] = "decimal"
    return bound.as_widget(attrs={**bound.field.widget.attrs, **attrs})


@register.filter
def sheets(names: str) -> list[str]:
    """The paths of style sheets by their names."""
    return [
        "vendor/bootstrap/bootstrap.min.css" if name == "bootstrap" else f"css/{name}.css" for name in names.split()
    ]


@register.filter
def halved(number: float) -> str:
    return f"{number / 2:.1f}"


@register.filter
def plus_half(start: float, width: float) -> str:
    """The middle of something that begins at `start`."""
    return f"{start + width / 2:.1f}"


@register.filter
def per(amount, count: int):
    """An amount for each of `count`."""
    return Decimal(amount) / count if count else None


@register.filter
def to_edge(x: float) -> str:
    """From a limit to the right end of the band."""
    return f"{566 - x:.1f}"


@register.filter
def inner_width(band) -> str:
    """How wide the allowed part of a limit band is."""
    return f"{band.high.x - (14 if band.one_sided else band.low.x):.1f}"


@register.filter
def numbers(text: str) -> list[int]:
    """The numbers written in a text, for marks at fixed places."""
    return [int(word) for word in text.split()]


@register.filter
def band_height(chart) -> str:
    return f"{max(1.0, chart.low - chart.high):.1f}"


@register.filter
def plain(number) -> str:
    """A decimal without trailing noughts or exponent: 5.06, 10, 0.5."""
    text = f"{Decimal(number):f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text).replace("-", "−")


@register.filter
def clear_of(y: float, other: float) -> str:
    """The baseline of a label at `y`, moved so that it does not stand on the one at `other`."""
    gap = y - other
    if abs(gap) < 14:
        y = other + (14 if gap >= 0 else -14)
    return f"{y + 4:.1f}"


@register.filter
def lower_first(words: str) -> str:
    """To go on in the middle of a sentence: only the first letter, so that units keep theirs."""
    return words[:1].lower() + words[1:]


@register.filter
def in_100(share) -> str:
    """A share as a whole number of a hundred."""
    return f"{round(float(share) * 100):d}".replace("-", "−")


@register.filter
def less(amount, other):
    return amount - other


@register.filter
def toward(x: float, wanted: float) -> str:
    """How far to move something at `x` so that it stands at `wanted`."""
    return f"{wanted - x:.1f}"


@register.filter
def at(mapping, key):
    """The entry of a mapping under a key that is only known in the template."""
    return mapping.get(key, key)


@register.filter
def segments(cases) -> list[dict]:
    """The odds of a line's cases as pieces of a bar 100 wide, end to end."""
    pieces, start = [], 0.0
    for case in cases:
        width = float(case.odds) * 100
        if width >= 0.5:
            pieces.append({"outcome": case.outcome, "x": f"{start:.1f}", "width": f"{width:.1f}"})
        start += width
    return pieces


@register.filter
def at_or_none(mapping, key):
    """The entry of a mapping under a key that is only known in the template; nothing when there is none."""
    return mapping.get(key) if mapping else None


@register.filter
def milli(number: float) -> str:
    """In thousandths: ohms as milliohms, volts as millivolts."""
    return f"{number * 1000:.0f}".replace("-", "−")


@register.filter
def across_200(share: float) -> str:
    return f"{share * 200:.1f}"


@register.filter
def outcome_words(place: int) -> str:
    return OUTCOMES[place].label


@register.filter
def face_words(face, form_factor: str) -> str:
    """What a face is called on a thing of this shape: the top of a board is its component side."""
    return face_label(Face(face), FormFactor(form_factor))

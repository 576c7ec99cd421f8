"""Marks of the strip-down: screws to scale, plugs with their wires, the part in hand, trays."""

from django import template
from django.utils.html import format_html, format_html_join
from django.utils.safestring import mark_safe

from core.catalogue.assemblies import Assembly, Fastener, Key, Plug, StoredCharge, StripDown
from core.catalogue.assembly_text import COLOURS
from core.safety import Hazard, said
from core.workshop.settings import Bank, Link, SettingKind, read_state
from core.workshop.stripdown.step import Kind
from core.workshop.stripdown.way_back import Unsettled
from stations.common.templatetags.shell import glyph, mark
from stations.workshop.in_hand import InHand
from stations.workshop.models import Job
from stations.workshop.strip_page import Bar, Tray

register = template.Library()

_SCREWS = {"here": "in the tray", "back": "in the machine", "to come": "still in", "short": "missing"}


@register.simple_tag
def screw(state: str):
    """One fastener in a tray; what it is is said once for the row."""
    return format_html(
        '<svg class="screw screw--{}" viewBox="0 0 14 30" aria-hidden="true"><title>{}</title>'
        '<path d="M2 1h10v6H2zM5 7h4v19l-2 3-2-3z"/>'
        '<path class="screw__thread" d="M4.5 11h5M4.5 15h5M4.5 19h5M4.5 23h5"/></svg>',
        state.replace(" ", "-"),
        _SCREWS[state],
    )


@register.simple_tag
def screw_to_scale(group: Fastener):
    """The fastener in hand, four pixels a millimetre up to 26 mm, with its length written beside it."""
    length = group.length_mm
    shaft = 4 * min(26, max(3, length or 8))
    words = f"{length} mm" if length else "length not measured"
    return format_html(
        '<svg class="screw-big" viewBox="0 0 150 {}" width="150" height="{}" role="img" aria-label="{}, {}">'
        '<path d="M4 2h34v14H4z"/><path d="M14 16h14v{}l-7 6-7-6z"/>'
        '<path class="measure" d="M56 16v{}M52 16h8M52 {}h8"/>'
        '<text class="mono" x="66" y="{}">{}</text></svg>',
        shaft + 26,
        shaft + 26,
        group.kind,
        words,
        shaft,
        shaft,
        16 + shaft,
        22 + shaft / 2,
        words,
    )


@register.simple_tag
def plug_wires(plug: Plug):
    """The plug with its wires in their colours, the letters of each under it."""
    wires = plug.wires[:24]
    if not wires:
        return ""
    width = 20 * len(wires) + 6
    words = f"{plug.name}: {', '.join(COLOURS[wire] for wire in wires)}"
    drawn = format_html_join(
        "",
        '<rect class="wire wire--{}" x="{}" y="0" width="12" height="20"/><text class="mono" x="{}" y="36">{}</text>',
        ((wire, 7 + 20 * i, 13 + 20 * i, wire) for i, wire in enumerate(wires)),
    )
    return format_html(
        '<svg class="plug-wires" viewBox="0 0 {} 44" width="{}" height="44" role="img" aria-label="{}">'
        '<rect class="plug-body" x="3" y="20" width="{}" height="22"/>{}</svg>',
        width,
        width,
        words,
        width - 6,
        drawn,
    )


@register.simple_tag
def plug_rule(plug: Plug) -> str:
    """How it goes in, in words."""
    to = f" to {plug.to}" if plug.to else ""
    black = plug.key is Key.COLOURS and "bk" in plug.wires
    return f"{plug.name}{to}: {'black to black' if black else plug.key.label}"


@register.simple_tag
def unsettled_mark(one: Unsettled):
    """What speaks against closing: a matter of safety has its own sign."""
    return mark("hold", "for safety") if one.safety else mark("fail", "not settled")


@register.simple_tag
def tray_mark(tray: Tray):
    """Whether all that belongs in a tray is there."""
    here = tray.belong - tray.short
    if tray.short:
        return format_html('{} <b class="st--fail">{} of {}</b>', glyph("fail"), min(here, tray.out), tray.belong)
    if tray.state == "to come":
        return format_html('<span class="soft">{} to come</span>', tray.belong)
    if tray.state == "empty":
        return format_html('{} <span class="soft">all {} in</span>', glyph("pass"), tray.belong)
    return format_html("{} <b>{} of {}</b>", glyph("pass" if tray.state == "full" else "now"), tray.out, tray.belong)


@register.simple_tag
def diamond(letter: str):
    """Open work one may take in, by its letter."""
    return format_html(
        '<svg class="dia-i" viewBox="0 0 26 26" aria-hidden="true"><path d="M13 1l12 12-12 12L1 13z"/>'
        '<text x="13" y="17.5" text-anchor="middle">{}</text></svg>',
        letter,
    )


@register.simple_tag
def tray_class(tray: Tray) -> str:
    return {"to come": "tray--to-come", "now": "tray--now", "full": "", "empty": "tray--empty"}[tray.state]


@register.simple_tag
def step_verb(assembly: Assembly, going_back: bool) -> str:
    if assembly.stays:
        return "connected again" if going_back else "made safe"
    return "on" if going_back else "off"


@register.inclusion_tag("shell/cautions.html")
def assembly_cautions(assembly: Assembly):
    """The cautions of what is in hand: its own, and those that follow from what it is."""
    hazards = list(assembly.hazards)
    if assembly.charge is StoredCharge.SUPPLY:
        hazards.append(Hazard.CHARGE)
    if assembly.charge is StoredCharge.TUBE:
        # Near a CRT the strap is off: what is said of bare boards would say the opposite.
        hazards = [Hazard.TUBE, *(hazard for hazard in hazards if hazard is not Hazard.STATIC)]
    if assembly.two_people:
        hazards.append(Hazard.LIFT)
    words = list(said(hazards))
    if assembly.brittle:
        words.append("Old plastic breaks: warm it, ease one clip after the other, never lever against the shell.")
    return {"cautions": words}


@register.simple_tag
def test_words(strip: StripDown, name: str) -> str:
    words = strip[name].test
    return words[:1].upper() + words[1:]


@register.simple_tag
def sd_bar(bar: Bar):
    """Minutes as a line: done, to reach, to close."""
    done, reach, close = (4.52 * share for share in bar.shares)
    return format_html(
        '<svg class="sd-line" viewBox="0 0 452 22" role="img" aria-label="{} minutes done, {} to reach, {} to close">'
        '<rect class="bar-done" width="{}" height="16" y="3"/>'
        '<rect class="bar-reach" x="{}" width="{}" height="16" y="3"/>'
        '<rect class="bar-close" x="{}" width="{}" height="16" y="3"/><path class="bar-at" d="M{} 0v22"/></svg>',
        bar.done,
        bar.to_reach,
        bar.to_close,
        *(f"{x:.1f}" for x in (done, done, reach, done + reach, close, done + reach)),
    )


@register.simple_tag
def plan_of(hand: InHand, tray: Tray | None):
    """The part from above with its fasteners: done, the next, still to come. More than twelve are only counted."""
    states = [
        ("done" if number < hand.done else "next" if number == hand.done else "left")
        for number, thing in enumerate(hand.things)
        if thing.kind is Kind.FASTENER
    ]
    short = tray.short if tray else 0
    if not states and not short:
        return ""
    if len(states) + short > 12:
        done = states.count("done")
        return format_html('<p class="plan-count"><b class="mono">{} of {}</b> done</p>', done, len(states))
    places = _around(len(states) + short)
    holes = format_html_join(
        "",
        '<g class="hole hole--{}" transform="translate({} {})"><circle r="13"/>{}</g>',
        (
            (state, f"{x:.0f}", f"{y:.0f}", _HOLES[state])
            for state, (x, y) in zip([*states, *["short"] * short], places, strict=True)
        ),
    )
    return format_html(
        '<svg class="plan" viewBox="0 0 210 130" width="210" height="130" role="img" aria-label="{} of {} done{}">'
        '<rect class="plan-part" x="4" y="4" width="202" height="122"/>{}</svg>',
        states.count("done"),
        len(states),
        f", {short} short" if short else "",
        holes,
    )


_HOLES = {
    "done": mark_safe('<path d="M-6 0l4 5 8-9"/>'),
    "next": mark_safe('<path d="M-6 0h12M0-6v12"/>'),
    "left": "",
    "short": mark_safe('<path d="M-5-5L5 5M5-5L-5 5"/>'),
}


def _around(count: int) -> list[tuple[float, float]]:
    """Places along the rim of the part, the corners first."""
    corners = [(24.0, 24.0), (186.0, 24.0), (24.0, 106.0), (186.0, 106.0)]
    if count <= 4:
        return corners[:count]
    rest = count - 4
    top = (rest + 1) // 2
    upper = [(24 + 162 * (i + 1) / (top + 1), 24.0) for i in range(top)]
    lower = [(24 + 162 * (i + 1) / (rest - top + 1), 106.0) for i in range(rest - top)]
    return [*corners, *upper, *lower]


@register.simple_tag
def treatment_materials(job: Job) -> str:
    """What went into a job and stayed there, in words."""
    used = [str(issue) for issue in job.issues.all() if not issue.returned_at]
    return f"Materials: {', '.join(used)}." if used else "No materials recorded."


@register.simple_tag
def state_drawing(kind: str, text: str):
    """A setting as it looks: pins with their links, switches up or down; the words for anything else."""
    try:
        state = read_state(SettingKind(kind), text)
    except ValueError:
        state = text
    if isinstance(state, Bank):
        drawn = format_html_join(
            "",
            '<rect x="{}" y="1" width="11" height="24"/><rect class="dip" x="{}" y="{}" width="7" height="9"/>'
            '<text x="{}" y="38" text-anchor="middle">{}</text>',
            ((i * 14 + 1, i * 14 + 3, 3 if on else 14, i * 14 + 6.5, i + 1) for i, on in enumerate(state.on)),
        )
        width, words = (
            14 * len(state.on) + 2,
            ", ".join(f"{i} {'on' if on else 'off'}" for i, on in enumerate(state.on, 1)),
        )
    elif isinstance(state, Link):
        pins = format_html_join("", '<circle cx="{}" cy="13" r="4"/>', ((i * 16 + 9,) for i in range(state.pins)))
        caps = format_html_join(
            "", '<rect class="cap" x="{}" y="5" width="28" height="16" rx="2"/>', ((i * 16 - 13,) for i in state.closed)
        )
        drawn = format_html('{}{}<text x="9" y="38" text-anchor="middle">1</text>', pins, caps)
        width = 16 * state.pins + 4
        joined = ", ".join(f"{i}-{i + 1} joined" for i in state.closed)
        words = f"{state.pins} pins, {joined or 'none joined'}"
    else:
        return state
    return format_html(
        '<svg class="state" viewBox="0 0 {} 40" width="{}" height="40" role="img" aria-label="{}">{}</svg>'
        '<span class="mono small">{}</span>',
        width,
        width,
        words,
        drawn,
        text,
    )

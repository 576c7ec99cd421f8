"""What every page uses: glyphs, fields, cautions, silhouettes, keys that make a press count once."""

from django import template
from django.conf import settings
from django.forms import NumberInput, Select, Textarea, TextInput
from django.template.base import FilterExpression as Expression
from django.template.loader import render_to_string
from django.templatetags.static import static
from django.utils.html import conditional_escape, format_html, format_html_join
from django.utils.safestring import SafeString

from core.safety import Hazard, said
from stations.common import look
from stations.common.keys import new_key

register = template.Library()


# How a page begins that shows theirs beside yours.
STALE = "Somebody else saved this"
# What is typed and may be shown again.
TYPED = (TextInput, NumberInput, Textarea)


class NothingUnsaid(template.Node):
    """A page, and before it whatever was refused and is told nowhere on it, with what was typed: somebody else may have
    moved things on, so that the page has no room for that form any more."""

    def __init__(self, nodelist: template.NodeList) -> None:
        self.nodelist = nodelist

    def render(self, context: template.Context) -> SafeString:
        page = self.nodelist.render(context)
        form = getattr(context.get("request"), "refused", None)
        if form is None or (getattr(form, "stale", None) is not None and STALE in page):
            return page
        unsaid = [error for errors in form.errors.values() for error in errors if conditional_escape(error) not in page]
        if not unsaid:
            return page
        typed = [
            (bound.label, bound.value())
            for bound in form.visible_fields()
            if isinstance(bound.field.widget, TYPED) and bound.value()
        ]
        return render_to_string("shell/unsaid.html", {"unsaid": unsaid, "typed": typed}) + page


@register.tag
def nothing_unsaid(parser: template.base.Parser, token: template.base.Token) -> NothingUnsaid:
    nodelist = parser.parse(("endnothing_unsaid",))
    parser.delete_first_token()
    return NothingUnsaid(nodelist)


@register.simple_tag
def write_key():
    """A hidden field that makes a double press do the thing once."""
    return format_html('<input type="hidden" name="write_key" value="{}">', new_key())


def shut_off(why: str, inside: SafeString) -> SafeString:
    """A part of a form that is read, but neither typed into nor sent, under the words that say why."""
    words = format_html('<p class="only-why small soft">{}</p>', why) if why else ""
    return format_html('{}<fieldset class="only" disabled>{}</fieldset>', words, inside)


class Shut(template.Node):
    """What stands between the tags; shut as long as there are words that say why."""

    def __init__(self, why: Expression, inside: template.NodeList, told: Expression | None) -> None:
        self.why, self.nodelist, self.told = why, inside, told

    def render(self, context: template.Context) -> SafeString:
        inside, why = self.nodelist.render(context), self.why.resolve(context)
        if not why:
            return inside
        return shut_off("" if self.told and self.told.resolve(context) else why, inside)


@register.tag
def shut(parser: template.base.Parser, token: template.base.Token) -> Shut:
    """`{% shut plan.settled %} … {% endshut %}` within a form: what would be refused as things stand; `unless
    form.errors`, where they say why already."""
    _, why, *told = token.split_contents()
    inside = parser.parse(("endshut",))
    parser.delete_first_token()
    return Shut(parser.compile_filter(why), inside, parser.compile_filter(told[1]) if told else None)


@register.filter
def set_up(name: str) -> bool:
    """Whether the owner’s own setting of that name says where something outside is: what is not there isn’t offered."""
    return bool(getattr(settings, name))


@register.simple_tag
def glyph(name: str, extra: str = ""):
    """A state glyph from the sheet; the word always stands beside it."""
    return format_html('<svg class="g {}" aria-hidden="true"><use href="#g-{}"/></svg>', extra, name)


@register.simple_tag
def mark(name: str, words: str):
    """A glyph whose words only a screen reader says, where there is no room for them."""
    return format_html('{}<span class="visually-hidden">{}</span>', glyph(name), words)


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
    """One form field: label above, with a note of the page or of its form, what was typed kept, errors in red under it.
    One that its form asks `when_needed` is seen where it was asked."""
    return {"field": bound if _wanted(bound) else None, "note": note or bound.help_text, "extra": extra}


def _wanted(bound) -> bool:
    """Whether a field is seen: those that a form calls `when_needed` are where something is said at them, or was."""
    return bound.name not in getattr(bound.form, "when_needed", ()) or bool(bound.errors or bound.value())


@register.inclusion_tag("shell/cautions.html")
def hazard_cautions(*names: str):
    """The usual cautions of these hazards."""
    return {"cautions": said(Hazard(name) for name in names)}


@register.inclusion_tag("shell/cautions.html")
def cautions(words):
    """Cautions as they stand at a step or an action."""
    return {"cautions": list(words)}


@register.filter
def dressed(bound, note: str = ""):
    """The widget with its style, and the pointers that screen readers follow to a note that stands at it (its form’s
    own or the page’s) and to what is wrong."""
    attrs = {**bound.field.widget.attrs}
    if bound.widget_type not in ("checkbox", "radioselect"):
        kind = "form-select" if isinstance(bound.field.widget, Select) else "form-control"
        attrs["class"] = f"{kind} {attrs.get('class', '')}".strip()
    if bound.widget_type == "number":
        attrs["inputmode"] = "decimal"
    return bound.as_widget(attrs=attrs | _said_at(bound, note))


def _said_at(bound, note: str) -> dict[str, str]:
    """Attributes that lead from a field to its note and to what is wrong, under the names that Django gives both."""
    at = [name for name, said in (("helptext", note), ("error", bound.errors)) if said]
    found = {"aria-describedby": " ".join(f"{bound.auto_id}_{name}" for name in at)} if at else {}
    return found | ({"aria-invalid": "true"} if bound.errors and not bound.use_fieldset else {})


@register.simple_tag
def said_at(bound, note: str = ""):
    """The same for what a page draws by itself: an input, or a group of boxes."""
    return format_html_join(" ", '{}="{}"', _said_at(bound, note).items())


# What a page loads besides the sheets of the shell: by the room whose page it is, in the order of the cascade.
STYLES = {
    "day": ("day",),
    "floor": ("floor", "case", "unit", "day"),
    "buying": ("buying",),
    "catalogue": ("machine",),
    "units": ("case", "unit"),
    "intake": ("case", "unit"),
    "bench": ("bench", "day"),
    "workshop": ("case", "workshop", "machine", "day"),
    "stock": ("workshop",),
    "selling": ("selling",),
    "shop": ("selling", "case", "unit"),
    "dispatch": ("selling", "dispatch"),
}
SHELL_STYLES = ("tokens", "shell", "pieces")


@register.simple_tag(takes_context=True)
def styles(context):
    """The style sheets of a page: those of the shell and those of its room."""
    request = context.get("request")
    match = getattr(request, "resolver_match", None)
    names = (*SHELL_STYLES, *STYLES.get(match.app_name if match else "", ()))
    paths = ("vendor/bootstrap/bootstrap.min.css", *(f"css/{name}.css" for name in names))
    lines = format_html_join("\n", '<link rel="stylesheet" href="{}">', ((static(path),) for path in paths))
    # The public shop is as we show it.
    dark = look.MEDIA.get(look.of(request)) if match and match.app_name != "shop" else None
    if dark is None:
        return lines
    return lines + format_html('\n<link rel="stylesheet" href="{}" media="{}">', static("css/dark.css"), dark)


@register.inclusion_tag("shell/fields.html")
def fields(form):
    """Every field of a form that is seen; those it calls `wide` stand across two columns."""
    return {"fields": form.visible_fields(), "wide": getattr(form, "wide", ())}

"""What a storage plan says, as marks."""

from django import template
from django.utils.html import format_html

from core.workshop.storage.attempts import Variant
from core.workshop.storage.sizes import written
from core.workshop.storage.volumes import Sees

register = template.Library()

_MARKS = {Sees.BOOTS: "▶", Sees.WRITES: "✎", Sees.READS: "◉", Sees.NO: "✕"}


@register.simple_tag
def sees_mark(sees: Sees):
    """A cell of who sees what: a sign and its word."""
    return format_html(
        '<span class="sees sees--{}"><span aria-hidden="true">{}</span> {}</span>', sees, _MARKS[sees], sees
    )


@register.filter
def size_written(size: int) -> str:
    """503 MiB."""
    return written(size)


@register.filter
def count_written(number: int) -> str:
    """368,640."""
    return f"{number:,}"


@register.simple_tag
def restarts_mark(count: int):
    """A loop for restarts, with how many."""
    word = "restart" if count == 1 else "restarts"
    return format_html('<span class="loop" title="{} {}">↻ {}</span>', count, word, count)


@register.simple_tag
def record_of(record: dict[str, Variant], name: str):
    """How installations of a system went on machines of the model."""
    found = record.get(name)
    if found is None:
        return format_html('<span class="soft">never tried</span>')
    tries = found.worked + found.failed
    return format_html("went {} of {} {}", found.worked, tries, "time" if tries == 1 else "times")

"""Words in the middle of a sentence, and what is looked up while a page is written."""

from django import template

register = template.Library()


@register.filter
def lower_first(words: str) -> str:
    """To go on in the middle of a sentence: only the first letter, so that units keep theirs."""
    return words[:1].lower() + words[1:]


@register.filter
def sentence(words: str) -> str:
    """What somebody wrote, to stand before another sentence: it ends as one."""
    words = words.strip()
    return words if not words or words[-1] in ".!?…" else f"{words}."


@register.filter
def under(mapping, key):
    """The entry of a mapping under a key that is only known in the template; nothing when there is none."""
    return mapping.get(key) if mapping else None

"""From one page of a list to another."""

from django import template
from django.http import QueryDict

register = template.Library()


@register.simple_tag(takes_context=True)
def to_page(context, number: int, param: str = "page", query: str = "") -> str:
    """The query of another page of a list: whatever was asked of this page goes on, or what `query` says instead where
    the page shows something else than its address asks; this list alone moves."""
    asked = QueryDict(query, mutable=True) if query else context["request"].GET.copy()
    asked[param] = str(number)
    return f"?{asked.urlencode()}"

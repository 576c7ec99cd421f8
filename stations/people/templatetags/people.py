"""What the person who looks may do: a button that would be refused is not shown."""

from django import template

from stations.people import permissions
from stations.people.models import Person

register = template.Library()


@register.filter
def may(person: Person, to: str) -> bool:
    """Whether the person may do what `to` says, by the table of permissions."""
    return permissions.may(person, to)

"""What the person who looks may do: what would be refused is not offered."""

from django import template
from django.utils.safestring import SafeString

from stations.common.templatetags.shell import shut_off
from stations.people import permissions
from stations.people.models import Person

register = template.Library()


@register.filter
def may(person: Person, to: str) -> bool:
    """Whether the person may do what `to` says, by the table of permissions."""
    return permissions.may(person, to)


@register.filter
def only_words(to: str) -> str:
    """Who may do it, in words."""
    return permissions.only(to)


class Only(template.Node):
    """What stands between the tags; shut, and said to be, for who may not."""

    def __init__(self, to: template.base.FilterExpression, inside: template.NodeList, quietly: bool) -> None:
        self.to, self.nodelist, self.quietly = to, inside, quietly

    def render(self, context: template.Context) -> SafeString:
        inside, to = self.nodelist.render(context), self.to.resolve(context)
        if permissions.may(context["user"], to):
            return inside
        return shut_off("" if self.quietly else permissions.only(to), inside)


@register.tag
def only(parser: template.base.Parser, token: template.base.Token) -> Only:
    """`{% only "change the checks" %} … {% endonly %}` within a form: who may not reads what stands in it, and who may,
    but can't type into it or send it. `quietly` where it is said once for several."""
    _, to, *how = token.split_contents()
    inside = parser.parse(("endonly",))
    parser.delete_first_token()
    return Only(parser.compile_filter(to), inside, how == ["quietly"])

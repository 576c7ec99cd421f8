"""What buying draws in more than one place."""

from django import template

from stations.buying.drawing import odds_bar
from stations.buying.models import PlanLine

register = template.Library()


@register.inclusion_tag("buying/_odds.html")
def odds(line: PlanLine):
    """The odds of a line as a bar, and in hundredths."""
    cases = list(line.cases.all())
    return {"pieces": odds_bar(cases), "cases": cases}

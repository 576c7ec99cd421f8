"""The floor: next up, and a rail a lot."""

from django.core.paginator import Paginator
from django.shortcuts import render

from stations.common import clock
from stations.floor import selectors
from stations.floor.views.next_page import next_address
from stations.people import shop_settings, stopped
from stations.units import stages

LOTS_A_PAGE = 12


def floor(request):
    stages.day_has_come()
    page = Paginator(selectors.open_lots(), LOTS_A_PAGE).get_page(request.GET.get("page"))
    shop = shop_settings.settings()
    steps = [(step, next_address(step.unit)) for step in selectors.next_steps(shop=shop)]
    rails = selectors.rails(list(page))
    to_receive = any(row.rail.to_receive for row in rails)
    context = {"page": page, "rails": rails, "steps": steps, "to_receive": to_receive, "shop": shop, "now": clock.now()}
    context["stopped"] = stopped.told_to(request.user)
    return render(request, "floor/floor.html", context)

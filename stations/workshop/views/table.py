"""What do I do with my hands now?"""

from django.core.paginator import Paginator
from django.shortcuts import render

from stations.units import stages
from stations.workshop import glue, knowledge, selectors, table


def workshop(request):
    stages.day_has_come()
    page = Paginator(table.can_go_on(), 25).get_page(request.GET.get("page"))
    context = {
        "page": page,
        "jobs": [(job, table.rate_of(job)) for job in page],
        "running": table.running(),
        "decisions": table.to_decide(),
        "parcels": table.expected_parcels(),
        "came_in": table.came_in(),
        "waiting": table.waiting(),
        "questions": knowledge.questions(),
        "standing_by": table.standing_by(),
        "glue": glue.due(),
        "fixes": selectors.temporary_fixes(),
        "open_machines": selectors.standing_open(),
    }
    return render(request, "workshop/workshop.html", context)

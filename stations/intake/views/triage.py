"""Which paths the units of a lot take, by lead."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.flow.stage import GONE
from stations.buying.models import Lot
from stations.common.paging import first_of
from stations.common.typed import whole_number
from stations.intake import triage
from stations.people.screens import press
from stations.units import paths

MOST_TRIAGED = 200


def lot_triage(request, number):
    """The units of a lot with their paths, those first of which nobody decided, of them where a decision matters most;
    chosen one by one or all at once, MOST_TRIAGED at a time."""
    lot = get_object_or_404(Lot, number=number)
    units = paths.with_facts(lot.units.exclude(stage__in=GONE)).order_by("path", "number")
    if request.method == "POST":
        back = reverse("intake:lot-triage", args=[number])

        def act():
            picked = {whole_number(typed) for typed in request.POST.getlist("unit")} - {None}
            count = triage.choose_best(request.user, list(units.filter(number__in=picked)))
            messages.success(request, f"{count} decided: the path that should leave most.")
            return back

        return press(request, act, back)
    found = first_of(units, MOST_TRIAGED)
    rows = list(found)
    weighed = sorted(paths.weigh_paths(rows), key=lambda row: (bool(row.unit.path), -row.found.matters))
    known = {row.unit.pk for row in weighed}
    unsaid = [unit for unit in rows if paths.may_choose(unit) and unit.pk not in known]
    return render(request, "intake/lot_triage.html", {"lot": lot, "rows": weighed, "unsaid": unsaid, "found": found})

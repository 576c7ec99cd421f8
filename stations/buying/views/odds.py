"""The starting odds."""

from django.shortcuts import redirect, render
from django.urls import reverse

from core.buying.odds import OUTCOMES
from stations.buying import plans
from stations.buying.forms import StartingOddsForm
from stations.buying.models import Claim, LineKind
from stations.buying.record import said_or_usual, starting_table
from stations.people.screens import attempt


def odds(request):
    """The starting odds by claim, and by kind where the owner thinks otherwise of one: before anything is known."""
    table = starting_table()
    rows = [(claim, kind) for claim in Claim for kind in ("", *LineKind.values) if not kind or (claim, kind) in table]
    asked = request.POST or request.GET
    wanted = (asked.get("claim", ""), asked.get("kind", ""))
    if wanted[0] in Claim.values and wanted[1] in LineKind.values and wanted not in rows:
        rows.append(wanted)
    said = (request.POST.get("claim", ""), request.POST.get("kind", ""))
    forms = []
    for claim, kind in sorted(rows, key=lambda row: (Claim.values.index(row[0]), row[1])):
        row = said_or_usual(table, claim, kind)
        mine = request.method == "POST" and said == (claim, kind)
        form = StartingOddsForm(request.POST if mine else None, instance=row, auto_id=f"id_{claim}_{kind}_%s")
        if mine:

            def act(data, claim=claim, kind=kind):
                chosen = {outcome: data[outcome.value] for outcome in OUTCOMES}
                plans.change_starting_odds(request.user, claim, kind, data["version"], chosen)
                return reverse("buying:odds")

            if leads_to := attempt(request, form, act):
                return redirect(leads_to)
        forms.append((row, form, (claim, kind) in table))
    context = {"forms": forms, "claims": Claim.choices, "kinds": LineKind.choices}
    return render(request, "buying/odds.html", context)

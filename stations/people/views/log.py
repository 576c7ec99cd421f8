"""The log of the shop: all that anybody did, newest first."""

from collections import defaultdict

from django.shortcuts import render

from stations.common import clock
from stations.common.paging import ByKeys
from stations.people import history
from stations.people.forms import LogForm
from stations.people.models import HistoryEntry

PER_PAGE = 40
# Nobody pages through more; who looks for something older says up to which day.
MOST = 4000


def log(request):
    """All of it, or what was done to one kind of thing, by somebody, up to a day."""
    form = LogForm(request.GET or None)
    rows = HistoryEntry.objects.order_by("-when", "-pk")
    asked = form.cleaned_data if form.is_valid() else {}
    if asked.get("of"):
        rows = rows.filter(subject=asked["of"])
        if asked["pk"] is not None:
            rows = rows.filter(subject_id=asked["pk"])
    if asked.get("who"):
        rows = rows.filter(who=asked["who"])
    if asked.get("until"):
        # Nothing was done after today, and the last day of all has none after it.
        rows = rows.filter(when__lt=clock.span_of(min(asked["until"], clock.today()))[1])
    entries = HistoryEntry.objects.select_related("who")
    page = ByKeys(rows.values_list("pk", flat=True), entries, PER_PAGE, MOST).get_page(request.GET.get("page"))
    _place(page.object_list)
    narrowed = any(form.data.get(name) for name in form.fields)
    context = {"form": form, "page": page, "narrowed": narrowed}
    return render(request, "people/log.html", context)


def _place(rows) -> None:
    """Give each entry the place of what it was done to: a query for each kind of thing."""
    keys: dict[str, set[int]] = defaultdict(set)
    for row in rows:
        keys[row.subject].add(row.subject_id)
    found = {subject: history.places[subject](keys[subject]) for subject in keys if subject in set(history.places)}
    for row in rows:
        row.place = found.get(row.subject, {}).get(row.subject_id)

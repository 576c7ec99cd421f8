"""The labour clock and the minutes that were worked."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press, saved
from stations.workshop import services
from stations.workshop.forms import LabourForm, MinutesForm
from stations.workshop.models import LabourEntry
from stations.workshop.views.job import job_address, job_of, job_page


@require_POST
def minutes(request, pk):
    form = MinutesForm(request.POST)

    def save(data):
        services.log_labour(request.user, job_of(pk), data["minutes"], data["on"])

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), minutes=form)


@require_POST
def clock(request, pk, what):
    there = reverse("workshop:job", args=[pk])

    def act():
        try:
            if what == "start":
                services.start_clock(request.user, job_of(pk))
            else:
                services.stop_clock(request.user)
        except services.RanTooLong as long:
            return reverse("workshop:labour", args=[long.entry.pk])
        return there

    return press(request, act, there)


def labour(request, pk):
    """One entry of labour: how much of it was work."""
    entry = get_object_or_404(LabourEntry.objects.select_related("job__unit__model", "job__unit__lot", "person"), pk=pk)
    running = entry.running_for_id is not None
    last = services.last_recorded(entry) if running else None
    offered = round((last - entry.started_at).total_seconds() / 60) if last else None
    form = LabourForm(request.POST or None, entry=entry, initial={"minutes": offered} if running else {})
    if done := saved(
        request,
        form,
        lambda data: services.say_minutes(request.user, entry, data["minutes"], data["why"]),
        reverse("workshop:job", args=[entry.job_id]),
    ):
        return done
    corrects = "correct labour" if entry.person_id == request.user.pk else "correct somebody else’s labour"
    context = {
        "corrects": corrects,
        "entry": entry,
        "job": entry.job,
        "unit": entry.job.unit,
        "form": form,
        "running": running,
        "last": last,
    }
    if running:
        context["doubt"] = services.doubt_of(entry)
    return render(request, "workshop/labour.html", context)

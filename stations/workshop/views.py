from django import forms
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.flow.stage import Station
from core.safety import Hazard, said, when_taken_apart
from stations.bench import power
from stations.people.editing import attempt, press
from stations.people.permission import may
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit
from stations.units.selectors import units_at
from stations.workshop import selectors, services, taking_apart
from stations.workshop.forms import DoneForm, IssueForm, JobForm, KeptParts, LabourForm, MinutesForm
from stations.workshop.models import Job, LabourEntry, PartIssue


def workshop(request):
    page = Paginator(units_at(Station.WORKSHOP), 25).get_page(request.GET.get("page"))
    return render(request, "workshop/workshop.html", {"page": page})


def unit(request, number):
    """The jobs of a unit; the form opens another one."""
    units = Unit.objects.select_related("lot", "model").prefetch_related("recovered__item")
    row = get_object_or_404(units, number=number)
    form = JobForm(request.POST or None, unit=row)
    if request.method == "POST":

        def act(data):
            job = services.open_job(request.user, row, form.changes)
            return reverse("workshop:job", args=[job.pk])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "workshop/unit.html", {"unit": row, "form": form, "jobs": selectors.jobs_of(row)})


def take_apart(request, number):
    """What is kept of a donor, and what each part carries of its cost; asked for first, then done."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    parts = KeptParts(request.POST or None, prefix="parts")
    form = forms.Form(request.POST or None)
    shown = None
    if request.method == "POST" and parts.is_valid():
        cost, amounts = taking_apart.shares(row, parts.parts)
        shown = {"cost": cost, "rows": list(zip(parts.parts, amounts, strict=True))}

        def act(data):
            taking_apart.take_apart(request.user, row, parts.parts)
            return reverse("floor:unit", args=[number])

        if request.POST.get("do") == "keep" and (leads_to := attempt(request, form, act)):
            return redirect(leads_to)
    context = {
        "unit": row,
        "form": form,
        "parts": parts,
        "shown": shown,
        "hazard_words": said(when_taken_apart(bench_facts(row).tube)),
        "charges": power.charges_of(row),
        "charged": power.charged_words(row),
    }
    return render(request, "workshop/take_apart.html", context)


def job(request, pk):
    return _job_page(request, _job(pk))


def _job(pk) -> Job:
    return get_object_or_404(Job.objects.select_related("unit__lot", "unit__model", "finding"), pk=pk)


def _job_page(request, row, **given):
    context = {
        "job": row,
        "unit": row.unit,
        "issue": IssueForm(),
        "minutes": MinutesForm(),
        "done": DoneForm(),
        "issues": row.issues.select_related("item", "who"),
        "labour": row.labour.select_related("person"),
        "owns": may(request.user),
        "job_cautions": cautions_of(row),
        "charges": power.charges_of(row.unit),
        "charged": power.charged_words(row.unit) if row.is_open else "",
        **given,
    }
    return render(request, "workshop/job.html", context)


def change(request, pk):
    row = _job(pk)
    form = JobForm(request.POST or None, instance=row, unit=row.unit)
    if request.method == "POST":

        def act(data):
            services.change_job(request.user, _job(pk), data["version"], form.changes)
            return reverse("workshop:job", args=[pk])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "workshop/job_form.html", {"job": row, "unit": row.unit, "form": form})


def cautions_of(job: Job) -> tuple[str, ...]:
    """The cautions that fit this very job: what it was said to involve."""
    return said(Hazard(name) for name in job.involves if name in set(Hazard))


def _posted(request, pk, form, act, name):
    """One form of the job page was sent: do it, or show the page again with what was typed."""

    def do(data):
        act(_job(pk), data)
        return reverse("workshop:job", args=[pk])

    if leads_to := attempt(request, form, do):
        return redirect(leads_to)
    return _job_page(request, _job(pk), **{name: form})


@require_POST
def issue(request, pk):
    def act(row, data):
        services.issue_part(request.user, row, data["item"], data["quantity"])

    return _posted(request, pk, IssueForm(request.POST), act, "issue")


@require_POST
def minutes(request, pk):
    def act(row, data):
        services.log_labour(request.user, row, data["minutes"])

    return _posted(request, pk, MinutesForm(request.POST), act, "minutes")


@require_POST
def done(request, pk):
    def act(row, data):
        services.finish_job(request.user, row, data["result"], data["original_kept"], data["publish_result"])

    return _posted(request, pk, DoneForm(request.POST), act, "done")


@require_POST
def clock(request, pk, what):
    there = reverse("workshop:job", args=[pk])

    def act():
        if what == "start":
            services.start_clock(request.user, _job(pk))
            return there
        try:
            services.stop_clock(request.user)
        except services.RanTooLong as long:
            return reverse("workshop:labour", args=[long.entry.pk])
        return there

    return press(request, act, there)


def labour(request, pk):
    """One entry of labour: how much of it was work."""
    entry = get_object_or_404(LabourEntry.objects.select_related("job__unit__model", "job__unit__lot", "person"), pk=pk)
    running = entry.running_for_id is not None
    form = LabourForm(request.POST or None, initial={} if running else {"minutes": entry.minutes})
    if request.method == "POST":

        def act(data):
            services.say_minutes(request.user, entry, data["minutes"], data["why"])
            return reverse("workshop:job", args=[entry.job_id])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    context = {"entry": entry, "job": entry.job, "unit": entry.job.unit, "form": form, "running": running}
    return render(request, "workshop/labour.html", context)


@require_POST
def make_good(request, pk):
    there = reverse("workshop:job", args=[pk])

    def act():
        services.resolve_temporary_fix(request.user, _job(pk), request.POST.get("how", "").strip())
        return there

    return press(request, act, there)


@require_POST
def return_part(request, pk):
    row = get_object_or_404(PartIssue, pk=pk)
    there = reverse("workshop:job", args=[row.job_id])

    def act():
        services.return_part(request.user, row)
        return there

    return press(request, act, there)

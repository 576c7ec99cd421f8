"""One job: its parts, minutes, cautions, end."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.catalogue.recipes import JobKind, Proof
from core.safety import Hazard, said
from core.workshop.storage.install import WRITE
from stations.bench import power
from stations.common import clock
from stations.common.refusals import Refused
from stations.people.permissions import may
from stations.people.screens import press, saved, sent
from stations.stock import drawer
from stations.workshop import (
    as_found,
    attempts,
    care,
    consumables,
    issuing,
    recipe_run,
    reopening,
    services,
    spending,
    storage,
)
from stations.workshop.approach import no_work
from stations.workshop.care_drawing import fall_drawn, painting_drawn
from stations.workshop.forms import (
    CancelForm,
    DoneForm,
    FitForm,
    IssueForm,
    JobForm,
    LeaveOutForm,
    MinutesForm,
    StepDoneForm,
)
from stations.workshop.forms_storage import FailedForm, ReadBackForm
from stations.workshop.models import Job, PartIssue, Reservation
from stations.workshop.new_job import JobDetails
from stations.workshop.recipe_record import recipe_record
from stations.workshop.storage_drawing import BESIDE, drawn


def job(request, pk):
    return job_page(request, job_of(pk))


def job_of(pk) -> Job:
    return get_object_or_404(Job.objects.select_related("unit__lot", "unit__model", "finding", "holder", "care"), pk=pk)


def job_page(request, row, **given):
    of_recipe = recipe_run.steps_of_job(row)
    whitening, painting = care.whitening_of(row, of_recipe), care.painting_of(row, of_recipe)
    context = {
        "job": row,
        "unit": row.unit,
        "issue": IssueForm(job=row),
        "minutes": MinutesForm(),
        "done": DoneForm(job=row),
        "issues": [
            (one, FitForm(auto_id=f"fit_{one.pk}_%s")) for one in row.issues.select_related("item", "who", "part")
        ],
        "reserved": row.reservations.select_related("item", "who"),
        "labour": row.labour.select_related("person"),
        "owns": may(request.user, "correct somebody else’s labour"),
        "job_cautions": cautions_of(row),
        "charges": power.charges_of(row.unit),
        "charged": power.charged_words(row.unit) if row.is_open else "",
        "took": _took(row),
        "opens_again": not row.is_open and not no_work(row.unit),
        "whitening": whitening,
        "pair": care.before_after(of_recipe, whitening),
        "fall": fall_drawn(whitening) if whitening else None,
        "painting": painting_drawn(painting) if painting else None,
        **_drive(row),
        "asked_as_found": row.is_open and as_found.wanted(row.unit),
        **_steps(row),
        **given,
    }
    return render(request, "workshop/job.html", context)


def _took(job: Job) -> tuple[int, int] | None:
    """Between how many minutes 8 in 10 of its recipe take; None for a job without one."""
    if not job.recipe_minutes:
        return None
    learned = recipe_record().took(job.recipe)
    return max(1, round(job.recipe_minutes * learned.low)), round(job.recipe_minutes * learned.high)


def _steps(job: Job) -> dict:
    """The steps of its recipe, with the one in hand."""
    steps = recipe_run.steps_of_job(job)
    now = recipe_run.in_hand(steps) if job.is_open else None
    window = recipe_run.window_of(steps, now.index) if now else None
    return {
        "steps": steps,
        "now": now,
        "settled": sum(step.settled for step in steps),
        "shut": recipe_run.shut(job, now) if now else "",
        "window": window,
        "too_late": window is not None and window < clock.now(),
        "on_photo": care.on_photo(job, steps) if now and now.step.proof is Proof.COLOUR else None,
        "to_take": consumables.to_take(job, steps) if now else [],
        **_attempts(job, now),
        "step_form": StepDoneForm(),
        "leave_form": LeaveOutForm(),
    }


def _drive(job: Job) -> dict:
    """The drive a job sets up, drawn."""
    found = storage.plan_of(job)
    return {"found": found, **drawn(found, BESIDE)} if found else {}


def _attempts(job: Job, now) -> dict:
    """What was tried at the step in hand of an installation, and what worked before."""
    if now is None or job.kind != JobKind.SOFTWARE:
        return {}
    before = attempts.variants_at(job, now.step.instruction)
    tried = [one for one in job.attempts.select_related("who") if one.index == now.index]
    best = next((one for one in before if one.worked), None)
    return {
        "failing": True,
        "tried": tried,
        "images": attempts.images_for(now.step.instruction),
        "best_variant": best,
        "failed_form": FailedForm(),
        "read_form": ReadBackForm(),
        "read_back": attempts.read_back(job, now.index) if now.step.instruction.startswith(WRITE) else None,
    }


def change(request, pk):
    row = job_of(pk)
    form = JobForm(request.POST or None, instance=row, unit=row.unit)
    if done := saved(
        request,
        form,
        lambda data: services.change_job(request.user, job_of(pk), data["version"], JobDetails(**form.changes)),
        reverse("workshop:job", args=[pk]),
    ):
        return done
    context = {"job": row, "unit": row.unit, "form": form, "cancel_form": CancelForm()}
    return render(request, "workshop/job_form.html", context)


@require_POST
def cancel(request, pk):
    row = job_of(pk)
    there = reverse("workshop:unit", args=[row.unit.number])
    form = CancelForm(request.POST)
    if done := saved(request, form, lambda data: services.cancel_job(request.user, row, data["why"]), there):
        return done
    change_form = JobForm(instance=row, unit=row.unit)
    context = {"job": row, "unit": row.unit, "form": change_form, "cancel_form": form}
    return render(request, "workshop/job_form.html", context)


def cautions_of(job: Job) -> tuple[str, ...]:
    """The cautions that fit this very job: what it was said to involve."""
    return said(Hazard(name) for name in job.involves if name in set(Hazard))


@require_POST
def issue(request, pk):
    row = job_of(pk)
    form = IssueForm(request.POST, job=row)
    if doubt := _doubt(request, row, form):
        return job_page(request, row, issue=form, doubt=doubt)

    def save(data):
        amount = drawer.typed_amount(data["item"], data["quantity"])
        if "reserve" in request.POST:
            issuing.reserve(request.user, job_of(pk), data["item"], amount)
            return
        issuing.issue_part(request.user, job_of(pk), data["item"], amount)
        if sent(request, "sure"):
            spending.asked_before(job_of(pk), data["item"])

    return saved(request, form, save, job_address(pk)) or job_page(request, row, issue=form)


def _doubt(request, job: Job, form: IssueForm):
    """What is asked before a part is issued that costs more than it adds; None where there is nothing to ask."""
    if "reserve" in request.POST or sent(request, "sure") or not form.is_valid():
        return None
    item = form.cleaned_data["item"]
    try:
        amount = drawer.typed_amount(item, form.cleaned_data["quantity"])
    except Refused:
        # Said where it is issued.
        return None
    return spending.doubt_of_issue(job, item, amount)


@require_POST
def done(request, pk):
    form = DoneForm(request.POST, job=job_of(pk))

    def save(data):
        services.finish_job(request.user, job_of(pk), form.came_of_it)

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), done=form)


@require_POST
def say_worked(request, pk):
    """Whether it did what it was for, said after it was closed."""

    def act():
        said_so = sent(request, "worked")
        if said_so not in {"yes", "no"}:
            raise Refused("Say yes or no.")
        services.say_worked(request.user, job_of(pk), said_so == "yes", sent(request, "why"))

    return press(request, act, job_address(pk), "why")


def job_address(pk):
    return reverse("workshop:job", args=[pk])


@require_POST
def make_good(request, pk):
    there = reverse("workshop:job", args=[pk])

    return press(request, lambda: services.resolve_temporary_fix(request.user, job_of(pk), sent(request, "how")), there)


@require_POST
def not_done(request, pk):
    """It was closed by mistake."""
    return press(
        request, lambda: reopening.not_done(request.user, job_of(pk), sent(request, "why")), job_address(pk), "why"
    )


@require_POST
def still_temporary(request, pk):
    """It was said to be made good by mistake."""
    return press(
        request,
        lambda: services.still_temporary(request.user, job_of(pk), sent(request, "why")),
        job_address(pk),
        "why",
    )


@require_POST
def return_part(request, pk):
    row = get_object_or_404(PartIssue, pk=pk)
    there = reverse("workshop:job", args=[row.job_id])

    return press(request, lambda: issuing.return_part(request.user, row), there)


@require_POST
def let_go(request, pk):
    """What was held for a job is free again; pressed twice it is free all the same."""
    row = get_object_or_404(Reservation.objects.select_related("job", "item"), pk=pk)

    return press(request, lambda: issuing.let_go(request.user, row), job_address(row.job_id))


@require_POST
def fit(request, pk):
    """Where a piece that was issued sits now."""
    row = get_object_or_404(PartIssue.objects.select_related("job"), pk=pk)
    form = FitForm(request.POST)

    def save(data):
        issuing.fit_issue(request.user, row, form.chosen, data["slot"], data["serial"])

    return saved(request, form, save, job_address(row.job_id)) or job_page(request, job_of(row.job_id), fit=(pk, form))

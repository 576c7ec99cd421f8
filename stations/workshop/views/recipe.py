"""The steps of a job's recipe: done, started, left out, one back, taken over."""

from django.views.decorators.http import require_POST

from stations.common.typed import whole_number
from stations.people.screens import press, saved, sent
from stations.workshop import consumables, recipe_run
from stations.workshop.forms import LeaveOutForm, StepDoneForm
from stations.workshop.views.job import job_address, job_of, job_page


@require_POST
def done(request, pk):
    form = StepDoneForm(request.POST, request.FILES)

    def save(data):
        typed = data["from_photo"] or data["typed"]
        recipe_run.do_step(request.user, job_of(pk), data["at"], typed, data["note"], data["photo"], data["air"])

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), step_form=form)


@require_POST
def left_out(request, pk):
    form = LeaveOutForm(request.POST)

    def save(data):
        recipe_run.leave_out(request.user, job_of(pk), data["at"], data["why"])

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), leave_form=form)


@require_POST
def begin(request, pk):
    """Start the time of what runs by itself."""
    form = StepDoneForm(request.POST)

    def save(data):
        recipe_run.start_alone(request.user, job_of(pk), data["at"], data["note"], data["air"])

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), step_form=form)


@require_POST
def take(request, pk):
    """What the step in hand takes, out of its drawers."""
    at = whole_number(sent(request, "at"))
    index = -1 if at is None else at
    return press(request, lambda: consumables.take(request.user, job_of(pk), index), job_address(pk))


@require_POST
def back(request, pk):
    return press(request, lambda: recipe_run.step_back(request.user, job_of(pk)), job_address(pk))


@require_POST
def take_over(request, pk):
    return press(request, lambda: recipe_run.take_over_job(request.user, job_of(pk)), job_address(pk))

"""Care of a unit: a cleaning, a whitening or a repaint planned and made a job; a whitening stopped."""

from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.catalogue.recipes import JobKind
from core.machine.approach import Approach
from core.workshop.care import CareError
from core.workshop.care.agents import NEUTRALISERS, Agent, Surface, bears, clash, may_be_mixed
from core.workshop.care.plans import SCHOOLS, whitening_refused
from stations.people.screens import press, sent
from stations.units.models import Unit
from stations.workshop import care, recipe_run
from stations.workshop.care_drawing import cylinders_of
from stations.workshop.forms_care import FORMS
from stations.workshop.views.job import job_address, job_of

CARE = [JobKind.CLEAN.value, JobKind.WHITEN.value, JobKind.REFINISH.value]


def planner(request, number, what="clean"):
    """What it is to be, the plan with its amounts and cautions, and the button that makes a job of it."""
    unit = _unit(number)
    if what not in FORMS:
        raise Http404
    form = FORMS[what](request.GET or None, unit=unit)
    if form.is_bound:
        form.is_valid()
    approach = Approach(unit.approach) if unit.approach else None
    mixture = getattr(form, "mixture", None)
    context = {
        "unit": unit,
        "what": what,
        "form": form,
        "plan": form.recipe,
        "mixture": mixture,
        "cylinders": cylinders_of(mixture) if mixture else [],
        "schools": SCHOOLS,
        "refused": whitening_refused(approach) if what == "whiten" else "",
        "markings": recipe_run.unphotographed(unit),
        "jobs": unit.jobs.filter(kind__in=CARE).order_by("-id")[:12],
    }
    return render(request, "workshop/care.html", context)


@require_POST
def make(request, number, what):
    """A job of the plan that is shown."""
    unit = _unit(number)
    if what not in FORMS:
        raise Http404
    form = FORMS[what](request.POST, unit=unit)
    if not form.is_valid() or form.recipe is None:
        context = {"unit": unit, "what": what, "form": form, "schools": SCHOOLS}
        return render(request, "workshop/care.html", context, status=422)
    recipe = form.recipe

    def act():
        return job_address(care.plan(request.user, unit, recipe).pk)

    return press(request, act, reverse("workshop:care-plan", args=[number, what]))


@require_POST
def stop(request, pk):
    """No more rounds of a whitening."""
    why = sent(request, "why") or "stopped"
    return press(request, lambda: care.stop_whitening(request.user, job_of(pk), why[:160]), job_address(pk))


def agents(request):
    """What each surface bears, what must not meet, and what takes a leak away."""
    rows = [(surface, [(agent, bears(surface, agent)) for agent in _SHOWN]) for surface in Surface]
    clashes = [
        (one, other, why)
        for place, one in enumerate(Agent)
        for other in list(Agent)[place + 1 :]
        if (why := clash(one, other))
    ]
    asked = [Agent(one) for one in request.GET.getlist("agent")[:2] if one in set(Agent)]
    said = ""
    if len(asked) == 2:
        try:
            may_be_mixed(asked)
            said = f"{asked[0]} and {asked[1]} may meet."
        except CareError as problem:
            said = str(problem)
    context = {
        "rows": rows,
        "agents": _SHOWN,
        "every": list(Agent),
        "asked": asked,
        "said": said,
        "clash": len(asked) == 2 and clash(*asked),
        "clashes": clashes,
        "leaks": NEUTRALISERS.items(),
    }
    return render(request, "workshop/agents.html", context)


_SHOWN = [agent for agent in Agent if agent is not Agent.WATER]


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "line", "model"), number=number)

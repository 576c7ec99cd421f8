"""Care of a unit: planned with its amounts and cautions, made a job; a whitening stopped; what sits where measured."""

from decimal import Decimal

from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.machine.approach import Approach
from core.machine.casing import BOX, Face
from core.workshop.care import CareError
from core.workshop.care.agents import NEUTRALISERS, Agent, Surface, bears, clash, may_be_mixed
from core.workshop.care.plans import whitening_refused
from core.workshop.care.recondition import Kind
from core.workshop.care.region import Region
from stations.common.refusals import within
from stations.common.typed import whole_number
from stations.people.screens import press, saved, sent
from stations.units.models import Unit, UnitFact
from stations.workshop import care, care_planning, consumables, glue, placing, recipe_run
from stations.workshop.care_drawing import cylinders_of
from stations.workshop.care_map import care_map, faces_drawn
from stations.workshop.care_planning import ANSWERS, case_colour, region_of
from stations.workshop.forms_care import FORMS, FinishForm, PlacementForm
from stations.workshop.models import CarePlan, GlueWatch
from stations.workshop.views.job import job_address, job_of


def planner(request, number, what="clean"):
    """What it is to be, the plan with its amounts and cautions, and the button that makes a job of it."""
    unit = _unit(number)
    if what not in FORMS:
        raise Http404
    asked = request.GET.dict()
    finding = _finding(unit, asked.get("finding", ""))
    # A finding alone only says where; a plan is worked out once the form was sent.
    sent_whole = bool(asked.keys() - {"finding"})
    form = FORMS[what](request.GET if sent_whole else None, unit=unit, initial=_of_finding(finding))
    if form.is_bound:
        form.is_valid()
    return _page(request, unit, what, form)


def _page(request, unit, what, form, status=200, **given):
    planned = form.planned
    approach = Approach(unit.approach) if unit.approach else None
    findings = list(unit.findings.select_related("photo"))
    before = list(CarePlan.objects.filter(job__unit=unit).select_related("job").order_by("-id")[:12])
    region = planned.region if planned else _drawn_region(form)
    mixture = getattr(form, "mixture", None)
    context = {
        "unit": unit,
        "what": what,
        "tabs": TABS,
        "form": form,
        "plan": planned.recipe if planned else None,
        "planned": planned,
        "plan_steps": _with_cautions(planned.recipe) if planned else [],
        "mixture": mixture,
        "cylinders": cylinders_of(mixture) if mixture else [],
        "schools": form.beside() if what == "whiten" else [],
        "refused": whitening_refused(approach) if what == "whiten" else "",
        "markings": recipe_run.unphotographed(unit),
        "care_jobs": [one.job for one in before],
        "seen": [(one, ANSWERS[one.kind]) for one in findings if one.is_open and one.kind in ANSWERS],
        "wanted": consumables.wanted(planned.recipe) if planned else [],
        "matches": getattr(form, "matches", []),
        "finish": FinishForm() if what == "clean" else None,
        "finish_said": unit.facts.filter(kind=UnitFact.Kind.FINISH).last(),
        "glue": glue.record() if what == "recondition" else "",
        "case_colour": case_colour(unit) if what == "repaint" else None,
        **given,
    }
    if what in ON_THE_CASE:
        context["desk"] = care_map(unit, findings, before, region)
        context["phone"] = care_map(unit, findings, before, region, narrow=True)
    if what == "stick":
        context["faces"] = faces_drawn(unit, placing.kept(unit))
        context["placements"] = placing.rows(unit)
        context.setdefault("placement", PlacementForm())
    return render(request, "workshop/care.html", context, status=status)


def _with_cautions(recipe):
    """Each step, and the step at which its very cautions stand already; None where they are new."""
    first: dict[tuple, int] = {}
    return [
        (step, said if (said := first.setdefault((step.hazards, step.caution), number)) != number else None)
        for number, step in enumerate(recipe.steps, 1)
    ]


TABS = [
    ("clean", "Clean"),
    ("whiten", "Whiten"),
    ("repaint", "Repaint"),
    ("recondition", "Recondition"),
    ("stick", "Feet, badges, labels"),
]
ON_THE_CASE = {"clean", "whiten", "repaint"}


def _finding(unit, typed):
    number = whole_number(typed)
    return unit.findings.filter(pk=number).first() if number else None


def _of_finding(finding):
    """What a finding says of a plan: where it lies."""
    if finding is None:
        return {}
    if finding.is_hazard:
        return {"finding": finding.pk, "kind": Kind.BATTERY.value, "leaked": "yes" if finding.is_leak else ""}
    if finding.face not in set(BOX):
        return {"finding": finding.pk}
    region = region_of(finding)
    shares = {name: f"{100 * getattr(region, name):.1f}" for name in ("left", "top", "wide", "high")}
    return {"finding": finding.pk, "face": finding.face, **shares}


def _drawn_region(form):
    """The region of a form that is no plan yet, where it can be read."""
    if form.is_bound or "left" not in form.fields or not form.initial.get("face"):
        return None
    shares = (Decimal(form.initial[name]) / 100 for name in ("left", "top", "wide", "high"))
    return Region(Face(form.initial["face"]), *shares)


@require_POST
def make(request, number, what):
    """A job of the plan that is shown."""
    unit = _unit(number)
    if what not in FORMS:
        raise Http404
    form = FORMS[what](request.POST, unit=unit)
    if not form.is_valid() or form.planned is None:
        return _page(request, unit, what, form, status=422)
    planned, finding = form.planned, _finding(unit, sent(request, "finding"))

    def act():
        return job_address(care_planning.plan(request.user, unit, planned, finding).pk)

    return press(request, act, reverse("workshop:care-plan", args=[number, what]))


@require_POST
def measure(request, number):
    """Where a foot, badge or label sits, kept with the model."""
    unit = _unit(number)
    form = PlacementForm(request.POST)
    there = reverse("workshop:care-plan", args=[number, "stick"])

    def save(data):
        placing.measure(request.user, unit, form.placed)

    if done := saved(request, form, save, there):
        return done
    return _page(request, unit, "stick", FORMS["stick"](None, unit=unit), placement=form)


@require_POST
def drop(request, number, pk):
    unit = _unit(number)
    there = reverse("workshop:care-plan", args=[number, "stick"])
    return press(request, lambda: placing.drop(request.user, unit, pk), there)


@require_POST
def stop(request, pk):
    """No more rounds of a whitening."""
    why = sent(request, "why") or "stopped"
    return press(
        request, lambda: care.stop_whitening(request.user, job_of(pk), within(why, 160, "why")), job_address(pk)
    )


@require_POST
def finish(request, number):
    """What somebody who looked says of the finish."""
    unit = _unit(number)
    form = FinishForm(request.POST)
    there = reverse("workshop:care", args=[number])

    def save(data):
        care_planning.say_finish(request.user, unit, data["which"], data["seen"])

    if done := saved(request, form, save, there):
        return done
    return _page(request, unit, "clean", FORMS["clean"](None, unit=unit), finish=form)


@require_POST
def look(request, pk):
    """Somebody looked whether glue held."""
    watched = get_object_or_404(GlueWatch.objects.select_related("unit"), pk=pk)
    there = reverse("workshop:unit", args=[watched.unit.number])
    if "not" in request.POST:
        return press(request, lambda: glue.not_looked(request.user, watched), there)
    return press(request, lambda: glue.look(request.user, watched, "held" in request.POST), there)


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

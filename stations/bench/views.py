from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.bench.plan import Outcome, Standing, compose
from core.bench.verdict import judge
from core.flow.stage import Station
from core.quantities import QuantityError, parse_reading
from stations.bench import selectors, services
from stations.bench.drawing import limit_band
from stations.bench.forms import StepForm
from stations.bench.models import TestRun
from stations.intake.models import Unit
from stations.intake.selectors import units_at
from stations.people.editing import attempt, press


def bench(request):
    page = Paginator(units_at(Station.BENCH), 25).get_page(request.GET.get("page"))
    return render(request, "bench/bench.html", {"page": page})


def unit(request, number):
    """The open run of a unit; without one, the plan that would be run and the runs that were."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    run = TestRun.objects.filter(open_for=row).first()
    if run:
        return _run_screen(request, row, run)
    plan = compose(services.bench_facts(row))
    runs = [(run, _lines(run)) for run in row.runs.order_by("-number")[:5]]
    return render(
        request, "bench/plan.html", {"unit": row, "plan": plan, "runs": runs, "minutes": sum(c.minutes for c in plan)}
    )


def _lines(run):
    results = services.latest(run)
    return [(rung, results.get(rung.check.code)) for rung in services.rungs_of(run, results)]


def _run_screen(request, row, run):
    form = StepForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            services.record_result(
                request.user, run, data["code"], Outcome(data["outcome"]), data["reading"], data["reason"]
            )
            return reverse("bench:unit", args=[row.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    results = services.latest(run)
    rungs = services.rungs_of(run, results)
    wanted = request.POST.get("code") or request.GET.get("step")
    now = _chosen(rungs, wanted)
    context = {
        "unit": row,
        "run": run,
        "form": form,
        "rungs": [(rung, results.get(rung.check.code)) for rung in rungs],
        "now": now,
        "done": sum(rung.standing not in {Standing.NOW, Standing.TO_DO, Standing.LOCKED} for rung in rungs),
    }
    if now:
        mine = results.get(now.check.code)
        context["mine"] = mine
        if now.check.limits:
            typed = form.data.get("reading", "") if form.is_bound else ""
            context |= _band(row, now.check, typed, mine)
    return render(request, "bench/run.html", context, status=422 if form.errors else 200)


def _band(row, check, typed, mine=None):
    """The limit band with what is typed, or else what was recorded, on it; and the verdict on that."""
    value = uncertainty = judgement = None
    if typed:
        try:
            value = parse_reading(typed, check.limits.unit)
            uncertainty = services.uncertainty_of(check, value)
        except QuantityError:
            pass
    elif mine and mine.reading is not None:
        value, uncertainty = mine.reading, mine.uncertainty
    if value is not None:
        judgement = judge(value, uncertainty, check.limits)
    earlier = [r.reading for r in selectors.earlier_readings(row, check.code) if not mine or r.pk != mine.pk]
    return {"check": check, "judgement": judgement, "band": limit_band(check.limits, value, uncertainty, earlier)}


def band(request, number, code):
    """The band for a reading that is being typed: a partial for htmx. Nothing is recorded."""
    row = get_object_or_404(Unit, number=number)
    check = services.BY_CODE.get(code)
    if check is None or check.limits is None:
        raise Http404
    return render(request, "bench/_band.html", _band(row, check, request.GET.get("reading", "")[:24]))


def _chosen(rungs, wanted):
    """The step asked for if it is open; else the one that is due; else the first that failed."""
    open_rungs = [rung for rung in rungs if rung.standing is not Standing.LOCKED]
    by_code = {rung.check.code: rung for rung in open_rungs}
    due = next((rung for rung in open_rungs if rung.standing is Standing.NOW), None)
    failed = next((rung for rung in open_rungs if rung.standing is Standing.FAILED), None)
    return by_code.get(wanted) or due or failed or (open_rungs[-1] if open_rungs else None)


@require_POST
def start(request, number):
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    def act():
        services.start_run(request.user, row, cold=request.POST.get("cold", "yes") == "yes")
        return there

    return press(request, act, there)


@require_POST
def end(request, number):
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    def act():
        services.end_run(request.user, get_object_or_404(TestRun, open_for=row))
        return there

    return press(request, act, there)

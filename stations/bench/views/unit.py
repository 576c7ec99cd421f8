"""The page of a unit at the bench: its open run, or else the plan that would be run and the runs that were."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.bench.plan import Outcome, StepState
from core.bench.seen import seen_at
from core.bench.verdict import HAND_METER
from stations.bench import benchmarks, fixes, instruments, notes, power, services, stops, timers
from stations.bench.drawing import sure_bar
from stations.bench.forms import StepForm
from stations.bench.models import TestRun
from stations.bench.views.reading import reading_context, taken_reading
from stations.common import clock
from stations.people.permissions import may
from stations.people.screens import kept_words, saved
from stations.units import seen
from stations.units.as_it_is import bench_facts, left_out_of, wanted_adapter
from stations.units.models import Unit


def unit(request, number):
    """The open run of a unit; without one, the plan that would be run and the runs that were."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    run = TestRun.objects.filter(open_for=row).select_related("holder", "started_by").first()
    if run:
        return _run_screen(request, row, run)
    if request.method == "POST":
        kept = kept_words(request, "reading", "reason")
        messages.error(request, f"The run on this unit is over, so nothing was recorded.{kept}")
    return _plan_screen(request, row)


def _plan_screen(request, row):
    facts = bench_facts(row)
    plan = services.plans_for([row])[row.pk]
    newest = row.runs.select_related("started_by").prefetch_related("notes__who", "notes__clip").order_by("-number")[:5]
    runs = [(run, services.steps_with_results(run)) for run in newest]
    sure = fixes.sureness_of(row)
    trials = fixes.trials_of(row)
    context = {
        "unit": row,
        "facts": facts,
        "left_out": left_out_of(row, row.contents.all()),
        "plan": plan,
        "runs": runs,
        "minutes": sum(c.minutes for c in plan),
        "sure": sure,
        "sure_bar": sure_bar(sure),
        "hangs_on": fixes.hangs_on(trials),
        "fixes": fixes.fixes_of(row, trials),
        "starts": row.starts.select_related("who").order_by("-when")[:8],
        "fault": row.faults.filter(closed_at=None).first(),
        "benchmarks": benchmarks.benchmarks_of(row),
        "startable": bool(runs) and not row.closed_to_work,
        "no_start": services.why_no_start(row),
        "temperature": power.temperature_of(row),
        **stops.on_page(request.user, row),
    }
    return render(request, "bench/plan.html", context)


def _run_screen(request, row, run):
    form = StepForm(request.POST or None)
    if done := saved(
        request,
        form,
        lambda data: services.record_result(
            request.user,
            run,
            data["code"],
            Outcome(data["outcome"]),
            reason=data["reason"],
            taken=taken_reading(data["reading"], data["taken"], data["read_on"]),
        ),
        reverse("bench:unit", args=[row.number]),
    ):
        return done
    results = services.latest(run)
    steps = services.steps_of(run, results)
    wanted = request.POST.get("code") or request.GET.get("step")
    now = _chosen(steps, wanted)
    sure = fixes.sureness_of(row)
    context = {
        "unit": row,
        "run": run,
        "form": form,
        "steps": [(step, results.get(step.check.code)) for step in steps],
        "now": now,
        "done": sum(step.state not in {StepState.NOW, StepState.TO_DO, StepState.LOCKED} for step in steps),
        "timers": timers.running(run),
        "clock": clock.now(),
        "in_other_hands": services.in_other_hands(request.user, run),
        "instruments": instruments.by_role(),
        "sure": sure,
        "sure_bar": sure_bar(sure),
        "facts": bench_facts(row),
        "left_out": left_out_of(row, row.contents.all()),
        "adapter": wanted_adapter(row),
        "may_waive": may(request.user, "waive a gate or a time"),
        "hand_meter": HAND_METER,
        "asked": form.asked,
        "charged": power.charged_words(row),
        **stops.on_page(request.user, row),
    }
    if now:
        mine = results.get(now.check.code)
        context["mine"] = mine
        context["notes"] = notes.notes_of(run, now.check.code)
        context["not_said"] = seen.asked(row, seen_at(now.check, context["facts"]))
        timer = next((t for t in context["timers"] if t.code == now.check.code), None)
        context |= {"timer": timer, "time_over": bool(timer) and timer.ends_at <= context["clock"]}
        if now.check.asks:
            typed = form.data.get("reading", "") if form.is_bound else ""
            token, read_on = (form.data.get(n, "") if form.is_bound else "" for n in ("taken", "read_on"))
            context |= reading_context(row, now.check, taken_reading(typed, token, read_on), mine)
    return render(request, "bench/run.html", context, status=422 if form.errors else 200)


def _chosen(steps, wanted):
    """The step asked for if it is open; else the one that is due; else the first that failed."""
    open_steps = [step for step in steps if step.state is not StepState.LOCKED]
    by_code = {step.check.code: step for step in open_steps}
    due = next((step for step in open_steps if step.state is StepState.NOW), None)
    failed = next((step for step in open_steps if step.state is StepState.FAILED), None)
    return by_code.get(wanted) or due or failed or (open_steps[-1] if open_steps else None)

"""The run screen and what stands around it: starting, taking over, timers, readings by instrument, the report."""

from django.contrib import messages
from django.core import signing
from django.core.paginator import Paginator
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.bench.checks import Kind
from core.bench.plan import Outcome, Standing, compose
from core.bench.verdict import judge
from core.bench.worked import SUMS
from core.flow.stage import GONE, Station
from stations.bench import evidence, fixes, instruments, notes, power, selectors, services, stops, timers
from stations.bench.drawing import limit_band, load_chart, sure_bar
from stations.bench.forms import EndStopForm, StepForm
from stations.bench.library import library
from stations.bench.models import Instrument, PowerStop, TestRun
from stations.bench.readings import Taken, instrument_of, judged, load_points
from stations.bench.report import pdf
from stations.common import clock
from stations.common.refusals import Refused
from stations.people.editing import attempt, kept_words, once, press
from stations.people.permission import may
from stations.units import dealt_with
from stations.units.as_it_is import bench_facts, wanted_adapter
from stations.units.models import Unit
from stations.units.selectors import units_at


def bench(request):
    """What stands at the bench, and what runs by itself just now."""
    page = Paginator(units_at(Station.BENCH), 25).get_page(request.GET.get("page"))
    now = clock.now()
    return render(request, "bench/bench.html", {"page": page, "timers": timers.running()[:40], "now": now})


def unit(request, number):
    """The open run of a unit; without one, the plan that would be run and the runs that were."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    run = TestRun.objects.filter(open_for=row).select_related("holder", "started_by").first()
    if run:
        return _run_screen(request, row, run)
    if request.method == "POST":
        kept = kept_words(request, "reading", "reason")
        messages.error(request, f"The run on this unit is over, so nothing was recorded.{kept}")
    facts = bench_facts(row)
    plan = compose(facts, library())
    newest = row.runs.select_related("started_by").prefetch_related("notes__who", "notes__clip").order_by("-number")[:5]
    runs = [(run, services.lines_of(run)) for run in newest]
    sure = evidence.sureness_of(row)
    trials = fixes.trials_of(row)
    context = {
        "unit": row,
        "facts": facts,
        "plan": plan,
        "runs": runs,
        "minutes": sum(c.minutes for c in plan),
        "sure": sure,
        "sure_bar": sure_bar(sure),
        "hangs_on": fixes.hangs_on(trials),
        "fixes": fixes.fixes_of(row, trials),
        "starts": row.starts.select_related("who").order_by("-when")[:8],
        "fault": row.faults.filter(closed_at=None).first(),
        "benchmarks": evidence.benchmarks_of(row),
        "startable": row.runs.exists() and row.stage not in GONE,
        "temperature": power.temperature_of(row),
        **stops.on_page(request.user, row),
    }
    return render(request, "bench/plan.html", context)


def _run_screen(request, row, run):
    form = StepForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            services.record_result(
                request.user,
                run,
                data["code"],
                Outcome(data["outcome"]),
                reason=data["reason"],
                taken=_taken(data["reading"], data["taken"], data["read_on"]),
            )
            return reverse("bench:unit", args=[row.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    results = services.latest(run)
    rungs = services.rungs_of(run, results)
    wanted = request.POST.get("code") or request.GET.get("step")
    now = _chosen(rungs, wanted)
    sure = evidence.sureness_of(row)
    context = {
        "unit": row,
        "run": run,
        "form": form,
        "rungs": [(rung, results.get(rung.check.code)) for rung in rungs],
        "now": now,
        "done": sum(rung.standing not in {Standing.NOW, Standing.TO_DO, Standing.LOCKED} for rung in rungs),
        "timers": timers.running(run),
        "clock": clock.now(),
        "mine_to_do": run.holder_id in {None, request.user.pk},
        "instruments": instruments.by_role(),
        "sure": sure,
        "sure_bar": sure_bar(sure),
        "facts": bench_facts(row),
        "adapter": wanted_adapter(row),
        "may_waive": may(request.user),
        "charged": power.charged_words(row),
        **stops.on_page(request.user, row),
    }
    if now:
        mine = results.get(now.check.code)
        context["mine"] = mine
        context["notes"] = notes.notes_of(run, now.check.code)
        timer = next((t for t in context["timers"] if t.code == now.check.code), None)
        context |= {"timer": timer, "time_over": bool(timer) and timer.ends_at <= context["clock"]}
        if now.check.asks:
            typed = form.data.get("reading", "") if form.is_bound else ""
            token, read_on = (form.data.get(n, "") if form.is_bound else "" for n in ("taken", "read_on"))
            context |= _band(row, now.check, _taken(typed, token, read_on), mine)
    return render(request, "bench/run.html", context, status=422 if form.errors else 200)


def _taken(typed: str, token: str, read_on: str = "") -> Taken:
    """A reading as an instrument gave it, when nobody has changed it since; or as typed, with what it was read on."""
    try:
        said = signing.loads(token, max_age=12 * 3600)
        instrument = Instrument.objects.filter(pk=said["instrument"]).first()
        if instrument and said.get("typed") == typed:
            return Taken(typed, instrument.name, instruments.accuracy_of(instrument), said.get("span", ""), True)
    except (signing.BadSignature, KeyError, TypeError):
        pass
    chosen = Instrument.objects.filter(pk=int(read_on), role="meter").first() if read_on.isdecimal() else None
    if chosen:
        return Taken(typed, f"{chosen.name}, read by eye", instruments.accuracy_of(chosen))
    return Taken(typed)


def _take(request, row, check, typed, token="", problem=""):
    """The place where a reading is taken, after an instrument was asked: what was typed before stays."""
    context = {"unit": row, "now": {"check": check}, "typed": typed, "taken": token, "problem": problem}
    context |= {"instruments": instruments.by_role(), "check": check}
    context |= _band(row, check, _taken(typed, token))
    return render(request, "bench/_take.html", context)


@require_POST
def meter(request, number, code):
    """Ask the meter (and set the load): a partial with the reading in its field. Nothing is recorded yet."""
    row = get_object_or_404(Unit, number=number)
    check = _check_of(row, code)
    if check.limits is None:
        raise Http404
    typed = request.POST.get("reading", "")[:600]
    roles = instruments.by_role()
    try:
        instruments.may_command(request.user, row, power=check.does is Kind.LOAD)
        if Instrument.Role.METER not in roles:
            raise Refused("No meter is set up. Type the reading by hand.", "reading")
        the_meter = roles[Instrument.Role.METER]
        if "scope" in check.needs:
            raise Refused("A meter does not read ripple. Read the scope, and type what it shows.", "reading")
        if check.does is Kind.LOAD:
            if Instrument.Role.LOAD not in roles:
                raise Refused("No load is set up. Type the points by hand.", "reading")
            amps = _amps(request.POST.get("amps", ""))
            instruments.set_load(roles[Instrument.Role.LOAD], amps)
            found = instruments.read(the_meter, check.limits.unit)
            points = [
                *filter(None, (p.strip() for p in typed.replace("\n", ";").split(";"))),
                f"{amps:g} {found.value}",
            ]
            typed = "; ".join(points)
        else:
            found = instruments.read(the_meter, check.limits.unit, check.alternating)
            typed = f"{found.value} {found.unit}"
    except Refused as refusal:
        return _take(request, row, check, typed, request.POST.get("taken", ""), refusal.message)
    return _take(
        request, row, check, typed, signing.dumps({"instrument": the_meter.pk, "typed": typed, "span": found.span})
    )


def _amps(text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError as problem:
        raise Refused("Type the load in amperes, for example 1.5.", "reading") from problem


def _check_of(row, code):
    """The step as the open run asks it, or else as the library does; not found when it measures nothing."""
    run = TestRun.objects.select_related("unit__model").filter(open_for=row).first()
    checks = services.plan_of(run) if run else library()
    check = next((c for c in checks if c.code == code), None)
    if check is None or not check.asks:
        raise Http404
    return check


def _band(row, check, taken: Taken, mine=None):
    """The limit band with what is typed, or else what was recorded, on it; the verdict on that; a line for loads.

    What is typed is judged by the rule and the instrument that will judge it when it is recorded.
    """
    typed = taken.typed
    if check.does in SUMS:
        return _worked(check, typed)
    if check.does is Kind.LOAD:
        points = mine.points if mine and not typed else None
        if typed:
            try:
                points = load_points(typed, check.limits.unit)
            except Refused:
                points = None
        return {"check": check, "load": load_chart(points, check.limits) if points else None}
    value = uncertainty = judgement = None
    said, read_on = "", instrument_of(check, taken)
    if typed:
        if found := judged(check, taken):
            value, judgement, said = found
            uncertainty = judgement.uncertainty
    elif mine and mine.reading is not None:
        value, uncertainty, read_on = mine.reading, mine.uncertainty, mine.instrument
        judgement = judge(value, uncertainty, check.limits)
    earlier = [r.reading for r in selectors.earlier_readings(row, check.code) if not mine or r.pk != mine.pk]
    return {
        "check": check,
        "judgement": judgement,
        "meaning": said,
        "read_on": read_on,
        "band": limit_band(check.limits, value, uncertainty, earlier),
    }


def _worked(check, typed):
    context = {"check": check, "sum": SUMS[check.does]}
    try:
        return context | {"worked": SUMS[check.does].act(typed) if typed else None}
    except ValueError as problem:
        return context | {"trouble": str(problem)}


def band(request, number, code):
    """The band for a reading that is being typed: a partial for htmx. Nothing is recorded."""
    row = get_object_or_404(Unit, number=number)
    check = _check_of(row, code)
    asked = request.GET
    taken = _taken(asked.get("reading", "")[:600], asked.get("taken", "")[:400], asked.get("read_on", ""))
    return render(request, "bench/_band.html", _band(row, check, taken))


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
        services.start_run(request.user, row, bool(request.POST.get("closed")), bool(request.POST.get("warm")))
        return there

    return press(request, act, there)


def _on_the_run(request, number, act, *more, then=""):
    """Press `act` on the unit's open run; afterwards at the run screen, at `then` of it."""
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    def go():
        act(request.user, services.open_run(row), *more)
        return there + then

    return press(request, go, there)


@require_POST
def end(request, number):
    return _on_the_run(request, number, services.end_run)


@require_POST
def take_over(request, number):
    return _on_the_run(request, number, services.take_over)


@require_POST
def start_timer(request, number, code):
    return _on_the_run(request, number, timers.start, code, then=f"?step={code}")


@require_POST
def note(request, number, code):
    """Keep a note or picture at a step: a partial, so a reading half typed beside it stays."""
    row = get_object_or_404(Unit, number=number)
    words, problem = request.POST.get("words", "").strip(), ""

    def act():
        files = request.FILES
        notes.add(request.user, services.open_run(row), code, words, files.get("picture"), files.get("clip"))
        return ""

    try:
        once(request.user, request.POST.get("write_key", ""), act)
        words = ""
    except Refused as refusal:
        problem = refusal.message
    run = row.runs.order_by("-number").first()
    there = notes.notes_of(run, code) if run else []
    context = {"unit": row, "code": code, "notes": there, "words": words, "problem": problem}
    return render(request, "bench/_notes.html", context)


@require_POST
def note_start(request, number):
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    def act():
        services.note_start(
            request.user,
            row,
            request.POST.get("passed") == "yes",
            bool(request.POST.get("closed")),
            request.POST.get("words", "").strip(),
            bool(request.POST.get("warm")),
        )
        return there

    return press(request, act, there, "words")


@require_POST
def stop(request, number):
    """Unplugged: stop. One press with what it was; nothing is asked first."""
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    def act():
        post = request.POST
        stops.stop(request.user, row, post.get("what", ""), post.get("words", "").strip(), post.get("code", ""))
        return there

    return press(request, act, there, "words")


def end_stop(request, pk):
    """How a unit that was stopped comes to have power again: what it was, what was done, what shows it."""
    held = get_object_or_404(PowerStop.objects.select_related("unit__lot", "unit__model", "who"), pk=pk)
    form = EndStopForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            stops.end(request.user, held, data["words"])
            return reverse("bench:unit", args=[held.unit.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    context = {"unit": held.unit, "held": held, "form": form, "shown": dealt_with.since(held.unit, held.when)}
    return render(request, "bench/end_stop.html", context, status=422 if form.errors else 200)


@require_POST
def discharge(request, number):
    """Discharged and measured, outside a run."""
    row = get_object_or_404(Unit, number=number)
    back = request.POST.get("back", "")
    there = back if back.startswith(("/bench/", "/workshop/")) else reverse("bench:unit", args=[number])

    def act():
        post = request.POST
        stops.discharge(request.user, row, post.get("what", ""), post.get("volts", ""), bool(post.get("silent")))
        return there

    return press(request, act, there, "volts")


def report(request, number):
    """The test report as PDF."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    answer = HttpResponse(pdf(row), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{row.tag}-test-report.pdf"'
    return answer

"""Where a reading is taken: asking the instruments, and the verdict while it is typed."""

from django.core import signing
from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from core.bench.calculated_checks import CALCULATIONS
from core.bench.checks import CheckKind
from core.bench.reading import JudgedReading, ReadingError, TypedReading, instrument_of, judge_reading, with_point
from core.bench.verdict import judge
from stations.bench import instruments, selectors, services
from stations.bench.drawing import limit_band, load_chart
from stations.bench.library import library
from stations.bench.models import Instrument, TestRun
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.units.models import Unit


def taken_reading(typed: str, token: str, read_on: str = "") -> TypedReading:
    """A reading as an instrument gave it, when nobody has changed it since; or as typed, with what it was read on."""
    try:
        said = signing.loads(token, max_age=12 * 3600)
        instrument = Instrument.objects.filter(pk=said["instrument"]).first()
        if instrument and said.get("typed") == typed:
            return TypedReading(typed, instrument.name, instruments.accuracy_of(instrument), said.get("span", ""), True)
    except (signing.BadSignature, KeyError, TypeError):
        pass
    chosen = Instrument.objects.filter(pk=whole_number(read_on), role="meter").first()
    if chosen:
        return TypedReading(typed, f"{chosen.name}, read by eye", instruments.accuracy_of(chosen))
    return TypedReading(typed)


def _take(request, row, check, typed, token="", problem=""):
    """The place where a reading is taken, after an instrument was asked: what was typed before stays."""
    context = {"unit": row, "now": {"check": check}, "typed": typed, "taken": token, "problem": problem}
    context |= {"instruments": instruments.by_role(), "check": check}
    context |= reading_context(row, check, taken_reading(typed, token))
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
        instruments.may_command(request.user, row, power=check.does is CheckKind.LOAD)
        if Instrument.Role.METER not in roles:
            raise Refused("No meter is set up. Type the reading by hand.", "reading")
        the_meter = roles[Instrument.Role.METER]
        if "scope" in check.needs:
            raise Refused("A meter does not read ripple. Read the scope, and type what it shows.", "reading")
        if check.does is CheckKind.LOAD:
            if Instrument.Role.LOAD not in roles:
                raise Refused("No load is set up. Type the points by hand.", "reading")
            amps = _amps(request.POST.get("amps", ""))
            instruments.set_load(roles[Instrument.Role.LOAD], amps)
            found = instruments.read(the_meter, check.limits.unit)
            typed = with_point(typed, amps, found.value)
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


def reading_context(row, check, taken: TypedReading, mine=None):
    """The limit band with what is typed, or else what was recorded, on it; the verdict on that; a line for loads.

    What is typed is judged by the rule and the instrument that will judge it when it is recorded.
    """
    context = {"check": check, "calculation": CALCULATIONS.get(check.does)}
    try:
        reading = judge_reading(check, taken)
    except ReadingError as problem:
        reading = JudgedReading(instrument=instrument_of(check, taken))
        context["trouble"] = str(problem)
    if check.does in CALCULATIONS:
        return context | {"reading": reading}
    if check.does is CheckKind.LOAD:
        points = reading.points or (mine.points if mine and not taken.typed else None)
        return context | {"load": load_chart(points, check.limits) if points else None}
    value, judgement, read_on = reading.value, reading.judgement, reading.instrument
    if not taken.typed and mine and mine.reading is not None:
        value, read_on = mine.reading, mine.instrument
        judgement = judge(value, mine.uncertainty, check.limits)
    earlier = [r.reading for r in selectors.earlier_readings(row, check.code) if not mine or r.pk != mine.pk]
    return context | {
        "judgement": judgement,
        "meaning": reading.meaning,
        "read_on": read_on,
        "band": limit_band(check.limits, value, judgement.uncertainty if judgement else None, earlier),
    }


def band(request, number, code):
    """The band for a reading that is being typed: a partial for htmx. Nothing is recorded."""
    row = get_object_or_404(Unit, number=number)
    check = _check_of(row, code)
    asked = request.GET
    taken = taken_reading(asked.get("reading", "")[:600], asked.get("taken", "")[:400], asked.get("read_on", ""))
    return render(request, "bench/_band.html", reading_context(row, check, taken))

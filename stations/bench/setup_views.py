"""What the bench is set up with: checks, instruments, benchmarks, and the small sums beside it."""

from decimal import Decimal, InvalidOperation

from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.bench.assurance import clean_runs_needed, failure_bounds
from core.bench.checks import Group
from core.bench.electrics import CONTACT_OHMS, Cell, contact_ohms, discharge_seconds, load_line, make_up
from core.bench.markings import Marked, engineering, nearest_preferred, read_capacitor, read_resistor, screen
from core.machine.quantities import QuantityError, parse_reading
from stations.bench import evidence, instruments, library
from stations.bench.forms import BenchmarkForm, CheckForm, InstrumentForm, NewCheckForm
from stations.bench.models import BenchCheck, Instrument
from stations.bench.readings import load_points
from stations.common.refusals import Refused
from stations.people.editing import attempt, press
from stations.people.models import Role
from stations.people.permission import may
from stations.units.models import Unit


def checks(request):
    """Every check, in the order of the gates; the shop's own are marked."""
    ours = set(BenchCheck.objects.values_list("code", flat=True))
    groups = list(Group)
    there = sorted(library.library(), key=lambda check: groups.index(check.group))
    context = {"checks": [(c, c.code in ours) for c in there], "resting": library.resting()}
    return render(request, "bench/checks.html", context)


def check(request, code):
    row = library.row_for(code)
    if row is None:
        raise Http404
    form = CheckForm(request.POST or None, instance=row)
    return _check_form(request, form, code)


def new_check(request):
    form = NewCheckForm(request.POST or None)
    return _check_form(request, form, None)


def _check_form(request, form, code):
    if request.method == "POST":

        def act(data):
            values = {name: value for name, value in data.items() if name not in {"version", "code"}}
            library.save_check(request.user, code or data["code"], data["version"], values)
            return reverse("bench:checks")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "bench/check.html", {"form": form, "code": code})


def the_instruments(request):
    """The instruments; each is asked who it is when one looks."""
    form = InstrumentForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            instruments.add(request.user, data)
            return reverse("bench:instruments")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    look = bool(request.GET.get("look")) and may(request.user, Role.TECHNICIAN)
    rows = [(row, _who(row) if look else None) for row in Instrument.objects.all()]
    return render(request, "bench/instruments.html", {"rows": rows, "form": form, "looked": look})


def _who(instrument):
    try:
        return instruments.ask(instrument, "*IDN?")
    except Refused:
        return ""


@require_POST
def remove_instrument(request, pk):
    row = get_object_or_404(Instrument, pk=pk)
    there = reverse("bench:instruments")

    def act():
        instruments.remove(request.user, row)
        return there

    return press(request, act, there)


def benchmark(request, number):
    """Runs of one test before and after an upgrade, and whether it is a difference."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    form = BenchmarkForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            evidence.record_benchmark(request.user, row, data)
            return reverse("bench:benchmark", args=[number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    context = {"unit": row, "form": form, "benchmarks": evidence.benchmarks_of(row)}
    return render(request, "bench/benchmark.html", context)


def sums(request):
    """The small sums of the bench; each answers while one types."""
    return render(request, "bench/sums.html", {"cells": list(Cell)})


def work_out(request, what):
    """One sum: a partial with its answer, or with what is wrong."""
    if what not in _SUMS:
        raise Http404
    asked = {name: value.strip() for name, value in request.GET.items()}
    context = {}
    if any(asked.values()):
        try:
            context["said"] = _SUMS[what](asked)
        except (Refused, ValueError, ArithmeticError, QuantityError) as problem:
            context["problem"] = str(problem) or "That can’t be worked out."
    return render(request, "bench/_sum.html", context)


def _quantity(asked: dict, name: str, unit: str) -> float:
    text = asked.get(name, "")
    if not text:
        raise ValueError("Fill in every field.")
    return float(parse_reading(text, unit))


def _bands(asked: dict) -> list[str]:
    marked = read_resistor(asked.get("bands", ""))
    near = nearest_preferred(marked.value)
    words = [marked.words, f"from {engineering(marked.low, 'Ω')} to {engineering(marked.high, 'Ω')}"]
    return [*words, f"nearest in E24: {engineering(near, 'Ω')}", *_screened(marked, asked, "Ω")]


def _capacitor(asked: dict) -> list[str]:
    marked = read_capacitor(asked.get("code", ""))
    return [marked.words, *_screened(marked, asked, "F")]


def _screened(marked: Marked, asked: dict, unit: str) -> list[str]:
    """What a reading of the part says: in circuit it only screens."""
    read = {name: parse_reading(asked[name], unit) for name in ("in_circuit", "out") if asked.get(name)}
    if not read:
        return []
    verdict = screen(marked, read.get("in_circuit"), read.get("out"))
    return [
        {
            "good": "the part is good",
            "measure_out": "out of tolerance in circuit says nothing yet: lift one leg and measure again",
            "bad": "the part is bad",
        }[verdict.value]
    ]


def _discharge(asked: dict) -> list[str]:
    seconds = discharge_seconds(
        _quantity(asked, "farads", "F"), _quantity(asked, "volts", "V"), _quantity(asked, "ohms", "Ω")
    )
    return [
        f"{seconds:.0f} s until it is under 60 V",
        "then measure: a bleeder may be open. None known: by hand, with the proper tool",
    ]


def _battery(asked: dict) -> list[str]:
    count = asked.get("count", "")
    if not count.isdecimal() or not 1 <= int(count) <= 99:
        raise ValueError("How many cells? 1 to 99.")
    found = make_up(Cell(asked.get("cell", "")), int(count), _quantity(asked, "volts", "V"), bool(asked.get("charged")))
    return [
        f"{found.volts:.1f} V",
        *filter(None, (f"NOT THESE: {found.refused}" if found.refused else "", found.remark)),
    ]


def _load(asked: dict) -> list[str]:
    line = load_line(load_points(asked.get("points", ""), "V"))
    return [
        f"output resistance {line.ohms * 1000:.0f} mΩ",
        f"regulation {line.regulation:.1f} %",
        f"no load {line.no_load:.3f} V, worst point {line.worst * 1000:.0f} mV off the line",
    ]


def _contact(asked: dict) -> list[str]:
    ohms = contact_ohms(_quantity(asked, "drop", "V"), _quantity(asked, "amps", "A"))
    return [f"{ohms * 1000:.1f} mΩ", "good" if ohms <= CONTACT_OHMS else "too much: over 50 mΩ, clean or replace it"]


def _starts(asked: dict) -> list[str]:
    try:
        runs, failed = int(asked.get("runs") or 0), int(asked.get("failed") or 0)
        share = Decimal(asked.get("claim") or "10") / 100
    except (ValueError, InvalidOperation) as problem:
        raise ValueError("Type whole numbers of starts, and a percentage.") from problem
    if not 0 < share < 1:
        raise ValueError("A percentage above 0 and under 100.")
    low, high = failure_bounds(runs, failed)
    needed = clean_runs_needed(float(1 - share))
    said = f"{low * 100:.0f} to {high * 100:.0f} in 100" if failed else f"up to {high * 100:.0f} in 100"
    return [f"it may fail {said} (95 % sure)", f"to claim under {share * 100:.3g} %: {needed} clean starts in a row"]


_SUMS = {
    "bands": _bands,
    "capacitor": _capacitor,
    "discharge": _discharge,
    "battery": _battery,
    "load": _load,
    "contact": _contact,
    "starts": _starts,
}

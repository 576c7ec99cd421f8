"""Finding a fault."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.bench.codebook import FAMILIES
from core.bench.suspects import MEND
from stations.bench import fault_view, faults, instruments, power, services, stops
from stations.bench.forms import CauseForm, OwnTryForm, SymptomForm
from stations.bench.models import FaultCase, Instrument, Try
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.people.screens import kept_words, press, saved, sent
from stations.stock.models import KnownGood
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit


def fault(request, number):
    """The open fault of a unit; without one, the form to begin and the faults that were."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    case = FaultCase.objects.select_related("unit__model").filter(open_for=row).first()
    if case:
        return _case(request, row, case)
    facts = bench_facts(row)
    form = SymptomForm(request.POST or None, facts=facts, initial={"words": services.why_it_failed(row)})
    if done := saved(
        request, form, lambda data: faults.open_case(request.user, row, **data), reverse("bench:fault", args=[number])
    ):
        return done
    reader = instruments.by_role().get(Instrument.Role.READER)
    closed = [(c, c.tries.all()) for c in row.faults.filter(closed_at__isnull=False).prefetch_related("tries")]
    context = {
        "unit": row,
        "form": form,
        "closed": closed,
        "facts": facts,
        "reader": reader,
        "families": FAMILIES,
        **stops.on_page(request.user, row),
    }
    return render(request, "bench/faults.html", context)


@require_POST
def read_code(request, number):
    """Ask the code reader what the board shows: a partial with the code in its field. Nothing is recorded."""
    row = get_object_or_404(Unit, number=number)
    reader = instruments.by_role().get(Instrument.Role.READER)
    code, problem = request.POST.get("code", ""), ""
    try:
        if reader is None:
            raise Refused("No POST code reader is set up. Type what the board shows.")
        instruments.may_command(request.user, row)
        read = instruments.read_code(reader)
        code = read or code
        problem = "" if read else f"{reader.name} shows no code now. Type what you see or hear."
    except Refused as refusal:
        problem = refusal.message
    form = SymptomForm(initial={"code": code}, facts=bench_facts(row))
    context = {"unit": row, "form": form, "reader": reader, "problem": problem}
    return render(request, "bench/_code.html", context)


def _case(request, row, case, form=None, own=None):
    suspects, view = faults.suspects_of(case), fault_view.look_at(case)
    context = {
        "unit": row,
        "view": view,
        "case": case,
        "form": form or CauseForm(suspects=suspects, initial=_as_mended(view)),
        "own": own or OwnTryForm(suspects=suspects),
        "facts": bench_facts(row),
        "charges": power.charges_of(row),
        "charged": power.charged_words(row),
        **stops.on_page(request.user, row),
    }
    wrong = (form and form.errors) or (own and own.errors)
    return render(request, "bench/fault.html", context, status=422 if wrong else 200)


def _as_mended(view):
    """What the form for closing begins with where mending something made it work."""
    last = next((tried for tried in reversed(view.tries) if tried.withdrawn_at is None), None)
    mended = last.action.removeprefix(MEND) if last and last.yes and last.action.startswith(MEND) else ""
    return {"cause": mended, "fix": "mended"} if mended else {}


@require_POST
def own(request, number):
    """Something tried that the library has not."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    there = reverse("bench:fault", args=[number])
    try:
        case = faults.open_one(row)
    except Refused as refusal:
        messages.error(request, refusal.message + kept_words(request, "words", "answer", "varied", "setting"))
        return redirect(there)
    form = OwnTryForm(request.POST, suspects=faults.suspects_of(case))

    if done := saved(request, form, lambda data: faults.record_own(request.user, case, faults.OwnTry(**data)), there):
        return done
    return _case(request, row, case, own=form)


@require_POST
def answer(request, number):
    """What an action answered."""
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:fault", args=[number])

    def act():
        case = faults.open_one(row)
        part = KnownGood.objects.filter(pk=whole_number(request.POST.get("known_good", ""))).first()
        setting = sent(request, "setting")
        said = {"yes": True, "no": False}.get(request.POST.get("said", ""))
        if said is None and request.POST.get("said") != "away":
            raise Refused("Say what it answered.")
        varied = sent(request, "varied")
        faults.record_try(request.user, case, request.POST.get("action", ""), said, setting, part, varied)

    return press(request, act, there, "varied", "setting")


@require_POST
def not_tried(request, pk):
    """A try that was recorded by mistake."""
    tried = get_object_or_404(Try.objects.select_related("case__unit"), pk=pk)
    there = reverse("bench:fault", args=[tried.case.unit.number])
    return press(request, lambda: faults.not_tried(request.user, tried, sent(request, "why")), there, "why")


@require_POST
def reopen(request, pk):
    """A fault that was closed by mistake, or was something else."""
    case = get_object_or_404(FaultCase.objects.select_related("unit"), pk=pk)
    there = reverse("bench:fault", args=[case.unit.number])
    return press(request, lambda: faults.reopen_case(request.user, case, sent(request, "why")), there, "why")


@require_POST
def close(request, number):
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    try:
        case = faults.open_one(row)
    except Refused as refusal:
        messages.error(request, refusal.message + kept_words(request, "cause_words", "fix"))
        return redirect("bench:fault", number)
    form = CauseForm(request.POST, suspects=faults.suspects_of(case))

    if done := saved(
        request, form, lambda data: faults.close_case(request.user, case, **data), reverse("bench:unit", args=[number])
    ):
        return done
    return _case(request, row, case, form=form)

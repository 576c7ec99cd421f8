"""What is done to a run as a whole: starting, ending, taking over, timers, notes at a step."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.bench import notes, services, timers
from stations.common.refusals import Refused
from stations.people.screens import once, press, sent
from stations.units import seen
from stations.units.models import Unit


@require_POST
def start(request, number):
    row = get_object_or_404(Unit, number=number)
    there = reverse("bench:unit", args=[number])

    return press(
        request,
        lambda: services.start_run(request.user, row, bool(request.POST.get("closed")), bool(request.POST.get("warm"))),
        there,
    )


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
def say(request, number, code):
    """What is seen at a step and nobody recorded: then the step again."""
    row = get_object_or_404(Unit, number=number)
    there = f"{reverse('bench:unit', args=[number])}?step={code}"
    return press(request, lambda: seen.say(request.user, row, sent(request, "fact"), sent(request, "answer")), there)


@require_POST
def note(request, number, code):
    """Keep a note or picture at a step: a partial, so a reading half typed beside it stays; sent later, a press."""
    row = get_object_or_404(Unit, number=number)
    words, problem = sent(request, "words"), ""

    def act():
        files = request.FILES
        notes.add(request.user, services.open_run(row), code, words, files.get("picture"), files.get("clip"))
        return ""

    if "X-Saving" in request.headers:
        return press(request, act, f"{reverse('bench:unit', args=[number])}?step={code}", "words")
    try:
        once(request.user, request.POST.get("write_key", ""), act)
        words = ""
    except Refused as refusal:
        problem = refusal.message
    run = row.runs.order_by("-number").first()
    there = notes.notes_of(run, code) if run else []
    context = {"unit": row, "code": code, "notes": there, "words": words, "problem": problem}
    return render(request, "bench/_notes.html", context)

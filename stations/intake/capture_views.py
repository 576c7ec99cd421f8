"""The capture screen of one unit: saved section by section as one goes, to be taken up on any device."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.intake.condition import FindingKind
from core.intake.shots import Shot
from core.machine.approach import Approach
from core.machine.casing import FormFactor, face_label, faces_of
from core.safety import at_the_table, said
from stations.common.refusals import Refused
from stations.intake import capture, services, triage
from stations.intake.forms import ApproachForm, ContentsForm, DataForm, FindingForm, HoldingForm, UnitForm
from stations.people.editing import attempt, press
from stations.units import findings, paths, photographs, read_off, selectors
from stations.units.as_it_is import data_left
from stations.units.drawing import condition_map
from stations.units.models import Finding, Photo, Unit, UnitFact
from stations.units.stages import facts_of

# One key for each face and kind, so that a finding takes two presses.
FACE_KEYS = {
    "front": "f",
    "back": "b",
    "left": "l",
    "right": "r",
    "top": "t",
    "underside": "u",
    "inside": "i",
    "screen": "s",
    "keyboard": "k",
}
KIND_KEYS = dict(zip(FindingKind, "1234567890xyzvw", strict=True))
APPROACH_KEYS = {"conserve": "c", "period": "p", "enhanced": "h", "donor": "d"}


def unit(request, number):
    """The capture screen, in the order of looking."""
    return _screen(request, _row(number))


def _row(number) -> Unit:
    return get_object_or_404(selectors.units().select_related("model", "line__lot__supplier"), number=number)


def _screen(request, row, **given):
    return render(request, "intake/unit.html", _context(row, **given))


def _context(row, **given):
    contents, findings = list(row.contents.all()), list(row.findings.select_related("photo").prefetch_related("clips"))
    kept = list(row.facts.all())
    weighed = paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=row.pk))))
    form = FormFactor(row.form_factor)
    cosmetics = selectors.cosmetics_of(findings)
    return {
        "unit": row,
        "form": UnitForm(instance=row),
        "holding": HoldingForm(instance=row),
        "ticks": ContentsForm(contents=contents),
        "finding": FindingForm(form_factor=row.form_factor),
        "data": DataForm(instance=row),
        "approach_form": ApproachForm(initial={"approach": row.approach}),
        "approaches": [(a, APPROACH_KEYS[a]) for a in Approach],
        "map": condition_map(row, findings),
        "narrow_map": condition_map(row, findings, narrow=True),
        "findings": findings,
        "terms": selectors.terms_by_finding(findings, cosmetics),
        "faces": [(face, face_label(face, form), FACE_KEYS[face]) for face in faces_of(form)],
        "kinds": [(kind, KIND_KEYS[kind]) for kind in FindingKind],
        "photos": row.photos.all(),
        "shots": photographs.shots_of(row),
        "all_shots": list(Shot),
        "completeness": selectors.completeness_of(contents),
        "cosmetics": cosmetics,
        "gaps": _gaps(row),
        "last": capture.last_like(row) if row.assessed_at is None else None,
        "facts": kept,
        "sound_url": reverse("intake:add-sound", args=[row.number]),
        "data_left": data_left([row])[row.pk],
        "table_cautions": said(at_the_table(row.form_factor)),
        "fact_kinds": UnitFact.Kind.choices,
        "dating": read_off.dating_of(row, kept),
        "weighed": weighed[0] if weighed else None,
        **given,
    }


def _gaps(row):
    return facts_of([row])[row.pk].intake.gaps


def _posted(request, number, make_form, act, given_name):
    """One section was saved. While one types: a word that it is saved, or what is wrong, beside the section.

    Without a script: the screen again, with what was typed.
    """
    row = _row(number)
    model = row.model_id  # checking the form changes the row
    form = make_form(row)

    def do(data):
        act(row, data, form)
        return reverse("intake:unit", args=[number]) + f"#{given_name}"

    leads_to = attempt(request, form, do)
    if request.htmx:
        if leads_to and given_name == "form" and model != form.instance.model_id:
            # The model says much of the rest: show it.
            answer = HttpResponse(status=204)
            answer["HX-Refresh"] = "true"
            return answer
        context = {"unit": _row(number), "form": form, "section": given_name, "saved": bool(leads_to)}
        context["gaps"] = _gaps(context["unit"])
        return render(request, "intake/_saved.html", context)
    if leads_to:
        return redirect(leads_to)
    return _screen(request, _row(number), **{given_name: form})


@require_POST
def identify(request, number):
    def act(row, data, form):
        services.identify(request.user, Unit.objects.get(pk=row.pk), data["version"], form.changes)

    return _posted(request, number, lambda row: UnitForm(request.POST, instance=row), act, "form")


@require_POST
def hold(request, number):
    def act(row, data, form):
        capture.set_ownership(request.user, row, data)

    return _posted(request, number, lambda row: HoldingForm(request.POST, instance=row), act, "holding")


@require_POST
def data(request, number):
    def act(row, data, form):
        capture.note_data(request.user, row, data)

    return _posted(request, number, lambda row: DataForm(request.POST, instance=row), act, "data")


@require_POST
def contents(request, number):
    def act(row, data, form):
        services.tick_contents(request.user, row, form.presences, data["extra"], data["missing"])

    return _posted(request, number, lambda row: ContentsForm(request.POST, contents=row.contents.all()), act, "ticks")


@require_POST
def approach(request, number):
    def act(row, data, form):
        services.choose_approach(request.user, row, form.chosen, data["reason"])

    return _posted(request, number, lambda row: ApproachForm(request.POST), act, "approach_form")


@require_POST
def all_there(request, number):
    row = _row(number)
    back = reverse("intake:unit", args=[number]) + "#ticks"

    def act():
        capture.mark_all_present(request.user, row)
        return back

    return press(request, act, back)


@require_POST
def like_the_last(request, number):
    row = _row(number)
    back = reverse("intake:unit", args=[number])

    def act():
        other = capture.copy_from_previous(request.user, row)
        messages.success(request, f"Recorded like {other.tag}. Its serial and what is wrong with it are its own.")
        return back

    return press(request, act, back)


@require_POST
def add_finding(request, number):
    """The full form of a finding, or the quick way: a face and a kind."""
    if "quick" in request.POST:
        return _quick(request, number)

    def act(row, data, form):
        findings.add_finding(request.user, row, data)

    row = _row(number)
    form = FindingForm(request.POST, form_factor=row.form_factor)

    def do(data):
        act(row, data, form)
        return reverse("intake:unit", args=[number]) + "#finding"

    if leads_to := attempt(request, form, do):
        return redirect(leads_to)
    return _screen(request, _row(number), finding=form)


def _quick(request, number) -> HttpResponse:
    row = _row(number)
    back = reverse("intake:unit", args=[number]) + "#finding"

    def act():
        place = [_fraction(request.POST.get(name) or "0.5") for name in ("x", "y")]
        capture.quick_finding(request.user, row, request.POST.get("face", ""), request.POST["quick"], *place)
        return back

    return press(request, act, back)


@require_POST
def settle_finding(request, pk):
    """Move a finding, settle it, put it right, or say which picture shows it."""
    finding = get_object_or_404(Finding.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[finding.unit.number]) + "#finding"

    def act():
        if "x" in request.POST:
            face = request.POST.get("face", finding.face)
            x, y = _fraction(request.POST["x"]), _fraction(request.POST.get("y", ""))
            findings.move_finding(request.user, finding, face, x, y)
        elif "photo" in request.POST:
            wanted = request.POST["photo"]
            photo = Photo.objects.filter(pk=int(wanted)).first() if wanted.isdecimal() else None
            photographs.show_finding(request.user, finding, photo)
        else:
            words = request.POST.get("words", "").strip()
            findings.settle_finding(request.user, finding, request.POST.get("status", ""), words)
        return back

    return press(request, act, back)


def change_finding(request, pk):
    """A finding on a page of its own, to put it right."""
    finding = get_object_or_404(Finding.objects.select_related("unit__lot", "unit__model"), pk=pk)
    form = FindingForm(request.POST or None, instance=finding, form_factor=finding.unit.form_factor)
    if request.method == "POST":

        def act(data):
            findings.change_finding(request.user, Finding.objects.get(pk=pk), data)
            return reverse("intake:unit", args=[finding.unit.number]) + f"#f{pk}"

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(
        request,
        "intake/finding.html",
        {"form": form, "finding": finding, "unit": finding.unit, "photos": finding.unit.photos.all()},
    )


def _fraction(text: str) -> float:
    try:
        return float(text)
    except ValueError as problem:
        raise Refused("That place is off the face.") from problem


@require_POST
def add_photos(request, number):
    row = get_object_or_404(Unit, number=number)
    back = reverse("intake:unit", args=[number]) + "#photos"
    files = request.FILES.getlist("photos")
    if not files:
        messages.error(request, "Choose at least one picture first.")
        return redirect(back)

    def act():
        kept, complaints = photographs.add_photos(request.user, row, files, request.POST.get("shot", ""))
        for complaint in complaints:
            messages.error(request, f"{complaint}.")
        if kept:
            messages.success(request, f"{kept} {'photo' if kept == 1 else 'photos'} added.")
        return back

    return press(request, act, back)


@require_POST
def say_shot(request, pk):
    photo = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[photo.unit.number]) + "#photos"

    def act():
        photographs.say_what_it_shows(request.user, photo, request.POST.get("shot", ""))
        return back

    return press(request, act, back)


@require_POST
def finish(request, number):
    row = get_object_or_404(Unit, number=number)

    def act():
        services.finish_intake(request.user, row)
        return reverse("floor:unit", args=[number])

    return press(request, act, reverse("intake:unit", args=[number]))


def readings(request, number):
    """Every possible reading of what is typed: a partial while one types, with a button to keep each."""
    row = _row(number)
    kind, typed = request.GET.get("kind", ""), request.GET.get("typed", "")
    context = {"unit": row, "kind": kind, "typed": typed, "on_what": request.GET.get("on_what", "")}
    context["repair"] = request.GET.get("repair", "")
    try:
        context["found"] = read_off.readings(kind, typed, row.model)
    except Refused as refusal:
        context["problem"] = refusal.message if typed.strip() else ""
    return render(request, "intake/_readings.html", context)


@require_POST
def keep_fact(request, number):
    row = _row(number)
    back = reverse("intake:unit", args=[number]) + "#facts"
    post = request.POST

    def act():
        choice = int(post.get("choice", "")) if post.get("choice", "").isdecimal() else -1
        read_off.keep_fact(
            request.user,
            row,
            post.get("kind", ""),
            post.get("typed", ""),
            choice,
            post.get("on_what", ""),
            bool(post.get("repair")),
        )
        return back

    return press(request, act, back)


@require_POST
def drop_fact(request, pk):
    fact = get_object_or_404(UnitFact.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[fact.unit.number]) + "#facts"

    def act():
        read_off.drop_fact(request.user, fact)
        return back

    return press(request, act, back)


@require_POST
def choose_path(request, number):
    row = get_object_or_404(Unit, number=number)
    back = request.POST.get("back") if request.POST.get("back", "").startswith("/intake/") else ""
    back = back or reverse("intake:unit", args=[number]) + "#path"

    def act():
        triage.choose_path(request.user, row, request.POST.get("path", ""), request.POST.get("reason", "").strip())
        return back

    return press(request, act, back)

"""The intake page of a unit and the sections that save themselves."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.intake.completeness import Presence
from core.intake.condition import FindingKind
from core.intake.shots import Shot
from core.machine.approach import Approach
from core.machine.casing import Face, FormFactor, face_label, faces_of
from core.safety import at_the_table, said
from stations.common.forms import SeenForm
from stations.common.typed import whole_number
from stations.intake import capture, services, triage
from stations.intake.forms import ApproachForm, ContentsForm, DataForm, FindingForm, HoldingForm, PathForm, UnitForm
from stations.people.screens import attempt, press, sent
from stations.units import fitting, paths, photos, read_off, selectors
from stations.units.as_it_is import data_left, left_out_of
from stations.units.drawing import condition_map
from stations.units.models import Unit, UnitFact
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
        "same_serial": selectors.same_serial(row),
        "form": UnitForm(instance=row),
        "holding": HoldingForm(instance=row),
        "ticks": ContentsForm(unit=row, contents=contents),
        "finding": FindingForm(form_factor=row.form_factor),
        "data": DataForm(instance=row),
        "approach_form": ApproachForm(initial={"approach": row.approach}),
        "approaches": [(a, APPROACH_KEYS[a]) for a in Approach],
        "map": condition_map(row, findings),
        "narrow_map": condition_map(row, findings, narrow=True),
        "findings": findings,
        "terms": selectors.terms_by_finding(findings, cosmetics),
        "usual_face": Face.INSIDE,
        "faces": [(face, face_label(face, form), FACE_KEYS[face]) for face in faces_of(form)],
        "kinds": [(kind, KIND_KEYS[kind]) for kind in FindingKind],
        "photos": row.photos.all(),
        "shots": photos.shots_of(row),
        "all_shots": list(Shot),
        "look_for": fitting.look_for(row, (content.name for content in contents)),
        "completeness": selectors.completeness_of(contents),
        "not_looked_for": [content.pk for content in contents if content.presence == Presence.UNSEEN],
        "said_both_ways": selectors.said_both_ways(findings, contents),
        "cosmetics": cosmetics,
        "gaps": facts_of([row])[row.pk].intake.gaps,
        "last": capture.last_like(row) if row.assessed_at is None else None,
        "facts": kept,
        "sound_url": reverse("intake:add-sound", args=[row.number]),
        "data_left": data_left([row])[row.pk],
        "left_out": left_out_of(row, contents),
        "table_cautions": said(at_the_table(row.form_factor)),
        "fact_kinds": UnitFact.Kind.choices,
        "dating": read_off.dating_of(row, kept),
        "weighed": weighed[0] if weighed else None,
        "may_choose": paths.may_choose(row),
        "path": PathForm(unit=row, best=weighed[0].found.best.path if weighed else ""),
        **given,
    }


def _built(row):
    """What the page itself is made for: where it changes, all of it comes anew."""
    return row.model_id, row.form_factor, paths.may_choose(row)


def _save_section(request, number, make_form, act, given_name):
    """One section was saved. While one types: a word that it is saved, or what is wrong, beside the section, and what
    follows from it elsewhere on the page.

    Without a script: the screen again, with what was typed.
    """
    row = _row(number)
    built = _built(row)  # checking the form changes the row
    form = make_form(row)

    def do(data):
        act(row, data, form)
        return reverse("intake:unit", args=[number]) + f"#{given_name}"

    leads_to = attempt(request, form, do)
    if request.htmx:
        now = _row(number)
        if leads_to and _built(now) != built:
            answer = HttpResponse(status=204)
            answer["HX-Refresh"] = "true"
            return answer
        given = {"form": form, "saved": bool(leads_to)}
        if given_name == "form":
            given["new_version"] = now.version
        elif leads_to and isinstance(form, SeenForm):
            given["seen"] = form.seen_after(now)
        return render(request, "intake/_saved.html", _context(now, **given))
    if leads_to:
        return redirect(leads_to)
    return _screen(request, _row(number), **{given_name: form})


@require_POST
def identify(request, number):
    return _save_section(
        request,
        number,
        lambda row: UnitForm(request.POST, instance=row),
        lambda row, data, form: services.identify(
            request.user, Unit.objects.get(pk=row.pk), data["version"], services.Identity(**form.changes)
        ),
        "form",
    )


@require_POST
def choose_path(request, number):
    return _save_section(
        request,
        number,
        lambda row: PathForm(request.POST, unit=row),
        lambda row, data, form: triage.choose_path(request.user, row, data["path"], data["reason"]),
        "path",
    )


@require_POST
def ownership(request, number):
    return _save_section(
        request,
        number,
        lambda row: HoldingForm(request.POST, instance=row),
        lambda row, data, form: capture.set_ownership(request.user, row, capture.Ownership(**data)),
        "holding",
    )


@require_POST
def data_on_board(request, number):
    return _save_section(
        request,
        number,
        lambda row: DataForm(request.POST, instance=row),
        lambda row, data, form: capture.note_data(request.user, row, capture.DataOnBoard(**data)),
        "data",
    )


@require_POST
def look_for(request, number):
    """Something its model has room for is looked for too."""
    row = get_object_or_404(Unit, number=number)
    there = reverse("intake:unit", args=[number]) + "#ticks"
    return press(request, lambda: services.look_for(request.user, row, sent(request, "name")), there)


@require_POST
def contents(request, number):
    return _save_section(
        request,
        number,
        lambda row: ContentsForm(request.POST, unit=row, contents=row.contents.all()),
        lambda row, data, form: services.tick_contents(
            request.user, row, form.presences, data["extra"], data["missing"]
        ),
        "ticks",
    )


@require_POST
def approach(request, number):
    return _save_section(
        request,
        number,
        lambda row: ApproachForm(request.POST),
        lambda row, data, form: services.choose_approach(request.user, row, form.chosen, data["reason"]),
        "approach_form",
    )


@require_POST
def everything_present(request, number):
    row = _row(number)
    back = reverse("intake:unit", args=[number]) + "#ticks"

    seen = {whole_number(key) for key in request.POST.getlist("seen")} - {None}
    return press(request, lambda: capture.mark_all_present(request.user, row, seen), back)


@require_POST
def copied_from_previous(request, number):
    row = _row(number)
    back = reverse("intake:unit", args=[number])

    def act():
        other = capture.copy_from_previous(request.user, row, whole_number(sent(request, "like")))
        messages.success(request, f"Recorded like {other.tag}. Its serial and what is wrong with it are its own.")

    return press(request, act, back)


@require_POST
def finish(request, number):
    row = get_object_or_404(Unit, number=number)

    def act():
        services.finish_intake(request.user, row)
        return reverse("floor:unit", args=[number])

    return press(request, act, reverse("intake:unit", args=[number]))

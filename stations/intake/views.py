from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.paginator import Paginator
from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from core.flow.stage import Station
from core.intake.approach import Approach
from core.intake.condition import FindingKind
from stations.buying.models import LotLine
from stations.intake import labels, photos, selectors, services
from stations.intake.drawing import condition_map
from stations.intake.forms import ApproachForm, ContentsForm, FindingForm, ModelForm, ReceiveForm, UnitForm
from stations.intake.models import Finding, MachineModel, Photo, Unit
from stations.intake.stages import facts_of
from stations.people.editing import attempt, press
from stations.people.refusals import Refused

PER_PAGE = 25


def table(request):
    """The intake table: what is still in boxes, and what lies open."""
    form = ReceiveForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            line = get_object_or_404(LotLine, pk=data["line"])
            made = services.receive(request.user, line, data["count"], data["model"], data["place"])
            return reverse("intake:unit", args=[made[0].number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    lines = Paginator(selectors.lines_to_receive(), PER_PAGE).get_page(request.GET.get("lines"))
    models = [("", "not known yet"), *((model.pk, str(model)) for model in MachineModel.objects.all())]
    rows = [(line, _receive_form(form, line, models)) for line in lines]
    here = selectors.units().filter(station=Station.INTAKE)
    context = {
        "rows": rows,
        "lines": lines,
        "page": Paginator(here, PER_PAGE).get_page(request.GET.get("page")),
    }
    return render(request, "intake/table.html", context)


def _receive_form(form, line, models):
    """The posted form back at its own line; a fresh one at every other. All share one list of `models`."""
    if not (form.is_bound and form.data.get("line") == str(line.pk)):
        form = ReceiveForm(initial={"line": line.pk, "count": line.outstanding}, auto_id=f"id_{line.pk}_%s")
    form.fields["model"].choices = models
    return form


def units(request):
    words = request.GET.get("q", "").strip()
    found = selectors.find_units(words) if words else selectors.units()
    station = request.GET.get("station", "")
    if station in set(Station):
        found = found.filter(station=station)
    page = Paginator(found.order_by("-number"), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "intake/units.html", {"page": page, "words": words, "station": station, "stations": Station})


def unit(request, number):
    """The capture screen of one unit, in the order of looking."""
    row = get_object_or_404(selectors.units(), number=number)
    return _capture(request, row)


def _capture(request, row, **given):
    contents, findings = list(row.contents.all()), list(row.findings.all())
    context = {
        "unit": row,
        "form": UnitForm(instance=row),
        "ticks": ContentsForm(contents=contents),
        "finding": FindingForm(),
        "approach_form": ApproachForm(initial={"approach": row.approach}),
        "approaches": list(Approach),
        "map": condition_map(row, findings),
        "narrow_map": condition_map(row, findings, narrow=True),
        "findings": findings,
        "photos": row.photos.all(),
        "completeness": selectors.completeness_of(contents),
        "cosmetics": selectors.cosmetics_of(findings),
        "kinds": list(FindingKind),
        "gaps": _gaps(row),
        **given,
    }
    return render(request, "intake/unit.html", context)


def _gaps(row):
    return facts_of([row])[row.pk].intake_gaps


def _posted(request, number, make_form, act, given_name):
    """One section of the capture screen was saved: do it, or show the screen again with what was typed."""
    row = get_object_or_404(selectors.units(), number=number)
    form = make_form(row)

    def do(data):
        act(row, data, form)
        return reverse("intake:unit", args=[number]) + f"#{given_name}"

    if leads_to := attempt(request, form, do):
        return redirect(leads_to)
    return _capture(request, get_object_or_404(selectors.units(), number=number), **{given_name: form})


@require_POST
def identify(request, number):
    def act(row, data, form):
        services.identify(request.user, Unit.objects.get(pk=row.pk), data["version"], form.changes)

    return _posted(request, number, lambda row: UnitForm(request.POST, instance=row), act, "form")


@require_POST
def contents(request, number):
    def act(row, data, form):
        services.tick_contents(request.user, row, form.presences, data["extra"], data["missing"])

    return _posted(request, number, lambda row: ContentsForm(request.POST, contents=row.contents.all()), act, "ticks")


@require_POST
def add_finding(request, number):
    def act(row, data, form):
        services.add_finding(request.user, row, data)

    return _posted(request, number, lambda row: FindingForm(request.POST), act, "finding")


@require_POST
def approach(request, number):
    def act(row, data, form):
        services.choose_approach(request.user, row, form.chosen, data["reason"])

    return _posted(request, number, lambda row: ApproachForm(request.POST), act, "approach_form")


@require_POST
def settle_finding(request, pk):
    finding = get_object_or_404(Finding.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[finding.unit.number]) + "#finding"

    def act():
        if "x" in request.POST:
            services.move_finding(
                request.user,
                finding,
                request.POST.get("face", finding.face),
                _fraction(request.POST["x"]),
                _fraction(request.POST.get("y", "")),
            )
        else:
            services.settle_finding(request.user, finding, request.POST.get("status", ""))
        return back

    return press(request, act, back)


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
        kept, complaints = services.add_photos(request.user, row, files)
        for complaint in complaints:
            messages.error(request, f"Not taken: {complaint}.")
        if kept:
            messages.success(request, f"{kept} {'photo' if kept == 1 else 'photos'} added.")
        return back

    return press(request, act, back)


@require_POST
def finish(request, number):
    row = get_object_or_404(Unit, number=number)

    def act():
        services.finish_intake(request.user, row)
        return reverse("floor:unit", args=[number])

    return press(request, act, reverse("intake:unit", args=[number]))


@require_POST
def decide(request, number, what):
    """Buttons that settle what becomes of a unit: park, take up, write off, give back, sanitise."""
    row = get_object_or_404(Unit.objects.select_related("lot"), number=number)
    back = reverse("floor:unit", args=[number])
    reason = request.POST.get("reason", "").strip()[:120]
    acts = {
        "park": lambda: services.park(request.user, row, reason or "no reason given"),
        "take-up": lambda: services.park(request.user, row, ""),
        "write-off": lambda: services.write_off(request.user, row, _said(reason)),
        "give-back": lambda: services.give_back(request.user, row),
        "sanitise": lambda: services.clear_data(request.user, row, request.POST.get("how", "")),
    }
    if what not in acts:
        raise Http404

    def act():
        acts[what]()
        return back

    return press(request, act, back)


def _said(reason: str) -> str:
    if not reason:
        raise Refused("Say why: the reason stays in the record.")
    return reason


def label(request, number):
    row = get_object_or_404(selectors.units(), number=number)
    return render(request, "intake/label.html", {"unit": row, "qr": mark_safe(labels.qr_svg(row))})  # noqa: S308 - made by segno


@login_not_required
@cache_control(max_age=31536000, immutable=True, private=True)
def photo(request, pk, size):
    """A picture; without sign-in only those of a unit on offer."""
    row = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    if not request.user.is_authenticated and row.unit.stage not in {"listed", "sold", "sent"}:
        raise Http404
    path = photos.path_of(row.sha256, small=size == "small")
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")


def models(request):
    """The bank of models; the form adds one."""
    form = ModelForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            expected = data.pop("expected")
            services.add_model(request.user, data, expected)
            return reverse("intake:models")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    page = Paginator(MachineModel.objects.prefetch_related("expected"), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "intake/models.html", {"page": page, "form": form})

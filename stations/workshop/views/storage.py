"""Storage of a unit: a drive planned for systems and made a job, what failed, what was sanitised, bad tracks; the rules
of systems; images that are kept."""

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.workshop.knowledge import KnowledgeKind
from core.workshop.storage.media import format_of
from stations.common.refusals import Refused
from stations.people.screens import saved
from stations.units.models import Unit
from stations.workshop import attempts, firmware, media, sanitising, storage
from stations.workshop.forms_storage import (
    FailedForm,
    FirmwareForm,
    ReadBackForm,
    ReadOutForm,
    SanitiseForm,
    StorageForm,
    SystemForm,
    TracksForm,
)
from stations.workshop.models import FirmwareChange, Knowledge, Sanitising, SystemRules
from stations.workshop.storage_drawing import drawn
from stations.workshop.views.job import job_address, job_of, job_page

IMAGES = [KnowledgeKind.IMAGE.value, KnowledgeKind.FIRMWARE.value]


def planner(request, number):
    """Which systems on which drive; the plan, and the button that makes a job of it."""
    unit = _unit(number)
    form = StorageForm(request.POST or request.GET or None, systems=storage.systems(), initial=_known(unit))
    if done := saved(
        request,
        form,
        lambda data: job_address(storage.make_job(request.user, unit, form.asked, form.before, form.in_order).pk),
    ):
        return done
    if form.is_bound:
        form.is_valid()
    return _page(request, unit, form)


def _page(request, unit, form, **given):
    found = form.found if form.is_bound else None
    wiped = list(unit.sanitisings.select_related("who"))
    void = sanitising.withdrawn(wiped)
    context = {
        "unit": unit,
        "form": form,
        "found": found,
        "rows": list(form.rows()),
        "record": attempts.record_on(unit.model_id),
        "sanitised": [(one, void.get(one.pk)) for one in wiped],
        "sanitise": SanitiseForm(),
        "tracks": TracksForm(),
        "tables": [(row, sanitising.compared(row)) for row in unit.track_tables.all()[:12]],
        "storage_jobs": unit.jobs.filter(storage__isnull=False).order_by("-id")[:12],
        **(drawn(found) if found else {}),
        **given,
    }
    return render(request, "workshop/storage.html", context)


def _known(unit) -> dict:
    """What the model’s sheet says of where its firmware ends."""
    fit = getattr(unit.model, "fit", None) if unit.model else None
    rows = (fit.offers.get("firmware") or []) if fit else []
    largest = next((row["largest disk"] for row in rows if row.get("largest disk")), "")
    return {"firmware": "own", "firmware_size": largest} if largest else {}


def systems(request):
    """Every system with its rules, a page at a time; the form adds one."""
    form = SystemForm(request.POST or None)
    there = reverse("workshop:systems")
    if done := saved(
        request, form, lambda data: storage.keep_system(request.user, None, 0, data["name"], data["rules"]) and there
    ):
        return done
    page = Paginator(SystemRules.objects.all(), 25).get_page(request.GET.get("page"))
    return render(request, "workshop/systems.html", {"form": form, "page": page})


def system(request, pk):
    row = get_object_or_404(SystemRules, pk=pk)
    form = SystemForm(request.POST or None, instance=row)
    there = reverse("workshop:systems")

    def save(data):
        storage.keep_system(request.user, SystemRules.objects.get(pk=pk), data["version"], data["name"], data["rules"])

    if done := saved(request, form, save, there):
        return done
    return render(request, "workshop/systems.html", {"form": form, "row": row})


@require_POST
def failed(request, pk):
    """The step in hand did not work."""
    form = FailedForm(request.POST)

    def save(data):
        storage.failed(request.user, job_of(pk), data["at"], data["words"], data["varied"])

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), failed_form=form)


@require_POST
def compare(request, pk):
    """What was read back of the media a step wrote, against the images that are kept."""
    form = ReadBackForm(request.POST, request.FILES)

    def save(data):
        media.compare(request.user, job_of(pk), data["at"], data["read"])

    return saved(request, form, save, job_address(pk)) or job_page(request, job_of(pk), read_form=form)


def chips(request, number):
    """The firmware of a unit’s cards and boards; the form keeps what one more holds."""
    unit = _unit(number)
    form = ReadOutForm(request.POST or None, request.FILES or None)

    def save(data):
        firmware.read_out(request.user, unit, data["chip"], data["edition"], data["first"], data["second"])

    if done := saved(request, form, save, reverse("workshop:firmware", args=[number])):
        return done
    return _chips(request, unit, form)


@require_POST
def change_firmware(request, number):
    """Another image is tried in a chip, stays in it, or the old one is put back."""
    unit = _unit(number)
    images = firmware.images_to_try(unit)
    form = FirmwareForm(request.POST, request.FILES, images=images)

    def save(data):
        chip, read, words = data["chip"], data["read"], data["words"]
        if data["what"] == FirmwareChange.What.TRIED:
            image = next((row for row in images if str(row.pk) == data["image"]), None)
            if image is None:
                raise Refused("Choose the image that is put in.", "image")
            firmware.try_other(request.user, unit, chip, image)
        elif data["what"] == FirmwareChange.What.BACK:
            firmware.put_back(request.user, unit, chip, read, words)
        else:
            firmware.let_stay(request.user, unit, chip, read, words)

    there = reverse("workshop:firmware", args=[number])
    return saved(request, form, save, there) or _chips(request, unit, ReadOutForm(), form)


def _chips(request, unit, form, wrong=None):
    """`wrong`: the form of a chip whose change was refused, shown again beside it."""
    images = firmware.images_to_try(unit)
    chips = []
    for number, chip in enumerate(firmware.chips_of(unit)):
        is_wrong = wrong is not None and wrong.data.get("chip") == chip.name
        chips.append((chip, wrong if is_wrong else FirmwareForm(images=images, auto_id=f"chip{number}_%s")))
    return render(request, "workshop/firmware.html", {"unit": unit, "chips": chips, "form": form})


@require_POST
def sanitise(request, number):
    unit = _unit(number)
    form = SanitiseForm(request.POST)

    def save(data):
        sanitising.sanitise(request.user, unit, sanitising.Wiped(**data))

    there = reverse("workshop:storage", args=[number])
    return saved(request, form, save, there) or _page(request, unit, _empty(), sanitise=form)


def certificate(request, pk):
    """The certificate of what was sanitised."""
    row = get_object_or_404(Sanitising.objects.select_related("unit__model", "part", "who"), pk=pk)
    answer = HttpResponse(sanitising.certificate(row), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="sanitised-{row.pk}.pdf"'
    return answer


@require_POST
def keep_tracks(request, number):
    unit = _unit(number)
    form = TracksForm(request.POST)

    def save(data):
        sanitising.keep_tracks(request.user, unit, sanitising.BadTracks(**data))

    there = reverse("workshop:storage", args=[number])
    return saved(request, form, save, there) or _page(request, unit, _empty(), tracks=form)


def images(request):
    """Every image the shop keeps, with what its size says it is and whether it may be passed on."""
    rows = Knowledge.objects.filter(kind__in=IMAGES).select_related("unit", "model", "item", "part", "kept_by")
    page = Paginator(rows.order_by("title", "id"), 25).get_page(request.GET.get("page"))
    return render(
        request, "workshop/images.html", {"page": page, "images": [(row, format_of(row.size)) for row in page]}
    )


def _empty():
    return StorageForm(None, systems=storage.systems())


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "line", "model__fit"), number=number)

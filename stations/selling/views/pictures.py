"""The pictures of a listing, put in order, straightened, cut and marked; and as buyers get them."""

from django.contrib.auth.decorators import login_not_required
from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from stations.people.screens import press, saved, sent
from stations.selling import pictures as shown
from stations.selling.forms import CutForm, MarkForm
from stations.selling.models import ShownPhoto
from stations.units import picture_files
from stations.units.models import Finding, Photo, Unit

MOVES = (("first", "Show it first"), ("earlier", "Earlier"), ("later", "Later"))


def pictures(request, number):
    return _page(request, get_object_or_404(Unit.objects.select_related("lot", "model"), number=number))


def _page(request, unit, **given):
    findings = list(unit.findings.exclude(status=Finding.Status.RESOLVED))
    rows = []
    for picture in shown.pictures_of(unit, hidden=True):
        pk = picture.photo.pk
        cut_form = given.get(f"cut-{pk}") or CutForm(instance=picture.row, auto_id=f"cut-{pk}-%s")
        mark_form = given.get(f"mark-{pk}") or MarkForm(findings, auto_id=f"mark-{pk}-%s")
        rows.append((picture, cut_form, mark_form))
    return render(request, "selling/pictures.html", {"unit": unit, "rows": rows, "findings": findings, "moves": MOVES})


def _photo(pk) -> Photo:
    return get_object_or_404(Photo.objects.select_related("unit__lot", "unit__model"), pk=pk)


def _there(photo) -> str:
    return reverse("selling:pictures", args=[photo.unit.number]) + f"#p{photo.pk}"


@require_POST
def cut(request, pk):
    photo = _photo(pk)
    row = ShownPhoto.objects.filter(photo=photo).first() or ShownPhoto(photo=photo)
    form = CutForm(request.POST, instance=row, auto_id=f"cut-{pk}-%s")

    def save(data):
        shown.straighten(request.user, photo, data["version"], form.cut)

    return saved(request, form, save, _there(photo)) or _page(request, photo.unit, **{f"cut-{pk}": form})


@require_POST
def mark(request, pk):
    photo = _photo(pk)
    findings = list(photo.unit.findings.exclude(status=Finding.Status.RESOLVED))
    form = MarkForm(findings, request.POST, auto_id=f"mark-{pk}-%s")

    def save(data):
        finding = next(one for one in findings if one.pk == int(data["finding"]))
        shown.mark(request.user, photo, finding, float(data["x"]) / 100, float(data["y"]) / 100)

    return saved(request, form, save, _there(photo)) or _page(request, photo.unit, **{f"mark-{pk}": form})


@require_POST
def one_press(request, pk, what):
    """Earlier, later, left out, shown again; a mark taken away."""
    photo = _photo(pk)
    acts = {
        "earlier": lambda: shown.move(request.user, photo, -1),
        "later": lambda: shown.move(request.user, photo, 1),
        "first": lambda: shown.move(request.user, photo, -1000),
        "hide": lambda: shown.hide(request.user, photo, True),
        "show": lambda: shown.hide(request.user, photo, False),
        "unmark": lambda: shown.unmark(request.user, photo, _finding(photo, sent(request, "finding"))),
    }
    if what not in acts:
        raise Http404
    return press(request, lambda: acts[what](), _there(photo))


def _finding(photo: Photo, typed: str) -> Finding:
    return get_object_or_404(photo.unit.findings, pk=typed if typed.isdecimal() and len(typed) < 10 else 0)


@login_not_required
@cache_control(max_age=300, private=True)
def picture(request, pk, size):
    """A picture as it is shown; without sign-in only those of a unit on offer that are not left out."""
    row = get_object_or_404(Photo.objects.select_related("unit", "shown"), pk=pk)
    as_shown = getattr(row, "shown", None)
    public = row.unit.stage in {"listed", "sold", "sent"} and not (as_shown and as_shown.hidden)
    if not request.user.is_authenticated and not public:
        raise Http404
    path = picture_files.path_of(as_shown.sha256 if as_shown and as_shown.sha256 else row.sha256, small=size == "small")
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")

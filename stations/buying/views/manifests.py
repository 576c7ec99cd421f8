"""Lines from a file: upload, columns, preview, import."""

from pathlib import PurePath

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from core.buying.manifest import Column
from core.machine.quantities import Mark
from stations.buying import manifests
from stations.buying.forms import TakeInForm, UploadForm
from stations.buying.models import BidPlan, Claim, LineKind, Lot, Manifest
from stations.common.typed import columns_said, one_of
from stations.people.screens import saved

SHOWN = 25


def upload(request, number):
    return _upload(request, get_object_or_404(Lot, number=number))


def upload_to_plan(request, number):
    return _upload(request, get_object_or_404(BidPlan, number=number))


def _upload(request, target):
    form = UploadForm(request.POST, request.FILES) if request.method == "POST" else UploadForm()

    def act(data):
        file = data["file"]
        made = manifests.upload(request.user, target, PurePath(file.name or "manifest.csv").name, file.read())
        return reverse("buying:manifest", args=[made.pk])

    if done := saved(request, form, act):
        return done
    return render(request, "buying/manifest_upload.html", {"target": target, "back": _page_of(target), "form": form})


def _page_of(target):
    return reverse("buying:lot" if isinstance(target, Lot) else "buying:plan", args=[target.number])


def look(request, pk):
    """The manifest as it would be taken in; columns are chosen by sight, and looking stores nothing."""
    manifest = get_object_or_404(Manifest.objects.select_related("lot", "plan"), pk=pk)
    asked = request.GET if request.method == "GET" else request.POST
    chosen, mark = columns_said(asked, Column), one_of(asked, "mark", Mark.ASK)
    there = _page_of(manifest.target)
    table, columns, good, bad = manifests.preview(manifest, chosen, mark)
    form = TakeInForm(
        request.POST or None, of_worth=manifests.asks_to_finish(manifest, good), shapeless=manifests.shapeless(good)
    )

    def act(data):
        once = {name: data[name] for name in ("finish_cost", "shape") if name in data}
        manifests.import_manifest(request.user, manifest, chosen or {}, data["again"], mark, **once)
        return there

    if done := saved(request, form, act):
        return done
    context = {
        "form": form,
        "target": manifest.target,
        "back": there,
        "manifest": manifest,
        "table": table,
        "sample": table.rows[:3],
        "marks": list(Mark),
        "mark": mark,
        "choices": [(column, columns.get(column)) for column in Column],
        "good": good,
        "bad": Paginator(bad, SHOWN).get_page(request.GET.get("page")),
        "bad_count": len(bad),
        "first": [(line, Claim(line.claim).label, LineKind(line.kind).label) for line in good[:SHOWN]],
        "more_lines": len(good[SHOWN:]),
        "before": manifests.imported_before(manifest),
        "columns": "&".join([*(f"{column.value}={index}" for column, index in columns.items()), f"mark={mark}"]),
    }
    return render(request, "buying/manifest.html", context)

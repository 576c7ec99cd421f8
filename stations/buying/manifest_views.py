"""Manifest in, lots out: uploading with a preview, and exports."""

import csv
from pathlib import PurePath

from django.core.paginator import Paginator
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from core.buying.manifest import Column
from core.machine.quantities import Mark
from stations.buying import manifests, selectors
from stations.buying.forms import UploadForm
from stations.buying.models import BidPlan, Lot, Manifest
from stations.buying.sharing import current_sharing
from stations.common.spreadsheet import harmless
from stations.people.editing import attempt, press

SHOWN = 25


def upload(request, number):
    return _upload(request, get_object_or_404(Lot, number=number))


def upload_to_plan(request, number):
    return _upload(request, get_object_or_404(BidPlan, number=number))


def _upload(request, target):
    form = UploadForm(request.POST, request.FILES) if request.method == "POST" else UploadForm()
    if request.method == "POST":

        def act(data):
            file = data["file"]
            made = manifests.upload(request.user, target, PurePath(file.name or "manifest.csv").name, file.read())
            return reverse("buying:manifest", args=[made.pk])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "buying/manifest_upload.html", {"target": target, "back": _page_of(target), "form": form})


def _page_of(target):
    return reverse("buying:lot" if isinstance(target, Lot) else "buying:plan", args=[target.number])


def look(request, pk):
    """The manifest as it would be taken in; columns are chosen by sight, and looking stores nothing."""
    manifest = get_object_or_404(Manifest.objects.select_related("lot", "plan"), pk=pk)
    asked = request.GET if request.method == "GET" else request.POST
    chosen, mark = _chosen(asked), Mark(asked["mark"]) if asked.get("mark") in set(Mark) else Mark.ASK
    there = _page_of(manifest.target)
    if request.method == "POST":

        def act():
            manifests.import_manifest(request.user, manifest, chosen or {}, bool(request.POST.get("again")), mark)
            return there

        back = reverse("buying:manifest", args=[pk]) + "?" + request.POST.get("columns", "")
        return press(request, act, back)
    table, columns, good, bad = manifests.preview(manifest, chosen, mark)
    context = {
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
        "first": good[:SHOWN],
        "before": manifests.imported_before(manifest),
        "columns": "&".join([*(f"{column.value}={index}" for column, index in columns.items()), f"mark={mark}"]),
    }
    return render(request, "buying/manifest.html", context)


def _chosen(data) -> dict[Column, int] | None:
    """The columns named in the address or the form; None when none is, so that they are guessed."""
    named = {column: data.get(column.value, "") for column in Column if column.value in data}
    return {column: int(text) for column, text in named.items() if text.isdecimal()} if named else None


LOT_FIELDS = ("code", "title", "supplier", "source", "bought_on", "currency", "rate", "landed_total", "back", "cost")


def _lot_rows():
    """Every lot as exported, a page of the books at a time."""
    lots = selectors.lots()
    for page in Paginator(lots, 200):
        for row in selectors.with_money(list(page)):
            lot = row.lot
            yield (
                lot.code,
                lot.title,
                lot.supplier.name,
                lot.source_kind,
                lot.bought_on.isoformat(),
                lot.currency,
                lot.rate,
                lot.landed_total,
                row.money.sale,
                row.money.cost,
            )


def lots_csv(request):
    return _csv("lots.csv", LOT_FIELDS, _lot_rows())


def lots_json(request):
    rows = [dict(zip(LOT_FIELDS, map(str, row), strict=True)) for row in _lot_rows()]
    return JsonResponse({"lots": rows})


LINE_FIELDS = (
    "lot",
    "position",
    "description",
    "quantity",
    "received",
    "kind",
    "claim",
    "claim_words",
    "weight_kg",
    "worth_low",
    "worth_likely",
    "worth_high",
    "finish_cost",
    "share",
)


def _line_rows(lot):
    for line, share in selectors.lines_with_shares(lot.lines.all(), current_sharing(lot)):
        yield (
            lot.code,
            line.position,
            line.description,
            line.quantity,
            line.received,
            line.kind,
            line.claim,
            line.claim_words,
            line.weight_kg,
            line.worth_low,
            line.worth_likely,
            line.worth_high,
            line.finish_cost,
            share.amount if share else "",
        )


def lines_csv(request, number):
    lot = get_object_or_404(Lot, number=number)
    return _csv(f"{lot.code}.csv", LINE_FIELDS, _line_rows(lot))


def lines_json(request, number):
    lot = get_object_or_404(Lot, number=number)
    rows = [
        {name: None if value in (None, "") else str(value) for name, value in zip(LINE_FIELDS, row, strict=True)}
        for row in _line_rows(lot)
    ]
    return JsonResponse({"lot": lot.code, "lines": rows})


def _csv(name, head, rows) -> HttpResponse:
    """A CSV file that a spreadsheet opens as text and numbers, never as formulas."""
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    answer.write("\ufeff")
    writer = csv.writer(answer)
    writer.writerow(head)
    for row in rows:
        writer.writerow(harmless(cell) for cell in row)
    return answer

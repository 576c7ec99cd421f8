"""What models offer and parts need: typed, drawn as it is typed, out to files and in."""

from urllib.parse import urlencode

from django.core.paginator import Paginator
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from stations.catalogue import bank_files, fit_sheets
from stations.catalogue.fit_drawing import draw, draw_part
from stations.catalogue.forms_fit import NeedsForm, OffersForm, TriedForm
from stations.catalogue.models import MachineModel, ModelOffers, PartSheet, Tried
from stations.catalogue.views.bank_file import bank_file
from stations.common.spreadsheet import csv_answer
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved

PER_PAGE = 40


def offers(request, pk):
    """What machines of a model offer."""
    model = get_object_or_404(MachineModel, pk=pk)
    kept = ModelOffers.objects.filter(model=model).first()
    sheet = fit_sheets.offers_of(model)
    form = OffersForm(request.POST or None, sheet=sheet, seen=kept.version if kept else 0)

    def save(data):
        fit_sheets.keep_offers(request.user, model, form.sheet or Offers(), data["version"])

    if done := saved(request, form, save, reverse("catalogue:offers", args=[pk])):
        return done
    drawn = draw(Machine((form.sheet if form.is_bound else sheet) or Offers()))
    return render(request, "catalogue/offers.html", {"model": model, "form": form, "drawn": drawn})


@require_POST
def offers_drawn(request, pk):
    """What is typed, drawn; empty while it can't be read."""
    form = OffersForm(request.POST, sheet=Offers())
    form.is_valid()
    drawn = draw(Machine(form.sheet)) if form.sheet else None
    return render(request, "catalogue/_drawn.html", {"drawn": drawn, "wrong": form.errors})


def sheets(request):
    """Every part there is a sheet of."""
    rows = PartSheet.objects.all()
    if words := request.GET.get("q", "").strip()[:80]:
        rows = rows.filter(name__icontains=words)
    page = Paginator(rows, PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "catalogue/part_sheets.html", {"page": page, "words": words})


def sheet(request, pk=None):
    """What a part is and needs; without a key a new one, perhaps of the name in the address."""
    row = get_object_or_404(PartSheet, pk=pk) if pk else None
    start = {"name": row.name if row else request.GET.get("name", "")[:80]}
    form = NeedsForm(
        request.POST or None,
        sheet=fit_sheets.needs_of(row) if row else Needs(),
        seen=row.version if row else 0,
        initial=start,
    )

    def save(data):
        now = PartSheet.objects.get(pk=pk) if pk else None
        kept = fit_sheets.keep_needs(request.user, now, data["name"], form.sheet or Needs(), data["version"])
        return reverse("catalogue:part-sheet", args=[kept.pk])

    if done := saved(request, form, save):
        return done
    return sheet_page(request, row, form)


def sheet_of(request):
    """The sheet of parts of a name; a new one where there is none."""
    name = request.GET.get("name", "").strip()[:80]
    row = PartSheet.objects.filter(name=name).first()
    if row:
        return redirect("catalogue:part-sheet", row.pk)
    return redirect(f"{reverse('catalogue:part-sheet-new')}?{urlencode({'name': name})}")


def sheet_page(request, row, form, tried=None):
    context = {
        "row": row,
        "form": form,
        "tried": row.tried.select_related("model")[:40] if row else [],
        "tried_form": tried or TriedForm(),
        "story": history.latest(HistoryEntry.Subject.SHEET, row.pk) if row else None,
        "drawn": draw_part(form.sheet or (fit_sheets.needs_of(row) if row else Needs())),
    }
    return render(request, "catalogue/part_sheet.html", context)


@require_POST
def drop_sheet(request, pk):
    row, all_sheets = get_object_or_404(PartSheet, pk=pk), reverse("catalogue:part-sheets")

    def drop():
        fit_sheets.drop_sheet(request.user, row)
        return all_sheets

    return press(request, drop, reverse("catalogue:part-sheet", args=[pk]))


@require_POST
def keep_tried(request, pk):
    row = get_object_or_404(PartSheet, pk=pk)
    form = TriedForm(request.POST)
    there = reverse("catalogue:part-sheet", args=[pk])

    def save(data):
        fit_sheets.keep_tried(request.user, Tried(sheet=row, **data))

    if done := saved(request, form, save, there):
        return done
    typed = NeedsForm(sheet=fit_sheets.needs_of(row), seen=row.version, initial={"name": row.name})
    return sheet_page(request, row, typed, form)


@require_POST
def drop_tried(request, pk):
    row = get_object_or_404(Tried, pk=pk)
    there = reverse("catalogue:part-sheet", args=[row.sheet_id])
    return press(request, lambda: fit_sheets.drop_tried(request.user, row), there)


def export_parts(request, form):
    """All sheets of parts, as the bank takes them in again."""
    if form == "csv":
        return csv_answer("parts.csv", bank_files.PART_FIELDS, bank_files.part_cells())
    if form != "json":
        raise Http404
    answer = HttpResponse(bank_files.parts_json(), content_type="application/json; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="parts.json"'
    return answer


def import_parts(request):
    there = reverse("catalogue:part-sheets")
    return bank_file(request, "parts", "Import sheets of parts", there, bank_files.import_parts)

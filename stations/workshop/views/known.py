"""What is known of a unit and its model, or of a part, with its files."""

from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.paging import first_of
from stations.common.typed import whole_number
from stations.people.screens import press, saved, sent
from stations.stock.models import StockItem
from stations.units.models import Part, Unit
from stations.workshop import knowledge
from stations.workshop.forms import KnowledgeForm
from stations.workshop.models import Knowledge


def known(request, number):
    """All that is known of a unit and its model; the form keeps one more, or puts one right (`?one=`)."""
    unit = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    rows, there = knowledge.known_of(unit), reverse("workshop:known", args=[number])
    return _page(request, unit, unit.model, rows, there, "workshop/known.html", {"unit": unit})


def known_of_part(request, pk):
    """All that is known of a part in a drawer."""
    item = get_object_or_404(StockItem, pk=pk)
    rows, there = knowledge.known_of_part(item), reverse("workshop:known-part", args=[pk])
    return _page(request, item, None, rows, there, "workshop/known_part.html", {"item": item})


def known_of_single(request, number):
    """All that is known of one part with a record of its own."""
    part = get_object_or_404(Part, number=number)
    rows, there = knowledge.known_of_part(part), reverse("workshop:known-single", args=[number])
    return _page(request, part, None, rows, there, "workshop/known_part.html", {"item": part, "single": True})


def _page(request, of, model, rows, there, template, context):
    row = rows.filter(pk=whole_number(request.GET.get("one", ""))).first()
    form = KnowledgeForm(request.POST or None, request.FILES or None, instance=row, has_model=model is not None)

    def save(data):
        of_model, file = data.pop("of_model", False), data.pop("file")
        expected = data.pop("expected")
        seen = data.pop("version") or 0
        known = knowledge.Known(**data)
        knowledge.keep(request.user, model if of_model else of, row, seen, known, file, expected)

    if done := saved(request, form, save, there):
        return done
    return render(request, template, {**context, "rows": first_of(rows, 200), "form": form, "row": row})


@require_POST
def forget(request, pk):
    """Something that is not so, or not of this."""
    row = get_object_or_404(Knowledge.objects.select_related("unit", "part"), pk=pk)
    if row.unit:
        there = reverse("workshop:known", args=[row.unit.number])
    elif row.part:
        there = reverse("workshop:known-single", args=[row.part.number])
    elif row.item_id:
        there = reverse("workshop:known-part", args=[row.item_id])
    else:
        there = reverse("catalogue:model", args=[row.model_id])
    return press(request, lambda: knowledge.forget(request.user, row, sent(request, "why")), there, "why")


def file(request, pk):
    """A file as it was kept, never shown as a page."""
    row = get_object_or_404(Knowledge, pk=pk)
    path = knowledge.path_of(row.sha256)
    if not row.sha256 or not path.exists():
        raise Http404
    return FileResponse(
        path.open("rb"), as_attachment=True, filename=row.original_name, content_type="application/octet-stream"
    )


def small(request, pk):
    """The small copy of a picture: made here, so that it is safe to show."""
    row = get_object_or_404(Knowledge, pk=pk)
    path = knowledge.small_path_of(row.sha256)
    if not row.sha256 or not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")

"""What the same fetched elsewhere: typed one by one, or taken in from a file."""

from pathlib import PurePath

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.machine.quantities import Mark
from core.selling.sales_file import DayOrder, SalesColumn
from stations.catalogue.models import MachineModel
from stations.common.forms import FileForm
from stations.common.typed import columns_said, one_of, whole_number
from stations.people.screens import begun_with, one_more, press, saved, sent
from stations.selling import comparable_files, services
from stations.selling.forms import ComparableForm
from stations.selling.models import Comparable, ComparableFile
from stations.workshop import buyers

SHOWN = 25
# Who looks through what a model fetched types several in a row.
SHARED = ("model", "currency", "channel")


def comparables(request):
    initial = begun_with(request, *SHARED)
    form = ComparableForm(request.POST or None, initial=initial, buyers=buyers.buyers().values())

    def add(data):
        another = data.pop("another")
        services.add_comparable(request.user, Comparable(**data), another)

    if done := saved(request, form, add, one_more(request, reverse("selling:comparables"), *SHARED)):
        return done
    page = Paginator(Comparable.objects.select_related("model"), 25).get_page(request.GET.get("page"))
    context = {"form": form, "page": page, "files": comparable_files.taken_in()}
    return render(request, "selling/comparables.html", context)


@require_POST
def drop(request, pk):
    row = get_object_or_404(Comparable, pk=pk)
    page = whole_number(sent(request, "page"))
    there = reverse("selling:comparables") + (f"?page={page}" if page and page > 1 else "")

    def act():
        services.drop_comparable(request.user, row)
        facts = (
            f"{row.model} {row.get_grade_display()}",
            f"{row.price} {row.currency}",
            f"{row.sold_on:%-d %b %Y}",
            row.channel,
        )
        messages.success(request, f"Dropped: {', '.join(filter(None, facts))}.")

    return press(request, act, there)


def upload(request):
    form = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm()

    def act(data):
        file = data["file"]
        name = PurePath(file.name or "sales.csv").name
        return reverse("selling:file", args=[comparable_files.upload(request.user, name, file.read()).pk])

    if done := saved(request, form, act):
        return done
    return render(request, "selling/file_upload.html", {"form": form})


def look(request, pk):
    """The file as it would be taken in; columns are chosen by sight, and looking stores nothing."""
    file = get_object_or_404(ComparableFile, pk=pk)
    how = _reading(request.GET if request.method == "GET" else request.POST)
    if request.method == "POST":

        def act():
            comparable_files.take_in(request.user, file, how, bool(request.POST.get("again")))
            return reverse("selling:comparables")

        return press(request, act, reverse("selling:file", args=[pk]) + "?" + request.POST.get("how", ""))
    found = comparable_files.preview(file, how)
    chosen = {column.value: index for column, index in found.columns.items()}
    chosen |= {"mark": how.mark.value, "order": how.order.value, "one": how.model.pk if how.model else ""}
    context = {
        "file": file,
        "found": found,
        "how": how,
        "sample": found.table.rows[:3],
        "choices": [(column, found.columns.get(column)) for column in SalesColumn],
        "marks": list(Mark),
        "orders": list(DayOrder),
        "models": MachineModel.objects.to_choose(how.model.pk if how.model else None),
        "bad": Paginator(found.bad, SHOWN).get_page(request.GET.get("page")),
        "first": found.good[:SHOWN],
        "more_lines": len(found.good[SHOWN:]),
        "counting": file.sales.count() if file.taken_in_at else 0,
        "before": comparable_files.taken_before(file),
        "chosen": chosen,
        "query": "&".join(f"{name}={value}" for name, value in chosen.items()),
    }
    return render(request, "selling/file.html", context)


@require_POST
def take_out(request, pk):
    file, there = get_object_or_404(ComparableFile, pk=pk), reverse("selling:file", args=[pk])

    def act():
        count = comparable_files.take_out(request.user, file, sent(request, "why"))
        sales = "1 sale" if count == 1 else f"{count} sales"
        messages.success(request, f"{sales} taken out again. The file can be read otherwise, and taken in anew.")

    return press(request, act, there, "why")


def _reading(data) -> comparable_files.Reading:
    """How the address or the form says the file is to be read; without columns they are guessed."""
    return comparable_files.Reading(
        columns_said(data, SalesColumn),
        one_of(data, "mark", Mark.ASK),
        one_of(data, "order", DayOrder.ASK),
        MachineModel.objects.filter(pk=whole_number(data.get("one", "")) or 0).first(),
    )

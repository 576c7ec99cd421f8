"""The bank of models."""

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.catalogue import bank, bank_files
from stations.catalogue import services as catalogue
from stations.catalogue.forms import ModelForm
from stations.catalogue.models import MachineModel
from stations.catalogue.prices import prices_of
from stations.catalogue.views.bank_file import bank_file
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import saved

PER_PAGE = 25


def models(request):
    """The bank of models; the form adds one."""
    form = ModelForm(request.POST or None)

    def act(data):
        expected = data.pop("expected")
        catalogue.add_model(request.user, MachineModel(**data), expected)

    if done := saved(request, form, act, reverse("catalogue:models")):
        return done
    page = Paginator(MachineModel.objects.prefetch_related("expected"), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "catalogue/models.html", {"page": page, "form": form})


def model(request, pk):
    row = get_object_or_404(MachineModel, pk=pk)
    form = ModelForm(request.POST or None, instance=MachineModel.objects.get(pk=pk))

    def act(data):
        expected, together = data.pop("expected"), data.pop("together")
        bank.change_model(request.user, row, bank.ModelDetails(**data), expected, together)

    if done := saved(request, form, act, reverse("catalogue:models")):
        return done
    return render(
        request,
        "catalogue/model.html",
        {
            "model": row,
            "form": form,
            "prices": prices_of(row),
            "story": history.latest(HistoryEntry.Subject.MODEL, row.pk),
        },
    )


def export(request, form):
    """The whole bank as CSV or JSON."""
    text, kind = (
        (bank_files.as_json(), "application/json") if form == "json" else ("\ufeff" + bank_files.as_csv(), "text/csv")
    )
    answer = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="models.{form}"'
    return answer


def take_in(request):
    return bank_file(request, "models", "Import models", reverse("catalogue:models"), bank_files.import_models)

"""The model bank's pages: models, how makers numbered, and the bank out of and into a file."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from stations.catalogue import bank
from stations.catalogue import services as catalogue
from stations.catalogue.forms import ModelForm, PatternForm, RuleForm
from stations.catalogue.models import MachineModel, SerialPattern, VariantRule
from stations.catalogue.prices import prices_of
from stations.common.forms import FileForm
from stations.people.editing import attempt

PER_PAGE = 25


def models(request):
    """The bank of models; the form adds one."""
    form = ModelForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            expected = data.pop("expected")
            catalogue.add_model(request.user, data, expected)
            return reverse("catalogue:models")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    page = Paginator(MachineModel.objects.prefetch_related("expected"), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "catalogue/models.html", {"page": page, "form": form})


def model(request, pk):
    row = get_object_or_404(MachineModel.objects.prefetch_related("expected"), pk=pk)
    form = ModelForm(request.POST or None, instance=row)
    if request.method == "POST":

        def act(data):
            expected = data.pop("expected")
            bank.change_model(request.user, MachineModel.objects.get(pk=pk), data, expected)
            return reverse("catalogue:models")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "catalogue/model.html", {"model": row, "form": form, "prices": prices_of(row)})


def numbering(request):
    """How makers numbered: serial patterns and variant rules, as data."""
    which = request.POST.get("what", "")
    pattern = PatternForm(request.POST if which == "pattern" else None, prefix="pattern")
    rule = RuleForm(request.POST if which == "rule" else None, prefix="rule")
    for form, act in ((pattern, catalogue.add_pattern), (rule, catalogue.add_rule)):
        if form.is_bound:

            def do(data, act=act):
                act(request.user, data)
                return reverse("catalogue:numbering")

            if leads_to := attempt(request, form, do):
                return redirect(leads_to)
    context = {
        "pattern": pattern,
        "rule": rule,
        "patterns": SerialPattern.objects.select_related("model")[:200],
        "rules": VariantRule.objects.all()[:200],
    }
    return render(request, "catalogue/numbering.html", context)


def export(request, form):
    """The whole bank as CSV or JSON."""
    text, kind = (bank.as_json(), "application/json") if form == "json" else ("\ufeff" + bank.as_csv(), "text/csv")
    answer = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="models.{form}"'
    return answer


def take_in(request):
    form = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm()
    if request.method == "POST":

        def act(data):
            new, changed = bank.import_models(request.user, data["file"].read())
            messages.success(request, f"{new} new, {changed} put right.")
            return reverse("catalogue:models")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    context = {"form": form, "title": "Import models", "back": reverse("catalogue:models")}
    context["words"] = (
        "CSV or JSON, as the bank exports it. All of them or none; one that is here already is put right."
    )
    return render(request, "intake/file.html", context)

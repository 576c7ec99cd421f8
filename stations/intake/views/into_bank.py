"""The model of a unit goes into the bank, as far as it was seen on that unit."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.catalogue.forms import ModelForm
from stations.catalogue.models import MachineModel
from stations.intake.into_bank import like_it, put_in_bank, suggested
from stations.people.screens import saved
from stations.units.models import Unit


def into_bank(request, number):
    row = get_object_or_404(Unit.objects.select_related("model", "line__lot"), number=number)
    form = ModelForm(request.POST or None, initial=suggested(row))
    others = like_it(row)
    chosen = {one.pk for one in others} & {int(pk) for pk in request.POST.getlist("others") if pk.isdecimal()}
    there = reverse("intake:unit", args=[number])

    def act(data):
        expected = data.pop("expected")
        also = [one for one in others if one.pk in chosen]
        model = put_in_bank(request.user, row, MachineModel(**data), expected, also)
        messages.success(request, f"{model} is in the bank, and {1 + len(also)} of it {'are' if also else 'is'} here.")

    if done := saved(request, form, act, there):
        return done
    rows = [(one, request.method != "POST" or one.pk in chosen) for one in others]
    return render(request, "intake/into_bank.html", {"unit": row, "form": form, "others": rows, "back": there})

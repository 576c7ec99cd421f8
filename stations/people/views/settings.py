"""The settings of the shop."""

from django.shortcuts import render
from django.urls import reverse

from stations.people import shop_settings
from stations.people.forms import SettingsForm
from stations.people.screens import saved


def settings(request):
    row = shop_settings.settings()
    form = SettingsForm(request.POST or None, instance=row)
    if done := saved(
        request,
        form,
        lambda data: shop_settings.change_settings(
            request.user, data["version"], shop_settings.SettingsDetails(**form.settings), data["tax_from"]
        ),
        reverse("people:settings"),
    ):
        return done
    return render(request, "people/settings.html", {"form": form})

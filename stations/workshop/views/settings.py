"""The settings of a unit, before and after."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.typed import whole_number
from stations.people.screens import press, saved
from stations.units.models import Unit
from stations.workshop import settings
from stations.workshop.forms import SettingForm, TrialForm
from stations.workshop.models import Setting


def sheet(request, number):
    """Every setting with its drawing; the form records one more, or puts one right (`?one=`)."""
    unit = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    setting = unit.settings.filter(pk=whole_number(request.GET.get("one", ""))).first()
    form = SettingForm(request.POST or None, instance=setting)

    def save(data):
        version = data.pop("version")
        settings.record_setting(request.user, unit, setting, version, settings.SetAs(**data))

    if done := saved(request, form, save, reverse("workshop:settings", args=[number])):
        return done
    return _sheet(request, unit, setting, form, TrialForm())


def _sheet(request, unit, setting, form, trial):
    rows = list(unit.settings.select_related("seen_by").prefetch_related("trials__who"))
    context = {
        "unit": unit,
        "rows": rows,
        "form": form,
        "trial": trial,
        "setting": setting,
        "changed": any(r.changed for r in rows),
    }
    return render(request, "workshop/settings.html", context)


@require_POST
def try_against(request, pk):
    """Two states of a setting tried against one another."""
    setting = get_object_or_404(Setting.objects.select_related("unit__lot", "unit__model"), pk=pk)
    form = TrialForm(request.POST)
    there = reverse("workshop:settings", args=[setting.unit.number])

    def save(data):
        settings.try_against(request.user, setting, form.tried)

    return saved(request, form, save, there) or _sheet(
        request, setting.unit, setting, SettingForm(instance=setting), form
    )


@require_POST
def put_back(request, number):
    unit = get_object_or_404(Unit, number=number)

    def act():
        return reverse("workshop:job", args=[settings.put_back(request.user, unit).pk])

    return press(request, act, reverse("workshop:settings", args=[number]))

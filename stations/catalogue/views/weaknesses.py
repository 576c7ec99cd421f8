"""What is known to go wrong, by model and by part."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.catalogue import weaknesses
from stations.catalogue.forms_weakness import WeaknessForm
from stations.catalogue.models import Weakness
from stations.people.screens import press, saved


def all_weaknesses(request, pk=None):
    """The list; the form adds one, or puts the one of the address right."""
    row = get_object_or_404(Weakness, pk=pk) if pk else None
    form = WeaknessForm(request.POST or None, instance=row)

    def save(data):
        now = Weakness.objects.filter(pk=pk).first() if pk else None
        weaknesses.keep_weakness(request.user, now, data["version"], weaknesses.WeaknessDetails(**form.changes))

    if done := saved(request, form, save, reverse("catalogue:weaknesses")):
        return done
    page = Paginator(Weakness.objects.select_related("model"), 40).get_page(request.GET.get("page"))
    context = {"form": form, "page": page, "row": row, "suspects": weaknesses.suspect_words()}
    return render(request, "catalogue/weaknesses.html", context)


@require_POST
def drop(request, pk):
    row = get_object_or_404(Weakness, pk=pk)
    return press(request, lambda: weaknesses.drop_weakness(request.user, row), reverse("catalogue:weaknesses"))

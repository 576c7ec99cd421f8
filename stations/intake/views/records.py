"""The whole record of a unit, out and in."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.buying.models import LotLine
from stations.common.forms import FileForm
from stations.intake import records
from stations.people.screens import saved
from stations.units.models import Unit


def record(request, number):
    """The whole record of a unit as JSON."""
    row = get_object_or_404(Unit.objects.select_related("lot", "line", "model"), number=number)
    answer = HttpResponse(records.as_text(row), content_type="application/json; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{row.tag}.json"'
    return answer


def take_in_record(request, pk):
    """A record from elsewhere becomes one more unit of a lot's line."""
    line = get_object_or_404(LotLine.objects.select_related("lot"), pk=pk)
    form = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm()

    def act(data):
        made = records.import_record(request.user, line, records.read(data["file"].read()))
        return reverse("intake:unit", args=[made.number])

    if done := saved(request, form, act):
        return done
    words = (
        f"One more of “{line.description}” ({line.outstanding} to come), as its record says. Photos are not carried."
    )
    context = {
        "form": form,
        "title": f"A unit’s record into {line.lot.code}",
        "words": words,
        "back": reverse("intake:table"),
    }
    return render(request, "intake/file.html", context)

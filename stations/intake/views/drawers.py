"""Pieces of a lot that go into drawers, and back when that was a mistake."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.buying.models import LotLine
from stations.intake import receiving
from stations.intake.forms import DrawerForm
from stations.people.screens import press, saved, sent
from stations.units.models import DrawerReceipt


def into_drawer(request, pk):
    """Pieces of a line into a drawer; what went there before stands below."""
    line = get_object_or_404(LotLine.objects.select_related("lot"), pk=pk)
    start = {"count": line.outstanding, "name": line.description}
    form = DrawerForm(request.POST or None, initial=start)

    def save(data):
        receipt = receiving.receive_into_drawer(request.user, line, data["count"], form.sort, data["amount"])
        messages.success(request, f"{receipt}, carrying {receipt.cost}.")

    if done := saved(request, form, save, reverse("intake:into-drawer", args=[pk])):
        return done
    receipts = line.drawer_receipts.select_related("item", "who").order_by("-id")[:40]
    return render(request, "intake/into_drawer.html", {"line": line, "form": form, "receipts": receipts})


@require_POST
def take_back(request, pk):
    row = get_object_or_404(DrawerReceipt.objects.select_related("line", "item"), pk=pk)
    there = reverse("intake:into-drawer", args=[row.line_id])
    return press(request, lambda: receiving.take_back_receipt(request.user, row, sent(request, "why")), there, "why")

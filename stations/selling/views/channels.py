"""Where it is offered, what that takes, and how each place stands."""

from django.conf import settings
from django.core.paginator import Paginator
from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.typed import whole_number
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved
from stations.selling import cards as printed
from stations.selling import market, placing, services
from stations.selling.forms import ChannelForm
from stations.selling.models import Channel


def channels(request):
    """Where we sell, what it keeps, and whether it answers."""
    form = ChannelForm(request.POST or None)

    def save(data):
        return services.add_channel(request.user, Channel(**form.changes))

    if done := saved(request, form, save, reverse("selling:channels")):
        return done
    there = Count("placements", filter=Q(placements__stands=True))
    rows = Channel.objects.annotate(there=there).order_by("-in_use", "name")
    page = Paginator(rows, 25).get_page(request.GET.get("page"))
    return render(request, "selling/channels.html", {"form": form, "page": page})


def channel(request, pk):
    """One channel: how it is served, what stands there, what it told."""
    row = get_object_or_404(Channel, pk=pk)
    form = ChannelForm(request.POST or None, instance=row)

    def save(data):
        said = services.ChannelDetails(**form.changes)
        services.change_channel(request.user, Channel.objects.get(pk=pk), data["version"], said)

    if done := saved(request, form, save, reverse("selling:channel", args=[pk])):
        return done
    row = Channel.objects.get(pk=pk)
    placements = (
        row.placements.select_related("unit", "channel").exclude(turn=0).order_by("-wanted", "-changed_at", "pk")
    )
    context = {
        "channel": row,
        "form": form,
        "page": Paginator(placements, 25).get_page(request.GET.get("page")),
        "cards": printed.batches(row) if row.is_fair else [],
        "fees": market.fees_kept_by(row),
        "any_chosen": row.in_use and row.placements.filter(chosen=True).exists(),
        "left_up": placing.to_come_down(row) if row.trouble_since else [],
        "by_hand": placing.by_hand_to_do(row),
        "story": history.latest(HistoryEntry.Subject.CHANNEL, row.pk),
        "messages_told": row.messages.select_related("unit")[:15],
    }
    return render(request, "selling/channel.html", context)


@require_POST
def all_done(request, pk):
    row = get_object_or_404(Channel, pk=pk)
    return press(
        request, lambda: placing.confirm_all(request.user, row, _seen(request)), reverse("selling:channel", args=[pk])
    )


@require_POST
def all_off(request, pk):
    row = get_object_or_404(Channel, pk=pk)
    return press(request, lambda: placing.take_all_off(request.user, row), reverse("selling:channel", args=[pk]))


@require_POST
def found_down(request, pk):
    row = get_object_or_404(Channel, pk=pk)
    return press(
        request, lambda: placing.found_down(request.user, row, _seen(request)), reverse("selling:channel", args=[pk])
    )


def _seen(request) -> dict[int, int]:
    """In which turn each placement was when the page was made: “key:turn” of each."""
    pairs = (typed.partition(":") for typed in request.POST.getlist("seen"))
    found = ((whole_number(key), whole_number(turn)) for key, _, turn in pairs)
    return {key: turn for key, turn in found if key is not None and turn is not None}


def cards(request, pk):
    """A card with a price and a QR code for each unit that goes to a fair, to be printed and cut."""
    row = get_object_or_404(Channel, pk=pk)
    base = settings.PUBLIC_URL or request.build_absolute_uri("/").rstrip("/")
    first = whole_number(request.GET.get("from", "")) or 0
    body = printed.cards(row, base, shop_settings.settings().name, first)
    return HttpResponse(body, content_type="application/pdf", headers={"Content-Disposition": "inline"})

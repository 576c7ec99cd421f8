"""Where it is offered, and what that takes."""

from django.core.paginator import Paginator
from django.shortcuts import render
from django.urls import reverse

from stations.people.screens import saved
from stations.selling import services
from stations.selling.forms import ChannelForm
from stations.selling.models import Channel


def channels(request):
    """Where we sell, and what it keeps."""
    form = ChannelForm(request.POST or None)
    if done := saved(request, form, lambda data: services.add_channel(request.user, data), reverse("selling:channels")):
        return done
    page = Paginator(Channel.objects.all(), 25).get_page(request.GET.get("page"))
    return render(request, "selling/channels.html", {"form": form, "page": page})

"""What is done outside of requests, as the owner sees it."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press
from stations.queue import services
from stations.queue.models import QueuedWork


def queue(request):
    """A page at a time, the newest first."""
    page = Paginator(QueuedWork.objects.select_related("put_by"), 40).get_page(request.GET.get("page"))
    return render(request, "queue/queue.html", {"page": page})


@require_POST
def leave(request, pk):
    row = get_object_or_404(QueuedWork, pk=pk)
    return press(request, lambda: services.leave(request.user, row), reverse("queue:queue"))


@require_POST
def again(request, pk):
    row = get_object_or_404(QueuedWork, pk=pk)
    return press(request, lambda: services.try_again(request.user, row), reverse("queue:queue"))

"""The backups of the shop, for its owner."""

from django.conf import settings
from django.contrib import messages
from django.core.paginator import Paginator
from django.http import FileResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.backup import kept, lost, services
from stations.backup.work import EXPORT, MAKE
from stations.common.refusals import Refused
from stations.people.screens import press
from stations.queue.models import QueuedWork

THERE = "backup:backups"
PER_PAGE = 25


def backups(request):
    going_on, trouble = _asked(MAKE)
    being_written, not_written = _asked(EXPORT)
    there = kept.backups()
    context = {
        "newest": there[0] if there else None,
        "page": Paginator(there, PER_PAGE).get_page(request.GET.get("page")),
        "old": kept.is_old(),
        "going_on": going_on,
        "trouble": trouble,
        "records": kept.records(),
        "records_stay": kept.RECORDS_STAY.days,
        "being_written": being_written,
        "not_written": not_written,
        "folder": settings.BACKUP_ROOT,
        "kept": settings.BACKUPS_KEPT,
        "lost": [f"{kind}: {len(names)}" for kind, names in lost.by_kind().items()],
    }
    return render(request, "backup/backups.html", context)


def _asked(kind: str) -> tuple[QueuedWork | None, str]:
    """What waits or is being done of a kind, and what went wrong with the last."""
    last = QueuedWork.objects.filter(kind=kind).first()
    return QueuedWork.objects.filter(once=kind).first(), last.error if last and last.state != last.State.DONE else ""


@require_POST
def make(request):
    def act():
        services.ask_for(request.user)
        messages.success(request, "It is being made. It stands here once it is whole.")

    return press(request, act, reverse(THERE))


@require_POST
def write_records(request):
    def act():
        services.ask_for_records(request.user)
        messages.success(request, "They are being written. They stand here once they are whole.")

    return press(request, act, f"{reverse(THERE)}#records")


@require_POST
def bring_back(request):
    def act():
        count, left = services.bring_back(request.user)
        files = "1 file is" if count == 1 else f"{count} files are"
        messages.success(request, f"{files} back.{f' {left} more no backup here has.' if left else ''}")

    return press(request, act, reverse(THERE))


def take(request):
    """The file itself, by its name."""
    try:
        path = services.take_out(request.user, request.GET.get("name", ""))
    except Refused as refusal:
        messages.error(request, refusal.message)
        return redirect(THERE)
    return FileResponse(path.open("rb"), as_attachment=True, filename=path.name)

"""What is not done in the background: by no worker, or given up."""

from django.urls import reverse

from stations.common.paging import first_of
from stations.people import stopped
from stations.people.models import Person
from stations.people.permissions import may
from stations.people.stopped import Stopped
from stations.queue import services


@stopped.kinds.add("workers")
def silent_workers(_: Person) -> list[Stopped]:
    since = services.silent_since()
    if since is None:
        return []
    began = stopped.at(since)
    if busy := services.being_done():
        return [
            Stopped(
                f"The background is at “{busy.kind}” since {began}, or stopped in it: all else that is asked of it"
                " waits. If that lasts, stop Wendopolis on its machine, and start it again."
            )
        ]
    return [
        Stopped(
            f"Nothing is done in the background since {began}: marketplaces are not told what was sold, and no backup"
            " is made. Stop Wendopolis on its machine, and start it again."
        )
    ]


@stopped.kinds.add("work given up")
def given_up(person: Person) -> list[Stopped]:
    if not may(person, "try queued work again"):
        return []
    found = first_of(services.given_up(), 1)
    return [
        Stopped(
            f"Given up in the background: {row.kind}, {stopped.at(row.ended_at)}. {row.error}"
            + (f" {found.count - 1} more." if found.cut else ""),
            reverse("queue:queue"),
            "Look at it",
        )
        for row in found
        if row.ended_at
    ]

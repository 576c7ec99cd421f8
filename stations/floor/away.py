"""Work where there is no connection: which pages open there, and what is recorded there and sent later."""

import functools
from datetime import timedelta

from django.http import HttpRequest, HttpResponse, HttpResponseBadRequest
from django.urls import reverse

from stations.common import clock
from stations.common.typed import whole_number
from stations.people.screens import KEPT_FOR

# A press that came late only by that much has its own moment.
AT_ONCE = timedelta(minutes=1)
# Later than that nobody can tell any more whether it was done already.
LONGEST = KEPT_FOR - timedelta(days=2)
# Kept on a device: the pages looked at last, and what they are drawn with.
MOST_PAGES, MOST_THINGS = 40, 300


def _of_units(room: str) -> str:
    """How the addresses of units in a room begin."""
    return reverse(room) + "W-"


@functools.cache
def waiting_addresses() -> tuple[str, ...]:
    """How the addresses begin to which what is recorded may come late: what somebody saw at intake or at the bench. Not
    what moves money or stock, of which the shop has to know at once."""
    intake = reverse("intake:table")
    seen = (intake + of for of in ("findings/", "facts/", "photos/"))
    return (_of_units("intake:table"), _of_units("bench:bench"), *seen)


@functools.cache
def kept_addresses() -> tuple[str, ...]:
    """How the addresses of pages begin that open without a connection: those of units, not of buyers and books."""
    rooms = ("floor:floor", "intake:table", "bench:bench", "workshop:workshop")
    return tuple(map(_of_units, rooms))


class RecordedAway:
    """Middleware. What was recorded without a connection says by whom, and how many seconds ago; it counts as done
    then. By how long ago it is told, not at what time: a tablet's clock may show anything. Who signed in there
    meanwhile sends nothing of somebody else's."""

    def __init__(self, get_response) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        said = request.headers.get("X-Recorded-Ago")
        if said is None or request.method != "POST" or not request.path.startswith(waiting_addresses()):
            return self.get_response(request)
        if request.headers.get("X-Recorded-By") != str(request.user.pk):
            return HttpResponse(status=401)
        seconds = whole_number(said)
        if seconds is None or (ago := timedelta(seconds=seconds)) > LONGEST:
            return HttpResponseBadRequest(f"Recorded longer ago than {LONGEST.days} days, or nobody can tell when.")
        if ago < AT_ONCE:
            return self.get_response(request)
        with clock.recorded(clock.now() - ago):
            return self.get_response(request)

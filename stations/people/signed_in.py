"""On which devices somebody is signed in, and how one of them is signed out from afar: it is lost, or stands in a shop
that is not ours."""

from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256

from django.contrib.auth import HASH_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils import timezone
from django.utils.crypto import constant_time_compare

from stations.common import clock
from stations.common.paging import First
from stations.common.refusals import Refused
from stations.people import history
from stations.people.door import address_of
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

ABOUT = HistoryEntry.Subject.PERSON
# So many are listed; the others end with *everywhere*.
MOST = 12
# What a session is told of its beginning, under this name.
BEGAN = "signed in"
# What a browser says of itself on a device that is held in the hand (common practice, no source).
IN_THE_HAND = "Mobi"


@dataclass(frozen=True)
class SignedIn:
    """One device; `handle` names it on a page and opens nothing. What nobody recorded is None or empty."""

    handle: str
    device: str
    since: datetime | None
    address: str
    is_here: bool


def note(sender: object, request: HttpRequest, **more: object) -> None:
    """At every sign-in (Django’s signal): when, from where, and on what kind of device."""
    said = request.META.get("HTTP_USER_AGENT", "")
    device = ("a phone or tablet" if IN_THE_HAND in said else "a computer") if said else ""
    request.session[BEGAN] = {"at": clock.now().isoformat(), "device": device, "from": address_of(request) or ""}


def of(person: Person, here: str | None = None) -> First[SignedIn]:
    """Where somebody is signed in, the newest first; `here`: the key of the session that asks. One query."""
    found = [_told(session, here) for session in _sessions(person)]
    newest = sorted(found, key=lambda one: (one.is_here, one.since.timestamp() if one.since else 0), reverse=True)
    return First(newest[:MOST], len(newest))


def sign_out(by: Person, person: Person, handle: str = "", here: str | None = None) -> None:
    """Sign somebody out on one device, or on all but `here`: oneself, or an owner somebody else."""
    if by.pk != person.pk:
        require(by, "sign somebody out")
    ended = [
        session for session in _sessions(person) if (_handle(session.pk) == handle if handle else session.pk != here)
    ]
    if not ended:
        raise Refused(f"{person.name} is not signed in there any more.")
    told = _told(ended[0], here)
    Session.objects.filter(pk__in=[session.pk for session in ended]).delete()
    on = told.device or "a device" if len(ended) == 1 else f"{len(ended)} devices"
    since = f", since {timezone.localtime(told.since):%-d %B %H:%M}" if len(ended) == 1 and told.since else ""
    history.record(by, "people.sign_out", ABOUT, person.pk, f"Signed out from afar on {on}{since}")


def _sessions(person: Person) -> list[Session]:
    """Those that still open the door: another password ends all the others. A session keeps whose it is inside."""
    mark = person.get_session_auth_hash()
    return [
        session
        for session in Session.objects.filter(expire_date__gt=timezone.now())
        if (held := session.get_decoded()).get(SESSION_KEY) == str(person.pk)
        and constant_time_compare(held.get(HASH_SESSION_KEY, ""), mark)
    ]


def _told(session: Session, here: str | None) -> SignedIn:
    began = session.get_decoded().get(BEGAN, {})
    since = datetime.fromisoformat(began["at"]) if began else None
    return SignedIn(
        _handle(session.pk), began.get("device", ""), since, began.get("from", ""), is_here=session.pk == here
    )


def _handle(key: str) -> str:
    return sha256(key.encode()).hexdigest()[:16]

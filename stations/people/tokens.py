"""What a program shows in place of a password, to read in somebody’s name: a token that opens nothing else, is shown
once, and may ask only so often."""

import secrets
from dataclasses import dataclass
from datetime import timedelta
from hashlib import sha256

from django.db import transaction
from django.db.models import DateTimeField, ExpressionWrapper, F, Value
from django.db.models.functions import Greatest

from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person, ReadToken
from stations.people.permissions import require

ABOUT = HistoryEntry.Subject.PERSON
# What it begins with, so that a program which looks for secrets that were published finds it.
BEGINS = "wendopolis_"
MOST = 12
# For how many days one reads; None: until it is ended.
LASTS: tuple[tuple[int | None, str], ...] = ((90, "90 days"), (365, "a year"), (None, "until it is ended"))
A_MINUTE, AT_ONCE = 120, 60
_EACH = timedelta(minutes=1) / A_MINUTE


@dataclass(frozen=True)
class NewToken:
    """What somebody says of a token they make: what it is for, and for how many days it reads (None: until ended)."""

    purpose: str
    days: int | None


@transaction.atomic
def new_token(person: Person, said: NewToken) -> str:
    """The secret, shown once: only its digest is kept."""
    lock_row(Person.objects.all(), person)
    if ReadToken.objects.filter(person=person).count() >= MOST:
        raise Refused(f"{MOST} programs read in your name already. End one first.", "purpose")
    if ReadToken.objects.filter(person=person, purpose=said.purpose).exists():
        raise Refused("There is one for that already. End it, or say what this one is for.", "purpose")
    secret, now = BEGINS + secrets.token_urlsafe(32), clock.now()
    until = clock.today() + timedelta(days=said.days) if said.days is not None else None
    ReadToken.objects.create(
        person=person, purpose=said.purpose, until=until, digest=_digest(secret), made_at=now, next_at=now
    )
    lasts = f"until {until:%-d %B %Y}" if until else "until it is ended"
    history.record(person, "people.new_token", ABOUT, person.pk, f"Let a program read: {said.purpose}, {lasts}")
    return secret


@transaction.atomic
def end_token(by: Person, token: ReadToken) -> None:
    """The program reads no longer: one’s own, or by an owner that of somebody else."""
    if by.pk != token.person_id:
        require(by, "end the token of somebody else")
    if not ReadToken.objects.filter(pk=token.pk).delete()[0]:
        raise Refused("That program does not read any more.")
    history.record(by, "people.end_token", ABOUT, token.person_id, f"A program reads no longer: {token.purpose}")


def still_read(person: Person) -> str:
    """What somebody who chose another password is told: their programs have secrets of their own, and go on reading."""
    names = [f"“{one.purpose}”" for one in ReadToken.objects.filter(person=person).order_by("pk") if not one.is_over]
    if not names:
        return ""
    reads = "A program reads" if len(names) == 1 else f"{len(names)} programs read"
    return f"{reads} in your name as before: {', '.join(names)}. What shall not is ended under For other programs."


def opened_by(secret: str) -> ReadToken | None:
    """The token that this is; None where it is none, is over, or is of somebody who is retired. One query."""
    rows = ReadToken.objects.filter(digest=_digest(secret), person__is_active=True).select_related("person")
    token = rows.first()
    return None if token is None or token.is_over else token


def must_wait(token: ReadToken) -> timedelta | None:
    """Counts one more request; None where it is answered, else for how long none is.

    `A_MINUTE` in the long run, `AT_ONCE` after a rest: the generic cell rate algorithm in its virtual scheduling form
    (ITU-T I.371, annex A). It is one statement, so that two web processes together let no more through than one.
    """
    now = clock.now()
    early = _EACH * (AT_ONCE - 1)
    moment = DateTimeField()
    following = ExpressionWrapper(Greatest(F("next_at"), Value(now, moment)) + _EACH, output_field=moment)
    taken = ReadToken.objects.filter(pk=token.pk, next_at__lte=now + early)
    if taken.update(next_at=following, used_at=now):
        return None
    next_at = ReadToken.objects.filter(pk=token.pk).values_list("next_at", flat=True).first()
    return max(timedelta(0), next_at - early - now) if next_at else timedelta(0)


def _digest(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()

"""What somebody shows at the door besides a password: a code of the minute from a phone, or one of a list.

The code is a TOTP (RFC 6238): six figures, of 30 seconds, HMAC-SHA-1, as every program for it does by default.
"""

import secrets
from hashlib import sha256

import pyotp
from django.db import transaction

from stations.common import clock
from stations.common.refusals import Refused
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person, SecondFactor, SpareCode
from stations.people.permissions import require

ABOUT = HistoryEntry.Subject.PERSON
# One of how many codes before and after that of now it may be: clocks differ, and typing takes time (RFC 6238, 5.2).
AROUND = 1
SPARE = 8
# No letter or figure that is taken for another.
LETTERS = "23456789abcdefghjkmnpqrstuvwxyz"
WRONG = "That code is wrong, or was used already. Type the one that the phone shows now."


def of(person: Person) -> SecondFactor | None:
    """None where a password is enough."""
    return SecondFactor.objects.filter(person=person).first()


def offered() -> str:
    """A secret for a phone to keep."""
    return pyotp.random_base32()


def address(person: Person, secret: str) -> str:
    """What a phone reads off a picture: whose codes these are, and the secret."""
    return pyotp.TOTP(secret).provisioning_uri(name=person.username, issuer_name=shop_settings.settings().name)


def step_of(secret: str, typed: str, now: float, after: int = 0) -> int | None:
    """To which step of 30 seconds a code belongs, of those around `now` (s since 1970) and later than `after`; None
    where it is of none of them."""
    codes, here = pyotp.TOTP(secret), int(now) // 30
    steps = (step for step in range(here - AROUND, here + AROUND + 1) if step > after)
    return next(
        (step for step in steps if secrets.compare_digest(codes.generate_otp(step).encode(), typed.encode())), None
    )


@transaction.atomic
def begin(person: Person, secret: str, typed: str) -> list[str]:
    """From now on a password alone is not enough, since the phone has shown that it keeps the secret; the spare
    codes."""
    step = step_of(secret, _bare(typed), clock.now().timestamp())
    if step is None:
        raise Refused("That is not what the phone shows now. Type the six figures while they stand there.", "code")
    _, is_new = SecondFactor.objects.get_or_create(
        person=person, defaults={"secret": secret, "last_step": step, "since": clock.now()}
    )
    if not is_new:
        raise Refused("There is one already.")
    history.record(person, "people.begin", ABOUT, person.pk, "Asked for a second factor at sign-in")
    return _new_codes(person)


def passes(person: Person, typed: str) -> bool:
    """Whether this is a code of now, or a spare one. Each is good once."""
    bare, factor = _bare(typed), of(person)
    if factor is None:
        return False
    step = step_of(factor.secret, bare, clock.now().timestamp(), factor.last_step)
    if step is not None:
        return bool(SecondFactor.objects.filter(pk=factor.pk, last_step__lt=step).update(last_step=step))
    spare = SpareCode.objects.filter(person=person, digest=_digest(person, bare), used_at=None)
    return bool(spare.update(used_at=clock.now()))


@transaction.atomic
def new_codes(person: Person, typed: str) -> list[str]:
    """Another list of spare codes; those before are good no more."""
    _show(person, typed)
    history.record(person, "people.new_codes", ABOUT, person.pk, "Other spare codes for the second factor")
    return _new_codes(person)


@transaction.atomic
def end(person: Person, typed: str) -> None:
    """A password is enough again."""
    _show(person, typed)
    _drop(person)
    history.record(person, "people.end", ABOUT, person.pk, "Wants no second factor at sign-in any more")


@transaction.atomic
def take_away(owner: Person, person: Person) -> None:
    """Somebody’s phone is lost, and the list too."""
    require(owner, "take a second factor away")
    if not _drop(person):
        raise Refused(f"{person.name} has no second factor.")
    history.record(owner, "people.take_away", ABOUT, person.pk, "Second factor taken away: a password is enough")


def forget(person: Person) -> None:
    """As `take_away`, by whoever works on the machine itself."""
    if _drop(person):
        history.record(person, "people.forget", ABOUT, person.pk, "Second factor taken away at the machine")


def left(person: Person) -> int:
    """How many spare codes are left."""
    return SpareCode.objects.filter(person=person, used_at=None).count()


def _show(person: Person, typed: str) -> None:
    if not passes(person, typed):
        raise Refused(WRONG, "code")


def _drop(person: Person) -> bool:
    SpareCode.objects.filter(person=person).delete()
    return bool(SecondFactor.objects.filter(person=person).delete()[0])


def _new_codes(person: Person) -> list[str]:
    codes = ["".join(secrets.choice(LETTERS) for _ in range(10)) for _ in range(SPARE)]
    SpareCode.objects.filter(person=person).delete()
    SpareCode.objects.bulk_create(SpareCode(person=person, digest=_digest(person, code)) for code in codes)
    return [f"{code[:5]}-{code[5:]}" for code in codes]


def _digest(person: Person, code: str) -> str:
    """Ten letters by chance are too many to try through, so that no slow digest is needed."""
    return sha256(f"{person.pk}:{code}".encode()).hexdigest()


def _bare(typed: str) -> str:
    """As people type it: in groups, with a line between, in capital letters."""
    return "".join(typed.split()).replace("-", "").lower()

"""What was said of a single part by a slip: that it is gone, that it was bought."""

from django.db import transaction

from stations.common import clock
from stations.common.refusals import Refused, reason
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance
from stations.ledger.services import Leg, post
from stations.people.models import Person
from stations.people.permissions import require
from stations.units.models import Part, PartMove
from stations.units.parts import Place, hold_part, note_move


def may_be_back(part: Part) -> PartMove | None:
    """How it went, where it lies in its drawer again once that is said to be wrong."""
    last = part.moves.order_by("-id").first() if part.gone_at else None
    return last if last and last.kind == PartMove.Kind.GONE and last.from_unit_id is None else None


def only_bought(part: Part) -> PartMove | None:
    """How it was bought, while nothing else was done with it."""
    moves = list(part.moves.all()[:2])
    return moves[0] if part.in_stock and [move.kind for move in moves] == [PartMove.Kind.BOUGHT] else None


@transaction.atomic
def not_gone(person: Person, part: Part, why: str) -> None:
    """It is there after all: in its drawer, at what it cost."""
    require(person, "write a part off")
    part, why = hold_part(part), reason(why)
    went = may_be_back(part)
    if went is None:
        raise Refused(f"It is {part.place_words}." if part.gone_at else "Nobody said that it is gone.")
    legs = [
        Leg(Account.PART, part.pk, EntryKind.WRITE_OFF, went.cost),
        Leg(Account.LOSS, 0, EntryKind.WRITE_OFF, -went.cost),
    ]
    posting = post(person, f"{part.code} not gone after all: {why}", legs)
    Part.objects.filter(pk=part.pk).update(gone_at=None, gone_words="", since=clock.now())
    there = Place(drawer=part.drawer).words
    note_move(person, part, PartMove.Kind.BACK, "gone", there, cost=went.cost, posting=posting, why=why)


@transaction.atomic
def not_bought(person: Person, part: Part, why: str) -> None:
    """It was not bought, or for another sum: its record ends, and what it cost is out of the books."""
    require(person, "add stock")
    part, why = hold_part(part), reason(why)
    if only_bought(part) is None:
        raise Refused("Something else was done with it since it was bought.")
    cost = balance(Account.PART, part.pk)
    legs = [Leg(Account.PART, part.pk, EntryKind.PURCHASE, -cost), Leg(Account.CASH, 0, EntryKind.PURCHASE, cost)]
    posting = post(person, f"{part.code} not bought after all: {why}", legs)
    words = f"not bought after all: {why}"
    Part.objects.filter(pk=part.pk).update(gone_at=clock.now(), gone_words=words)
    there = Place(drawer=part.drawer).words
    note_move(person, part, PartMove.Kind.UNDONE, there, "nowhere", cost=cost, posting=posting, why=why)

"""Pieces of a lot that do not come: never sent, lost on the way, or of a sale that was called off."""

from django.db import transaction

from core.buying.share import Basis
from core.money import ZERO
from stations.buying.models import Lot, LotLine, Sharing
from stations.buying.sharing import current_sharing, lose, retained_pieces, share_lot, shared, take_up
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance, balances
from stations.ledger.services import Leg, post
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require


@transaction.atomic
def say_not_come(person: Person, line: LotLine, pieces: int, why: str) -> None:
    """So many of a line, in all, do not come; 0: all of it comes after all. Those that came or still come carry what
    was paid (common practice, no source); what was paid back is put right at the lot."""
    require(person, "correct a lot")
    lot = lock_row(Lot.objects.all(), line.lot)
    line = lock_row(LotLine.objects.all(), line)
    most = line.quantity - line.received
    if not 0 <= pieces <= most:
        here = f"{line.received} of {line.quantity} were received already; " if line.received else ""
        raise Refused(f"{here}{most} at most can be missing.", "pieces")
    if pieces == line.not_come:
        return
    LotLine.objects.filter(pk=line.pk).update(not_come=pieces)
    missing = f"{pieces} of {line.quantity} do not come" if pieces else "all of them come"
    said = f"{line.description}: {missing}"
    words = f"{said}: {reason(why)}"
    history.record(person, "buying.say_not_come", HistoryEntry.Subject.LOT, lot.pk, words, line=line.pk, pieces=pieces)
    carry_on(person, lot, said)


def carry_on(person: Person, lot: Lot, why: str) -> None:
    """What was paid for a lot goes on to what comes of it, shared again where it was shared. Where nothing is left that
    could carry it, it is lost: all that came has left with its cost, or nothing came. The lot is held."""
    take_up(person, lot, why)
    kept, last = retained_pieces(lot), current_sharing(lot)
    lines = list(lot.lines.all())
    if any(line.pieces > kept[line.pk].pieces for line in lines):
        if last and share_lot(person, lot, Basis(last.basis)) == last:
            # Each line carries what it carried, over another number of pieces.
            shared.send(sender=Lot, lot=lot, person=person)
        return
    if last and last.posting is None and any(kept[line.pk].pieces for line in lines):
        _stand_again(person, lot, last)
    _write_off(person, lot, lines, why)


def _stand_again(person: Person, lot: Lot, sharing: Sharing) -> None:
    """What has left carries what it carried, whatever is put right now."""
    parts = sharing.shares.values_list("line", "amount")
    legs = [Leg(Account.LINE, line, EntryKind.ALLOCATION, amount, lot.pk) for line, amount in parts]
    legs.append(Leg(Account.LOT, lot.pk, EntryKind.ALLOCATION, -sum((leg.amount for leg in legs), ZERO), lot.pk))
    posting = post(person, f"{lot.code} shared as before", legs)
    Sharing.objects.filter(pk=sharing.pk).update(posting=posting)


def _write_off(person: Person, lot: Lot, lines: list[LotLine], why: str) -> None:
    """What stands on the lot and its lines is carried by nothing any more."""
    on_lines = balances(Account.LINE, [line.pk for line in lines])
    stands = {(Account.LOT, lot.pk): balance(Account.LOT, lot.pk)}
    stands |= {(Account.LINE, line.pk): on_lines[line.pk] for line in lines}
    lost = sum(stands.values(), ZERO)
    legs = [Leg(*at, EntryKind.WRITE_OFF, -amount, lot.pk) for at, amount in stands.items()]
    legs.append(Leg(Account.LOSS, 0, EntryKind.WRITE_OFF, lost, lot.pk))
    lose(lot, lost, post(person, f"{lot.code}: {why}", legs))

"""Pieces of a lot that do not come: never sent, lost on the way, or of a sale that was called off."""

from decimal import Decimal

from django.db import transaction

from core.buying.share import Basis
from core.money import ZERO
from stations.buying.models import Lot, LotLine
from stations.buying.sharing import current_sharing, retained_pieces, share_lot
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason
from stations.ledger.models import Account, EntryKind, Posting
from stations.ledger.selectors import balance, balances
from stations.ledger.services import Leg, post, reverse_posting
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
    could carry it, it is lost. The lot is held."""
    if lot.lost_posting:
        reverse_posting(person, lot.lost_posting, why)
        _lose(lot, ZERO, None)
    kept, last = retained_pieces(lot), current_sharing(lot)
    lines = list(lot.lines.all())
    carries = any(line.pieces > kept[line.pk].pieces for line in lines)
    stands = last is not None and last.posting is not None
    if last and (carries or (not stands and any(kept[line.pk].pieces for line in lines))):
        share_lot(person, lot, Basis(last.basis))
    elif not carries:
        _write_off(person, lot, lines, why)


def _write_off(person: Person, lot: Lot, lines: list[LotLine], why: str) -> None:
    """What stands on the lot and its lines is carried by nothing any more."""
    on_lines = balances(Account.LINE, [line.pk for line in lines])
    stands = {(Account.LOT, lot.pk): balance(Account.LOT, lot.pk)}
    stands |= {(Account.LINE, line.pk): on_lines[line.pk] for line in lines}
    lost = sum(stands.values(), ZERO)
    legs = [Leg(*at, EntryKind.WRITE_OFF, -amount, lot.pk) for at, amount in stands.items()]
    legs.append(Leg(Account.LOSS, 0, EntryKind.WRITE_OFF, lost, lot.pk))
    _lose(lot, lost, post(person, f"{lot.code}: {why}", legs))


def _lose(lot: Lot, lost: Decimal, posting: Posting | None) -> None:
    Lot.objects.filter(pk=lot.pk).update(lost=lost, lost_posting=posting)
    lot.lost, lot.lost_posting = lost, posting

"""Which of several parts does most for a machine: what limits it for a use, before and with each of them in it."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from core.catalogue.fit.answers import Answer, Verdict
from core.catalogue.fit.bottleneck import Limit, Purpose, compared
from core.catalogue.fit.machine import Fitted, Machine, Tried
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.rules import judge
from core.catalogue.fit.rules.drives import in_bay
from core.catalogue.fit.rules.slots import placing
from core.catalogue.fit.within import put_in

# A change of less than this share of what was there nobody notices. Common practice, no source.
NOTICED = 0.05


@dataclass(frozen=True)
class Ranked:
    """A part by its key: what the rules say, and what it changes of what can limit the machine, where that is enough to
    be noticed; `hardly` where it is not. `lifts`: by how much the tightest of what is known gets wider, as shares of
    what the use asks for; None where nothing can be compared."""

    key: str
    verdict: Verdict
    changed: tuple[tuple[Limit, Limit], ...]
    lifts: float | None
    hardly: tuple[tuple[Limit, Limit], ...] = ()

    @property
    def order(self) -> tuple[bool, float, float, int, str]:
        """What lifts the limit most, then what changes most beside it, then what fits best; what does not fit last."""
        beside = sum((after.share or 0) - (before.share or 0) for before, after in self.changed)
        return (not self.verdict.may_fit, -(self.lifts or 0), -beside, self.verdict.answer.rank, self.key)

    @property
    def words(self) -> str:
        """What it changes, with the numbers compared."""
        if self.changed:
            return _said(self.changed)
        return f"nothing anybody would notice: {_said(self.hardly)}" if self.hardly else "adds nothing for this use"


def ranked(
    machine: Machine,
    purpose: Purpose,
    parts: Iterable[tuple[str, Needs]],
    tried: Mapping[str, tuple[Tried, ...]] | None = None,
) -> list[Ranked]:
    """All of them, the best first. A part that does not fit changes nothing. `tried`: what others saw, by key."""
    before = {limit.what: limit for limit in compared(machine, purpose)}
    found = []
    for key, needs in parts:
        seen = (tried or {}).get(key, ())
        verdict = judge(replace(machine, tried=seen) if seen else machine, needs)
        after = compared(with_part(machine, needs), purpose) if verdict.may_fit else list(before.values())
        pairs = [(before[one.what], one) for one in after if one.has != before[one.what].has]
        changed = tuple(pair for pair in pairs if _noticed(*pair))
        hardly = tuple(pair for pair in pairs if not _noticed(*pair))
        # What nobody notices does not rank one part above another.
        felt = [one for one in after if one.what not in {pair[1].what for pair in hardly}]
        lifts = _lifts(list(before.values()), [*felt, *(pair[0] for pair in hardly)])
        found.append(Ranked(key, verdict, changed, lifts, hardly))
    return sorted(found, key=lambda one: one.order)


def _noticed(before: Limit, after: Limit) -> bool:
    """Whether a change is large enough to matter; what was not known and is, always is."""
    if before.share is None or after.share is None or not before.share:
        return True
    return abs(after.share - before.share) / before.share >= NOTICED


def _said(pairs: Sequence[tuple[Limit, Limit]]) -> str:
    return "; ".join(f"{before.what} {before.has} → {after.has}" for before, after in pairs)


def with_part(machine: Machine, needs: Needs, name: str = "this part") -> Machine:
    """The machine with a part in it, where it goes best; a processor takes the place of the one that is there."""
    stays = tuple(one for one in machine.fitted if not (needs.processors and same_socket(machine, one, needs)))
    return put_in(replace(machine, fitted=stays), Fitted(name, needs, _goes(machine, needs)))


def _goes(machine: Machine, needs: Needs) -> str:
    """Where it goes: the socket of a processor, the best slot of a card, the first free bay that takes a drive."""
    if needs.processors:
        return next((one.name for one in machine.offers.sockets or () if takes_processor(one.kind, needs)), "")
    for card in needs.cards or ():
        best = placing(machine, card)
        return best.slot.name if best and not best.out else ""
    for drive in needs.drives or ():
        free = [bay for bay in machine.offers.bays or () if machine.in_place(bay.name) is None]
        return next((bay.name for bay in free if in_bay(machine, bay, drive).answer is not Answer.NOT), "")
    return ""


def takes_processor(kind: str | None, needs: Needs) -> bool:
    """Whether a socket of a kind is the one for these."""
    return any(
        kind is not None and one.kind is not None and kind.lower() == one.kind.lower() for one in needs.processors or ()
    )


def same_socket(machine: Machine, fitted: Fitted, needs: Needs) -> bool:
    """Whether what is fitted is a processor in the socket that these would go into."""
    socket = next((one for one in machine.offers.sockets or () if one.name.lower() == fitted.at.lower()), None)
    return bool(fitted.needs.processors) and socket is not None and takes_processor(socket.kind, needs)


def _lifts(before: Sequence[Limit], after: Sequence[Limit]) -> float | None:
    """How much wider the tightest of what is known both times gets; never more than the use asks for."""
    both = [(one.share, other.share) for one in before for other in after if one.what == other.what]
    known = [(min(1.0, one), min(1.0, other)) for one, other in both if one is not None and other is not None]
    if not known:
        return None
    return min(other for _, other in known) - min(one for one, _ in known)

"""An open fault as its page shows it: suspects, what to do next and what to expect of it."""

from dataclasses import dataclass, replace

from core.bench.suspects import MEND, Action, KnownGood, Next, Suspect, Verdict, next_actions, verdict
from core.machine.approach import Approach
from stations.bench.faults import actions_of, mending_of, suspects_of
from stations.bench.models import FaultCase, Try
from stations.stock import shelf
from stations.stock.models import KnownGood as Stocked
from stations.units.models import UnitFact

MOST_OFFERED = 5
# A known-good part whose word counts nearly in full.
TRUSTED = 0.8
# What can't be replaced weighs three times on a machine that is conserved (judgement; common practice, no source).
CONSERVED = 3.0


@dataclass(frozen=True)
class Bar:
    suspect: Suspect
    chance: float


@dataclass(frozen=True)
class Offered:
    """An action to try, the known-good parts that could stand in with how far each can be trusted, and, when it tells
    apart what an earlier action changed together, which one."""

    next: Next
    stand_ins: tuple[tuple[Stocked, KnownGood], ...]
    separates: str = ""

    @property
    def weakness(self) -> str:
        """What takes from the word of a substitution before it is tried; empty when nothing does."""
        if not self.next.action.needs:
            return ""
        if not self.stand_ins:
            return f"No known-good {self.next.action.needs} on the shelf: any other one says little."
        best = max(self.stand_ins, key=lambda pair: pair[1].trust)[1]
        return "" if best.trust > TRUSTED else f"The best at hand is {best.words}."


@dataclass(frozen=True)
class More:
    """An action that says little now, or was tried: what it is, what could stand in for it, what it answered."""

    action: Action
    stand_ins: tuple[tuple[Stocked, KnownGood], ...]
    tried: str


@dataclass(frozen=True)
class CaseView:
    """An open case as it stands: suspects with the likeliest first, what to try next, and whether to go on at all.

    `more` are actions that say little now, or were tried: they can be recorded all the same.
    """

    case: FaultCase
    bars: tuple[Bar, ...]
    offered: tuple[Offered, ...]
    more: tuple[More, ...]
    verdict: Verdict
    tries: tuple[Try, ...]
    known: tuple[str, ...]


def look_at(case: FaultCase) -> CaseView:
    """Everything the fault page shows, in a number of queries that does not grow with tries."""
    suspects = suspects_of(case)
    by_code = {suspect.code: suspect for suspect in suspects}
    tries = tuple(case.tries.select_related("who", "known_good"))
    wants = set(case.unit.facts.filter(kind=UnitFact.Kind.SIGNAL).values_list("reading", flat=True))
    standing = [(row, good) for row, good in shelf.all_with_trust() if shelf.can_show(row, case.symptom, wants)]
    there = actions_of(case)
    trust = {a.code: shelf.best_trust(standing, a.needs) for a in there if a.needs}
    # What was tried in one setting is not offered again first, but stays open for another setting.
    done = {t.action: t.answer for t in tries if t.action and t.withdrawn_at is None}
    fresh = [a for a in there if a.code not in done]
    irreplaceable = CONSERVED if case.unit.approach == Approach.CONSERVE else 1.0
    mended = {code.removeprefix(MEND) for code in done if code.startswith(MEND)}
    ranked = tuple(
        replace(n, action=mending_of(case, by_code[n.action.mends])) if n.action.mends else n
        for n in next_actions(suspects, case.now, fresh, trust, irreplaceable, mended=mended, most=len(fresh) + 1)
    )
    separating = _separating(there, tries)
    first = sorted(ranked, key=lambda n: n.action.code not in separating)[:MOST_OFFERED]
    said = verdict(suspects, case.now, ranked)
    offered = tuple(
        Offered(n, shelf.for_needs(standing, n.action.needs), separating.get(n.action.code, "")) for n in first
    )
    shown = {n.action.code for n in first}
    bars = sorted((Bar(s, p) for s, p in zip(suspects, case.now, strict=True)), key=lambda b: -b.chance)
    more = tuple(
        More(a, shelf.for_needs(standing, a.needs), done.get(a.code, "")) for a in there if a.code not in shown
    )
    return CaseView(case, tuple(bars), offered, more, said, tries, tuple(case.known))


def _separating(actions: tuple[Action, ...], tries: tuple[Try, ...]) -> dict[str, str]:
    """Actions that tell apart what an earlier one changed all at once and changed the fault with: by code, why."""
    by_code = {action.code: action for action in actions}
    found: dict[str, str] = {}
    for tried in tries:
        action = by_code.get(tried.action)
        if action and tried.yes and tried.withdrawn_at is None and action.then:
            found |= dict.fromkeys(action.then, f"“{action.words}” changed several things at once: which was it?")
    return found

"""Two machines side by side: their parts in pairs, what it is worth to change them over, and doing it."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from core.stock.parts import Condition
from core.workshop.beside import Choice, InPlace, Pair, beside
from core.workshop.worth import NOTHING, Changes
from stations.common.refusals import Refused
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people.models import Person
from stations.people.permissions import require
from stations.units import parts
from stations.units.models import Content, Part, Unit
from stations.units.parts import Place, Worths
from stations.units.selectors import wanted
from stations.workshop.worth import appraisal_of


@dataclass(frozen=True)
class Row:
    """A pair of parts, and whether it can be changed over as it stands (`needs`: what has to be said first)."""

    pair: Pair
    here: Part | None
    there: Part | None
    needs: str = ""

    @property
    def changes(self) -> bool:
        return self.pair.choice is not Choice.STAY

    @property
    def data(self) -> str:
        """What of somebody's data would come along; empty for nothing."""
        if self.changes and self.there and self.there.holds_data:
            return f"{self.there.code} keeps data and was not sanitised: that comes along"
        return ""


@dataclass(frozen=True)
class Beside:
    """`here` gets the better ones. `left` is what the other one lacks or keeps faulty afterwards; `price` what `here`
    is thought to fetch before and after, None where nothing can be compared."""

    here: Unit
    there: Unit
    rows: tuple[Row, ...]
    left: tuple[str, ...]
    price: tuple[Decimal, Decimal] | None

    @property
    def gains(self) -> bool:
        return self.price is not None and self.price[1] != self.price[0]

    @property
    def to_do(self) -> tuple[Row, ...]:
        return tuple(row for row in self.rows if row.changes)


def look_at(here: Unit, there: Unit) -> Beside:
    """The two as they are now."""
    mine, theirs = ({part.pk: part for part in unit.parts.select_related("content")} for unit in (here, there))
    missing = {content.name: content for content in wanted().filter(unit=here)}
    pairs = beside([_in_place(p, here) for p in mine.values()], [_in_place(p, there) for p in theirs.values()], missing)
    costs = parts.fitted_costs([*mine.values(), *theirs.values()])
    carrying = parts.say_worth_first([here, there])
    rows = []
    for pair in pairs:
        one = mine[pair.here.key] if pair.here else None
        other = theirs[pair.there.key] if pair.there else None
        rows.append(Row(pair, one, other, _needs(pair, one, other, carrying, costs)))
    left = []
    for row in rows:
        after = row.pair.after[1]
        if row.pair.there and after is None:
            left.append(f"no {row.pair.there.name}")
        elif row.changes and after and after.condition is Condition.FAULTY:
            left.append(f"{after.name}: faulty")
    return Beside(here, there, tuple(rows), tuple(left), _price(here, rows, missing))


def _in_place(part: Part, unit: Unit) -> InPlace:
    own = bool(part.original) and part.came_from_id == unit.pk
    return InPlace(part.pk, part.is_what, part.name, Condition(part.condition), own, bool(part.doubt), part.worth)


def _needs(pair: Pair, one: Part | None, other: Part | None, carrying: set[int], costs: Mapping[int, Decimal]) -> str:
    """What is not known that has to be, before the two can change places; empty for nothing. `carrying`: the machines
    that carry a cost; `costs`: what parts came into theirs with."""
    if pair.choice is Choice.STAY:
        return ""
    for part in filter(None, (one, other)):
        if part.data_words and not part.holds_data:
            return f"say whether {part.code} keeps data in itself"
        if part.pk not in costs and part.unit_id in carrying:
            if part.worth is None:
                return f"say what {part.code} is worth"
            if part.unit and part.unit.expected_worth is None:
                return f"say what {part.unit.tag} is worth"
    return ""


def _price(here: Unit, rows: list[Row], missing: dict[str, Content]) -> tuple[Decimal, Decimal] | None:
    appraisal = appraisal_of(here)
    before = appraisal.at(NOTHING) if appraisal else None
    if appraisal is None or before is None:
        return None
    filled = {
        missing[row.pair.there.name].pk
        for row in rows
        if row.pair.choice is Choice.MOVE and row.pair.there and row.pair.there.name in missing
    }
    after = appraisal.at(Changes(contents=frozenset(filled))) if filled else before
    return (before.likely, after.likely) if after else None


@transaction.atomic
def change_over(person: Person, here: Unit, there: Unit, keys: list[int]) -> int:
    """Do what is proposed for these parts of the other machine (by key); answers how many pairs. What was proposed and
    is not any more is refused: somebody moved a part meanwhile."""
    require(person, "move parts")
    rows = {row.there.pk: row for row in look_at(here, there).rows if row.changes and row.there}
    if missing := [key for key in keys if key not in rows]:
        raise Refused(f"{len(missing)} of them stand otherwise now. Look at the two again.")
    if not keys:
        raise Refused("Nothing is chosen.")
    for key in keys:
        row = rows[key]
        if row.needs:
            raise Refused(f"First {row.needs}.")
        if row.here and row.there:
            whys = f"side by side: {row.pair.why}"
            parts.swap_parts(person, row.here, row.there, whys, (_worths(row.here, here), _worths(row.there, there)))
        elif row.there:
            content = wanted().filter(unit=here, name__iexact=row.there.name).first()
            place = Place(here, row.there.slot, content, parts.is_right(row.there))
            parts.move_part(person, row.there, place, f"side by side: {row.pair.why}", _worths(row.there, there))
    return len(keys)


def _worths(part: Part, unit: Unit) -> Worths | None:
    """The part's worth beside that of its machine as both are now: what it is thought to fetch, at least what is known
    to be in it. Asked anew for every pair: the one before took some of the cost along."""
    whole = whole_worth(unit)
    if part.worth is None or whole is None or balance(Account.UNIT, unit.pk) <= 0:
        return None
    return Worths(part.worth, whole)


def whole_worth(unit: Unit) -> Decimal | None:
    """What all that is in a machine is thought worth; None where nobody said what the machine is."""
    if unit.expected_worth is None:
        return None
    in_it = sum((worth for worth in unit.parts.values_list("worth", flat=True) if worth), Decimal(0))
    return max(unit.expected_worth, in_it, Decimal("0.01"))

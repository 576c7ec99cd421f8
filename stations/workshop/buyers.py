"""The buyers a shop reckons with: those the application comes with, and its own laid over them."""

from dataclasses import asdict, dataclass

from django.db import transaction
from django.utils.text import slugify

from core.machine.names import as_seen
from core.workshop.upgrades.buyers import SHIPPED, Buyer, BuyerError, read_effects, write_effects
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.workshop.models import BuyerTable


def buyers() -> dict[str, Buyer]:
    """Every buyer in use, by code: one query."""
    rows = {row.code: row for row in BuyerTable.objects.all()}
    found = {code: buyer for code, buyer in SHIPPED.items() if code not in rows}
    found |= {code: _as_kept(row) for code, row in rows.items() if not row.dropped}
    order = [*SHIPPED, *sorted(set(found) - set(SHIPPED))]
    return {code: found[code] for code in order if code in found}


def dropped() -> list[BuyerTable]:
    """Those the shop has none of."""
    return list(BuyerTable.objects.filter(dropped=True))


def _as_kept(row: BuyerTable) -> Buyer:
    return Buyer(row.code, row.name, row.words, read_effects(row.effects))


@dataclass(frozen=True)
class BuyerTyped:
    """A buyer as the form has it: `effects` a line a feature, as core reads them."""

    name: str
    effects: str
    words: str = ""


def as_typed(code: str) -> tuple[BuyerTyped, int]:
    """What stands in the form of a buyer, and the version of the shop's row, 0 without one. KeyError for none."""
    row = BuyerTable.objects.filter(code=code).first()
    if row:
        return BuyerTyped(row.name, row.effects, row.words), row.version
    buyer = SHIPPED[code]
    return BuyerTyped(buyer.name, write_effects(buyer.effects), buyer.words), 0


@transaction.atomic
def keep_buyer(person: Person, code: str, typed: BuyerTyped, seen_version: int = 0) -> str:
    """Keep a buyer as the shop knows it; without a code a new one. Answers the code. Refused at the field."""
    require(person, "change what buyers pay for")
    name = within(" ".join(typed.name.split()), 40, "name")
    if not name:
        raise Refused("Say who that is.", "name")
    try:
        read_effects(typed.effects)
    except BuyerError as problem:
        line = f"Line {problem.line}: " if problem.line else ""
        raise Refused(f"{line}{problem}.", "effects") from problem
    if any(as_seen(buyer.name) == as_seen(name) for other, buyer in buyers().items() if other != code):
        raise Refused(f"There is a buyer called {name} already.", "name")
    values = {
        "name": name,
        "words": within(typed.words, 120, "words"),
        "effects": within(typed.effects, 4000, "effects"),
        "dropped": False,
    }
    row = BuyerTable.objects.filter(code=code).first() if code else None
    # One that comes with us becomes the shop's own by a change, not by a look.
    if row is None and code in SHIPPED and as_typed(code)[0] == typed:
        return code
    if row is None:
        row = BuyerTable.objects.create(code=code or _new_code(name), **values)
        words = f"Buyers “{name}”, what they pay for: {values['effects']}"
        history.record(person, "workshop.keep_buyer", HistoryEntry.Subject.RECIPE, 0, words)
    else:
        named = f"Buyers “{row.name}”"
        history.changed(person, "workshop.keep_buyer", HistoryEntry.Subject.RECIPE, 0, named, row, values)
        save_versioned(row, seen_version, values)
    return row.code


def _new_code(name: str) -> str:
    taken = set(SHIPPED) | set(BuyerTable.objects.values_list("code", flat=True))
    begin = slugify(name)[:34].strip("-") or "buyer"
    return next(code for n in range(1, 10_000) if (code := begin if n == 1 else f"{begin}-{n}") not in taken)


@transaction.atomic
def drop_buyer(person: Person, code: str, dropped: bool = True) -> None:
    """The shop has no such buyers, or has them again; what was written of them is kept."""
    require(person, "change what buyers pay for")
    typed, _ = as_typed(code)
    row, _ = BuyerTable.objects.get_or_create(code=code, defaults=asdict(typed))
    if dropped and len(buyers()) <= 1:
        raise Refused("One kind of buyer has to be left: for somebody it is made.")
    BuyerTable.objects.filter(pk=row.pk).update(dropped=dropped)
    words = f"Buyers “{row.name}”: {'none of ours' if dropped else 'ours again'}"
    history.record(person, "workshop.drop_buyer", HistoryEntry.Subject.RECIPE, 0, words)

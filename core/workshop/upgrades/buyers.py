"""Buyers by what they look for: what a feature adds to a price, or takes from it, and what sales taught of that."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np

from core.machine.quantities import Mark, QuantityError, read_number
from core.money import to_cent
from core.workshop.upgrades.features import Feature, FeatureError, read_feature

MOST_EFFECTS = 60
MOST_PERCENT, MOST_MONEY = Decimal(500), Decimal(100_000)
# So many sales with their features teach something. Common practice, no source.
ENOUGH = 8
# Of the logarithm of a price: how far sales of one kind lie apart, and how far the table may be wrong about a feature.
# Common practice, no source.
SPREAD, DOUBT = 0.15, 0.10


class BuyerError(ValueError):
    """What is wrong with a table, in words, and in which of its lines (from 1; 0 for the whole)."""

    def __init__(self, message: str, line: int = 0) -> None:
        super().__init__(message)
        self.line = line


@dataclass(frozen=True)
class Effect:
    """What a feature adds for a buyer (below 0: takes): a share of the price in percent, or base currency."""

    feature: Feature
    percent: Decimal | None = None
    money: Decimal | None = None

    def at(self, price: Decimal) -> Decimal:
        """On a machine that fetches this without it."""
        return to_cent(price * self.percent / 100) if self.percent is not None else self.money or Decimal(0)


@dataclass(frozen=True)
class Buyer:
    """A kind of buyer by its code. `sales`: from so many of them the effects were learned, 0 for the table alone."""

    code: str
    name: str
    words: str
    effects: tuple[Effect, ...]
    sales: int = 0

    def of(self, feature: Feature) -> Effect | None:
        return next((effect for effect in self.effects if effect.feature == feature), None)


def read_effects(typed: str) -> tuple[Effect, ...]:
    """A line a feature: "sound: +12 %", "network: -20" (base currency). Raises BuyerError with the line."""
    found: list[Effect] = []
    for number, line in enumerate(typed.splitlines(), 1):
        if not line.strip():
            continue
        effect = _effect(line, number)
        if any(effect.feature.name == one.feature.name for one in found):
            raise BuyerError(f"{effect.feature} stands there twice", number)
        found.append(effect)
    if not found:
        raise BuyerError("A buyer without features looks for nothing: say at least one, such as “sound: +10 %”")
    if len(found) > MOST_EFFECTS:
        raise BuyerError(f"{MOST_EFFECTS} features at most")
    return tuple(found)


def _effect(line: str, number: int) -> Effect:
    name, colon, typed = line.rpartition(":")
    if not colon:
        raise BuyerError(f"“{line.strip()[:40]}”: a feature, a colon, and what it adds: sound: +10 %", number)
    try:
        feature = read_feature(name)
    except FeatureError as problem:
        raise BuyerError(str(problem), number) from problem
    bare = typed.strip().replace("−", "-").removeprefix("+").strip()
    share = bare.endswith("%")
    try:
        bare = bare.removesuffix("%").strip()
        value = (
            -read_number(bare[1:].strip(), Mark.DECIMAL) if bare.startswith("-") else read_number(bare, Mark.DECIMAL)
        )
    except QuantityError as problem:
        raise BuyerError(
            f"“{typed.strip()[:20]}” for {feature}: percent or an amount, such as +10 % or 25", number
        ) from problem
    if share and not -100 <= value <= MOST_PERCENT:
        raise BuyerError(f"{feature}: from -100 to {MOST_PERCENT} %", number)
    if not share and abs(value) > MOST_MONEY:
        raise BuyerError(f"{feature}: {MOST_MONEY:,} at most", number)
    return Effect(feature, value) if share else Effect(feature, None, value)


def write_effects(effects: Iterable[Effect]) -> str:
    """The lines that `read_effects` reads again."""
    return "\n".join(
        f"{one.feature}: {one.percent:+f} %" if one.percent is not None else f"{one.feature}: {one.money:+f}"
        for one in effects
    )


def _shipped(code: str, name: str, words: str, table: str) -> Buyer:
    return Buyer(code, name, words, read_effects(table.replace("; ", "\n")))


# Common practice, no source: what such people were seen to pay for. A shop writes its own.
SHIPPED: Mapping[str, Buyer] = {
    buyer.code: buyer
    for buyer in (
        _shipped(
            "collector",
            "Collector",
            "wants it as it left the works",
            "its own disk: +8 %; its own drive: +6 %; modern part: -12 %; "
            "changed for good: -25 %; solid-state disk: -6 %; maths chip: +3 %",
        ),
        _shipped(
            "games",
            "Period games",
            "plays what was played on it then",
            "sound: +22 %; display memory 512 KiB: +8 %; memory 4 MiB: +6 %; memory 8 MiB: +9 %; "
            "processor 33 MHz: +8 %; too fast for old programs: -18 %; disk 100 MB: +6 %; joystick: +4 %; "
            "modern part: -2 %",
        ),
        _shipped(
            "work",
            "Period work",
            "writes, reckons and prints on it as one did",
            "maths chip: +8 %; memory 4 MiB: +8 %; disk 40 MB: +10 %; serial and printer: +4 %; "
            "too fast for old programs: -6 %; modern part: -4 %",
        ),
        _shipped(
            "daily",
            "Daily tinkering",
            "switches it on every day and moves files to and fro",
            "solid-state disk: +14 %; network: +12 %; memory 8 MiB: +10 %; SCSI: +5 %; disk 100 MB: +8 %; "
            "processor 33 MHz: +6 %; card reader: +8 %",
        ),
        _shipped(
            "display",
            "Display",
            "puts it on a shelf, and switches it on for guests",
            "modern part: -3 %; changed for good: -6 %; sound: +3 %",
        ),
    )
}


@dataclass(frozen=True)
class Sold:
    """A sale brought to the grade in question (base currency, above 0), what it had and had not of what was looked
    for, how much it counts, and which buyer it was sold to (code, empty: nobody said)."""

    price: Decimal
    features: frozenset[str]
    weight: float = 1.0
    buyer: str = ""


def ridge(shown: np.ndarray, logs: np.ndarray, weights: np.ndarray, towards: np.ndarray, strength: float) -> np.ndarray:
    """Effects on the logarithm of a price, drawn to a table: minimises Σ w (y − a − x·b)² + strength·|b − towards|².

    `shown` is sales × features of 0 and 1, the intercept is free. Ridge regression (Hoerl and Kennard, 1970, from
    memory) of what the table leaves unexplained.
    """
    rest = logs - shown @ towards
    share = weights / weights.sum()
    x, y = shown - share @ shown, rest - share @ rest
    held = x.T @ (weights[:, None] * x) + strength * np.eye(shown.shape[1])
    return towards + np.linalg.solve(held, x.T @ (weights * y))


def taught(buyer: Buyer, price: Decimal, sales: Sequence[Sold]) -> Buyer:
    """The buyer as sales have him: from those to him, or to nobody knows whom, with their features said. Fewer than
    ENOUGH of them teach nothing; a feature that all or none of them had stays as the table has it.

    `price`: what the machine fetches now, base currency above 0.
    """
    his = [sale for sale in sales if sale.buyer in {"", buyer.code} and sale.price > 0 and sale.weight > 0]
    if len(his) < ENOUGH or price <= 0:
        return buyer
    shown = np.array([[float(effect.feature.name in sale.features) for effect in buyer.effects] for sale in his])
    told = [place for place in range(len(buyer.effects)) if 0 < shown[:, place].sum() < len(his)]
    if not told:
        return buyer
    # A table may say -100 %: a logarithm has no place for it.
    table = np.array([np.log(max(0.01, 1 + float(effect.at(price) / price))) for effect in buyer.effects])
    logs = np.log([float(sale.price) for sale in his])
    found = ridge(shown, logs, np.array([sale.weight for sale in his]), table, (SPREAD / DOUBT) ** 2)
    effects = list(buyer.effects)
    for place in told:
        percent = Decimal(round(100 * (float(np.exp(found[place])) - 1), 1))
        effects[place] = replace(effects[place], percent=percent, money=None)
    return replace(buyer, effects=tuple(effects), sales=len(his))

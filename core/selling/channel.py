"""What stands where, and what a channel tells: read with care, since it may tell nonsense."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from enum import StrEnum


class Standing(StrEnum):
    """How a unit stands on one channel, from what is wanted and what the channel last confirmed."""

    OFF = "off"
    GOING_UP = "going_up"
    UP = "up"
    CHANGING = "changing"
    MAYBE_UP = "maybe_up"

    @property
    def words(self) -> str:
        return {
            "off": "not on offer there",
            "going_up": "being put up",
            "up": "on offer there",
            "changing": "on offer there, its words or price being changed",
            "maybe_up": "may still be on offer there",
        }[self.value]

    @property
    def words_by_hand(self) -> str:
        """Where somebody has to do it."""
        return {"going_up": "to be put up", "changing": "to be changed there"}.get(self.value, self.words)

    @property
    def settled(self) -> bool:
        """The channel stands as it is wanted."""
        return self in {Standing.OFF, Standing.UP}


def standing(wanted: bool, stands: bool | None, changed: bool) -> Standing:
    """`stands`: what the channel confirmed last, None where it was asked and did not answer; `changed`: since then."""
    if wanted:
        return Standing.GOING_UP if not stands else Standing.CHANGING if changed else Standing.UP
    return Standing.OFF if stands is False else Standing.MAYBE_UP


class Told(StrEnum):
    """What a channel may tell."""

    SALE = "sale"
    QUESTION = "question"
    OFFER = "offer"
    PAYOUT = "payout"


class Nonsense(ValueError):
    """What a channel told can’t be read; in words."""


LONGEST_WORDS, LONGEST_NAME, LONGEST_ID = 2000, 120, 64
MOST_MONEY = Decimal("99999999.99")


@dataclass(frozen=True)
class ChannelNews:
    """One thing that a channel told. `about` is our reference of what it is about; `remote` is how the channel calls
    it: the same again is the same thing told twice. Money in `currency`, None where none was told; `on` the day on
    which it happened there, None where that was not told."""

    kind: Told
    remote: str
    about: str
    who: str = ""
    words: str = ""
    amount: Decimal | None = None
    fee: Decimal | None = None
    currency: str = ""
    on: date | None = None


def read_news(raw: object) -> ChannelNews:
    """Raises Nonsense, in words, for whatever can’t be what a channel may tell."""
    if not isinstance(raw, Mapping):
        raise Nonsense("It is not an object.")
    try:
        kind = Told(_text(raw, "kind", 20))
    except ValueError as problem:
        raise Nonsense(f"It tells of “{str(raw.get('kind'))[:40]}”, which nobody here knows.") from problem
    remote, about = _text(raw, "id", LONGEST_ID), _text(raw, "listing", LONGEST_ID, needed=kind is not Told.PAYOUT)
    if not remote:
        raise Nonsense("It has no id.")
    who, words = _text(raw, "who", LONGEST_NAME, needed=False), _text(raw, "words", LONGEST_WORDS, needed=False)
    currency = _text(raw, "currency", 3, needed=kind in {Told.SALE, Told.OFFER, Told.PAYOUT})
    amount, fee = _money(raw, "amount"), _money(raw, "fee")
    if kind in {Told.SALE, Told.OFFER, Told.PAYOUT} and not amount:
        raise Nonsense(f"The {kind.value} has no amount above 0.")
    if fee is not None and amount is not None and fee > amount:
        raise Nonsense(f"The fee of {fee} is more than the {amount}.")
    if kind in {Told.QUESTION} and not words:
        raise Nonsense("The question has no words.")
    return ChannelNews(
        kind, remote, about, who or "a buyer there", words, amount, fee, currency.upper(), _day(raw, "day")
    )


def _text(raw: Mapping[object, object], name: str, longest: int, *, needed: bool = True) -> str:
    value = raw.get(name, "")
    if not isinstance(value, str):
        raise Nonsense(f"Its “{name}” is not text.")
    value = "".join(sign if sign.isprintable() or sign == "\n" else " " for sign in value).strip()
    if needed and not value:
        raise Nonsense(f"It has no “{name}”.")
    if len(value) > longest:
        raise Nonsense(f"Its “{name}” has {len(value)} characters; {longest} at most.")
    return value


def _day(raw: Mapping[object, object], name: str) -> date | None:
    value = raw.get(name)
    if value is None or value == "":
        return None
    try:
        return date.fromisoformat(value)  # type: ignore[arg-type]
    except (TypeError, ValueError) as problem:
        raise Nonsense(f"Its “{name}”, “{str(value)[:20]}”, is not a day as in 2026-03-31.") from problem


def _money(raw: Mapping[object, object], name: str) -> Decimal | None:
    value = raw.get(name)
    if value is None or value == "":
        return None
    if not isinstance(value, str):
        raise Nonsense(f"Its “{name}” is not an amount in text.")
    try:
        amount = Decimal(value)
    except InvalidOperation as problem:
        raise Nonsense(f"Its “{name}”, “{value[:20]}”, is not an amount.") from problem
    if not amount.is_finite() or not 0 <= amount <= MOST_MONEY or amount != amount.quantize(Decimal("0.01")):
        raise Nonsense(f"Its “{name}”, “{value[:20]}”, is not an amount in cents from 0.")
    return amount

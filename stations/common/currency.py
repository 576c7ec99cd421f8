"""The currency the shop keeps its books in: one for good, from the settings."""

from decimal import Decimal

from babel.numbers import get_currency_symbol
from django.conf import settings
from django.http import HttpRequest


def base_currency() -> str:
    """Its code by ISO 4217."""
    return str(settings.BASE_CURRENCY)


def symbol() -> str:
    """How it is called over a column of amounts."""
    return get_currency_symbol(base_currency(), locale="en")


def before_amounts() -> str:
    """What stands before an amount: a sign, or letters and a space that does not break."""
    return f"{symbol()}\u00a0" if symbol()[-1:].isalpha() else symbol()


def priced(amount: str) -> str:
    """An amount, as a page writes it, with the currency: €24.00, −€24.00, SEK 24.00."""
    sign = "−" if amount.startswith("−") else ""
    return f"{sign}{before_amounts()}{amount.removeprefix(sign)}"


def wrong_rate(currency: str, rate: Decimal) -> str:
    """Why a rate can't be that of the currency, in words; empty where it can."""
    return f"{currency} is ours: one is 1. Empty will do." if currency == base_currency() and rate != 1 else ""


def in_templates(request: HttpRequest) -> dict[str, str]:
    return {"currency": symbol(), "base_currency": base_currency()}

"""The currency the shop keeps its books in: one for good, from the settings."""

from babel.numbers import get_currency_symbol
from django.conf import settings
from django.http import HttpRequest


def base_currency() -> str:
    """Its code by ISO 4217."""
    return str(settings.BASE_CURRENCY)


def symbol() -> str:
    """How it is written before an amount."""
    return get_currency_symbol(base_currency(), locale="en")


def in_templates(request: HttpRequest) -> dict[str, str]:
    return {"currency": symbol(), "base_currency": base_currency()}

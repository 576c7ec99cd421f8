"""Figures as a page writes them: money, shares, minutes, plain numbers."""

from decimal import Decimal

from babel.numbers import format_decimal
from django import template

from stations.common.currency import priced

register = template.Library()
register.filter(priced)


def _minus(figure: str) -> str:
    """With a true minus sign; what rounds to nothing has none."""
    return figure.replace("-", "−" if figure.strip("-0.") else "")


@register.filter
def money(amount, places: int = 2) -> str:
    """1,234.50 with a true minus sign."""
    if amount is None:
        return "–"
    pattern = "#,##0.00" if places == 2 else "#,##0"
    return _minus(format_decimal(amount, format=pattern, locale="en"))


@register.filter
def whole(amount) -> str:
    """Money to the whole unit, for drawings and summaries."""
    return money(Decimal(amount).quantize(Decimal(1)) if amount is not None else None, 0)


@register.filter
def signed(amount) -> str:
    """With a sign and the currency of the books: +€243, −€44."""
    if amount is None:
        return "–"
    rounded = Decimal(amount).quantize(Decimal(1))
    sign = "−" if rounded < 0 else "+"
    return f"{sign}{priced(money(abs(rounded), 0))}"


@register.filter
def signed_money(amount) -> str:
    """To the cent, where terms are to add up: +€12.00, −€4.40."""
    sign = "−" if round(amount, 2) < 0 else "+"
    return f"{sign}{priced(money(abs(amount)))}"


@register.filter
def duration(minutes) -> str:
    """2 h 10, 35 min."""
    minutes = int(minutes or 0)
    return f"{minutes // 60} h {minutes % 60:02d}" if minutes >= 60 else f"{minutes} min"


@register.filter
def plain(number) -> str:
    """A decimal without trailing noughts or exponent: 5.06, 10, 0.5."""
    text = f"{Decimal(number):f}"
    return _minus(text.rstrip("0").rstrip(".") if "." in text else text)


@register.filter
def in_100(share) -> str:
    """A share as a whole number of a hundred."""
    return _minus(f"{round(float(share) * 100):d}")


@register.filter
def milli(number: float) -> str:
    """In thousandths: ohms as milliohms, volts as millivolts."""
    return _minus(f"{number * 1000:.0f}")

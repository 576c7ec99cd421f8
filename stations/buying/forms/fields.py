"""Fields that several buying forms share, and what they refuse."""

from datetime import date
from decimal import Decimal

from babel import numbers
from django import forms

from core.buying.manifest import SHAPED
from core.machine.casing import FormFactor
from stations.buying.details import usual_form
from stations.buying.models import LineKind
from stations.buying.rates import known_rate
from stations.common import clock
from stations.common.currency import wrong_rate
from stations.common.forms import to_choose
from stations.common.typed import NumberField

UNSHAPED = "Say what shape it has."


def shape_field(**options) -> forms.ChoiceField:
    """The form factor of a line; chosen for nobody, since what is looked at, drawn and warned of goes by it."""
    return to_choose("Form factor", [(form.value, form.label) for form in FormFactor], UNSHAPED, **options)


class Shaped:
    """A form of a line, of which the form factor is asked where it is of a shape by itself."""

    def clean(self):
        data = super().clean()
        if data.get("form_factor") == "":
            kind = data.get("kind", LineKind.MACHINE)
            if kind in SHAPED:
                self.add_error("form_factor", UNSHAPED)
            else:
                data["form_factor"] = usual_form(kind)
        return data


def amount(label: str, **options) -> NumberField:
    return NumberField(
        label=label,
        required=False,
        min_value=Decimal(0),
        max_digits=9,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 120.50."},
        **options,
    )


def percent(label: str) -> NumberField:
    return NumberField(
        label=label,
        required=False,
        min_value=Decimal(0),
        max_value=Decimal(100),
        max_digits=5,
        decimal_places=2,
        error_messages={
            "min_value": "A percentage from 0 to 100.",
            "max_value": "A percentage from 0 to 100.",
            "invalid": "Type a percentage, for example 18.",
        },
    )


def currency_code(text: str) -> str:
    """An ISO 4217 code in capitals; ValidationError for anything else."""
    code = text.strip().upper()
    if code not in numbers.list_currencies():
        raise forms.ValidationError(f"{code} is no currency code. EUR, GBP and SEK are.")
    return code


class CurrencyAndRate:
    """What every form with a currency and a rate refuses. A rate left empty is looked up."""

    def clean_currency(self) -> str:
        return currency_code(self.cleaned_data["currency"])

    def clean_rate(self) -> Decimal | None:
        rate = self.cleaned_data["rate"]
        if rate is not None and rate <= 0:
            raise forms.ValidationError("A rate is above 0: what one unit of that currency costs in ours.")
        return rate

    def look_up_rate(self, data: dict, day: date | None) -> None:
        """Fill in an empty rate; where none is known, or ours is to be worth something else than itself, say so at the
        field."""
        currency, rate = data.get("currency"), data.get("rate")
        if not currency or "rate" in self.errors:
            return
        if rate is not None:
            if why := wrong_rate(currency, rate):
                self.add_error("rate", why)
            return
        known = known_rate(currency, day or clock.today())
        if known is None:
            self.add_error("rate", f"No rate is known for {currency} on that day. Type what one costs in ours.")
        else:
            data["rate"] = known.rate


def below_hundred(percent: Decimal) -> Decimal:
    if percent >= 100:
        raise forms.ValidationError("From 0 to under 100.")
    return percent

"""The charges of a lot, one row each."""

from collections.abc import Iterable
from datetime import date
from decimal import Decimal

from django import forms
from django.forms import BaseFormSet, formset_factory

from core.buying.landed import Charge, ChargeError, ChargeKind, landed_cost, read_bands
from core.buying.share import Basis
from core.machine.quantities import QuantityError, TwoMeanings, read_number
from stations.buying.charges import bands_text, charges_of
from stations.buying.forms.fields import currency_code
from stations.buying.models import Lot
from stations.buying.rates import known_rate
from stations.common.currency import base_currency, wrong_rate
from stations.common.typed import NumberField

USUAL = (ChargeKind.PRICE, ChargeKind.PREMIUM, ChargeKind.PREMIUM_TAX, ChargeKind.FREIGHT)
LARGEST = 10**9


class ChargeForm(forms.Form):
    """One charge: an amount (120.50), a percentage (18 %) or bands (25 to 1000; 12). An empty one is none."""

    kind = forms.ChoiceField(label="Charge", choices=[(k.value, k.label.capitalize()) for k in ChargeKind])
    how_much = forms.CharField(label="Amount, or %", max_length=80, required=False)
    basis = forms.ChoiceField(
        label="Shared", required=False, choices=[("", "as the lot"), *((b.value, f"by {b.value}") for b in Basis)]
    )
    name = forms.CharField(label="Name of its own", max_length=40, required=False)
    currency = forms.CharField(
        label="Billed in", max_length=3, required=False, widget=forms.TextInput(attrs={"autocapitalize": "characters"})
    )
    rate = NumberField(
        label="Rate",
        required=False,
        max_digits=20,
        decimal_places=12,
        error_messages={"invalid": "Type a rate, for example 1.17."},
    )
    of = forms.MultipleChoiceField(
        label="A percentage of",
        required=False,
        choices=[(k.value, k.label) for k in ChargeKind],
        widget=forms.CheckboxSelectMultiple,
    )

    def __init__(self, *args, day: date | None = None, **kwargs):
        super().__init__(*args, **kwargs)
        self.day = day

    @property
    def has_more(self) -> bool:
        """Whether something stands (or is wrong) in the fields that are folded away."""
        return any(self[name].value() or self[name].errors for name in ("name", "currency", "rate", "of"))

    def clean_how_much(self) -> dict:
        text = " ".join(self.cleaned_data["how_much"].split())
        if not text:
            return {}
        if ";" in text or " to " in text:
            try:
                return {"bands": read_bands(text.replace(",", ""))}
            except ValueError as problem:
                raise forms.ValidationError(str(problem)) from problem
        percentage = text.endswith("%")
        try:
            number = read_number(text.rstrip(" %"))
        except TwoMeanings as problem:
            raise forms.ValidationError(str(problem)) from problem
        except QuantityError as problem:
            raise forms.ValidationError("Type an amount (120.50) or a percentage (18 %).") from problem
        if number >= LARGEST:
            raise forms.ValidationError("That is more than the books can hold.")
        if number < 0:
            raise forms.ValidationError("This may not be below 0.")
        if number != round(number, 2):
            raise forms.ValidationError("Two places after the point at most.")
        if percentage and number > 100:
            raise forms.ValidationError("A percentage from 0 to 100.")
        return {"percent": number} if percentage else {"amount": number}

    def clean_currency(self) -> str:
        return currency_code(self.cleaned_data["currency"]) if self.cleaned_data["currency"] else ""

    def clean_rate(self) -> Decimal | None:
        rate = self.cleaned_data["rate"]
        if rate is not None and rate <= 0:
            raise forms.ValidationError("A rate is above 0: what one unit of that currency costs in ours.")
        return rate

    def clean(self) -> dict:
        data = super().clean()
        currency = data.get("currency")
        if currency and data.get("rate") is None and "rate" not in self.errors and self.day:
            known = known_rate(currency, self.day)
            if known is None:
                self.add_error("rate", f"No rate is known for {currency} on that day. Type what one costs in ours.")
            else:
                data["rate"] = known.rate
        elif currency and data.get("rate") is not None and (why := wrong_rate(currency, data["rate"])):
            self.add_error("rate", why)
        elif data.get("rate") == 1 and not currency:
            data["currency"] = base_currency()
        elif data.get("rate") is not None and not currency and "currency" not in self.errors:
            self.add_error("currency", "In which currency was it billed?")
        if "how_much" in data:
            self._refuse_what_is_not_kept(data)
        return data

    def _refuse_what_is_not_kept(self, data: dict) -> None:
        how_much = data["how_much"]
        if not how_much:
            # One that stood there is left out by emptying its amount.
            if not self.initial.get("how_much") and (data.get("name") or data.get("currency") or data.get("of")):
                self.add_error("how_much", "How much is it? A charge without an amount is none.")
        elif "amount" in how_much:
            if data.get("of"):
                self.add_error("of", "It is an amount, a percentage of nothing: tick none of these.")
        elif data.get("currency"):
            self.add_error("currency", "A percentage is in the currency of what it is of: leave this empty.")

    @property
    def charge(self) -> Charge | None:
        data = self.cleaned_data
        if not data.get("how_much"):
            return None
        return Charge(
            ChargeKind(data["kind"]),
            **data["how_much"],
            of=tuple(ChargeKind(kind) for kind in data["of"]) if "amount" not in data["how_much"] else (),
            name=data["name"].strip(),
            currency=data["currency"] if "amount" in data["how_much"] else "",
            rate=data["rate"] if "amount" in data["how_much"] else None,
            basis=Basis(data["basis"]) if data["basis"] else None,
        )


class ChargeSet(BaseFormSet):
    """The charges of a lot in order; what can't be together is said at the charge it is about."""

    @property
    def typed(self) -> list[tuple[ChargeForm, Charge]]:
        return [(form, form.charge) for form in self.forms if getattr(form, "cleaned_data", None) and form.charge]

    @property
    def charges(self) -> tuple[Charge, ...]:
        return tuple(charge for _, charge in self.typed)

    def differences(self, lot: Lot) -> list[dict[str, str]]:
        """Where the charges as typed differ from those that stand there now, as `screens.differences` says it."""
        yours, theirs = _by_name(self.charges), _by_name(charges_of(lot))
        return [
            {"label": name, "yours": _in_words(yours.get(name, [])), "theirs": _in_words(theirs.get(name, []))}
            for name in yours | theirs
            if yours.get(name) != theirs.get(name)
        ]

    def clean(self) -> None:
        if any(self.errors):
            return
        try:
            landed_cost(self.charges, Decimal(1))
        except ChargeError as problem:
            self.refuse(problem.index, problem.field, str(problem))
            raise forms.ValidationError("A charge is wrong; it says so in red.") from problem

    def refuse(self, index: int, field: str, message: str) -> None:
        """Say at the charge that stands at `index` among the filled-in ones what is wrong with it."""
        form = self.typed[index][0]
        at = {"amount": "how_much", "percent": "how_much"}.get(field, field)
        form.add_error(at if at in form.fields else None, message)


Charges = formset_factory(ChargeForm, formset=ChargeSet, extra=0, max_num=30, absolute_max=31, validate_max=True)


def charges_form(data=None, lot: Lot | None = None, day: date | None = None) -> ChargeSet:
    """The formset: empty with the usual rows, or filled from a lot."""
    rows = [_initial(charge) for charge in charges_of(lot)] if lot else [{"kind": kind.value} for kind in USUAL]
    return Charges(data, prefix="charges", initial=rows, form_kwargs={"day": day})


def _by_name(charges: Iterable[Charge]) -> dict[str, list[Charge]]:
    """Charges by what they are called; several may be called the same."""
    found: dict[str, list[Charge]] = {}
    for charge in charges:
        found.setdefault(charge.name or charge.kind.label.capitalize(), []).append(charge)
    return found


def _in_words(charges: Iterable[Charge]) -> str:
    return "; ".join(map(_said, charges)) or "none"


def _said(charge: Charge) -> str:
    said = f"{_how_much(charge)} {charge.currency}".strip()
    if charge.rate is not None:
        said += f" at {charge.rate.normalize():f}"
    if charge.of:
        said += f" of {', '.join(kind.label for kind in charge.of)}"
    return said + (f", shared by {charge.basis.value}" if charge.basis else "")


def _initial(charge: Charge) -> dict:
    return {
        "kind": charge.kind.value,
        "how_much": _how_much(charge),
        "basis": charge.basis.value if charge.basis else "",
        "name": charge.name,
        "currency": charge.currency,
        "rate": charge.rate,
        "of": [kind.value for kind in charge.of],
    }


def _how_much(charge: Charge) -> str:
    if charge.bands:
        return bands_text(charge)
    return f"{charge.percent.normalize():f} %" if charge.percent is not None else f"{charge.amount:f}"

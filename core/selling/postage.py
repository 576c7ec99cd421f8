"""What sending a thing is reckoned to take: as those like it took, and the usual while nothing like it was sent."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from core.money import ZERO, to_cent


@dataclass(frozen=True)
class Reckoned:
    """An amount in base currency, and how many parcels of its `model`, or else of its shape, it was learned from."""

    amount: Decimal
    times: int = 0
    model: bool = False

    @property
    def words(self) -> str:
        """What it rests on; empty for the usual."""
        if not self.times:
            return ""
        return f"as {self.times} of its {'model' if self.model else 'shape'} took"


@dataclass(frozen=True)
class Sent:
    """What parcels of one thing took, the newest first, by model and by shape; `usual` what is reckoned with where
    nothing is known."""

    usual: Decimal
    by_model: Mapping[int, Sequence[Decimal]] = field(default_factory=dict)
    by_shape: Mapping[str, Sequence[Decimal]] = field(default_factory=dict)

    def postage(self, model: int | None, shape: str) -> Reckoned:
        """The mean of those of its model, drawn towards that of its shape by once, and that towards the usual:
        (usual + Σ) ÷ (n + 1), to the cent (common practice, no source)."""
        of_shape = self.by_shape.get(shape, ())
        of_model = self.by_model.get(model, ()) if model is not None else ()
        amount = to_cent(_drawn(of_model, _drawn(of_shape, self.usual)))
        return Reckoned(amount, len(of_model) or len(of_shape), bool(of_model))


def _drawn(took: Sequence[Decimal], towards: Decimal) -> Decimal:
    return (towards + sum(took, ZERO)) / (len(took) + 1)


def sent(usual: Decimal, parcels: Iterable[tuple[int | None, str, Decimal]]) -> Sent:
    """From (model, shape, what it took) of each."""
    by_model: dict[int, list[Decimal]] = {}
    by_shape: dict[str, list[Decimal]] = {}
    for model, shape, took in parcels:
        by_shape.setdefault(shape, []).append(took)
        if model is not None:
            by_model.setdefault(model, []).append(took)
    return Sent(usual, by_model, by_shape)

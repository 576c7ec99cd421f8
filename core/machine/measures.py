"""Whether a size, a weight or a current can be as it was typed, or was meant in another unit."""

from collections.abc import Sequence
from decimal import Decimal

from core.machine.casing import FormFactor

# No whole machine is smaller (common practice, no source).
LEAST_LONGEST_MM = 100
SMALL = frozenset({FormFactor.CHIP, FormFactor.CARD, FormFactor.BOARD, FormFactor.DRIVE, FormFactor.ADAPTER})
# g/cm³ over the box around it: half of the lightest packing foam, and osmium (both from memory of handbook tables).
LIGHTEST, DENSEST = 0.005, 22.6
# More than any adapter with a plug of its own gives (common practice, no source).
MOST_ADAPTER_VOLTS, MOST_ADAPTER_AMPS = Decimal(100), Decimal(50)
AMPS_WORDS = "50 A at most: 500 mA are 0.5."
VOLTS_WORDS = "100 V at most: an adapter gives less than the mains."


def size_doubt(form: FormFactor, edges_mm: Sequence[int]) -> str:
    """Why edges in mm can't be those of a thing of that shape; empty when they can."""
    if form in SMALL or max(edges_mm) >= LEAST_LONGEST_MM:
        return ""
    return f"No {form.label} is that small. Type millimetres: 30 cm are 300."


def weight_doubt(edges_mm: Sequence[int], grams: int) -> str:
    """Why something of these edges in mm can't weigh so many grams; empty when it can."""
    a, b, c = edges_mm
    density = grams / (a * b * c / 1000)
    if LIGHTEST <= density <= DENSEST:
        return ""
    size = f"{grams:,} g at {a} × {b} × {c} mm"
    if density < LIGHTEST:
        return f"{size} is lighter than foam. Type grams: 9.4 kg are 9400."
    return f"{size} is heavier than any metal. Type grams, and millimetres: 30 cm are 300."

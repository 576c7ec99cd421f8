"""Colour signals by their line and field rate, for what a screen must be able to show."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Signal:
    """`line_khz` and `field_hz` as the standard gives them."""

    name: str
    line_khz: float
    field_hz: float
    source: str


# Rates from ITU-R BT.470 (625/50: 15.625 kHz; 525/60: 15.734 kHz with colour) and VESA's timings, from memory;
# the others are common practice, no source.
SIGNALS = (
    Signal("PAL, 625 lines", 15.625, 50.0, "ITU-R BT.470"),
    Signal("NTSC, 525 lines", 15.734, 59.94, "ITU-R BT.470"),
    Signal("525 lines, monochrome", 15.750, 60.0, "common practice"),
    Signal("text, 18 kHz monochrome", 18.432, 50.0, "common practice"),
    Signal("640×350, 22 kHz", 21.85, 60.0, "common practice"),
    Signal("VGA 640×400 at 70 Hz", 31.469, 70.09, "VESA"),
    Signal("VGA 640×480 at 60 Hz", 31.469, 59.94, "VESA"),
    Signal("800×600 at 56 Hz", 35.156, 56.25, "VESA"),
    Signal("800×600 at 60 Hz", 37.879, 60.317, "VESA"),
    Signal("1024×768 at 60 Hz", 48.363, 60.004, "VESA"),
)


def nearest_signals(line_khz: float, field_hz: float, *, most: int = 3) -> tuple[tuple[Signal, float], ...]:
    """The signals nearest to measured rates, with how far off in percent (the larger of both); best first.

    Both rates above 0 (ValueError).
    """
    if line_khz <= 0 or field_hz <= 0:
        raise ValueError("Rates are above 0.")
    off = [(s, 100 * max(abs(line_khz / s.line_khz - 1), abs(field_hz / s.field_hz - 1))) for s in SIGNALS]
    return tuple(sorted(off, key=lambda pair: pair[1])[:most])

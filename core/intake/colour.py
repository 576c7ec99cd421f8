"""The colour of plastic, measured from a picture: white balance, CIE L*a*b*, and how far two colours are apart.

sRGB by IEC 61966-2-1, L*a*b* by CIE 15 for illuminant D65 and the 2 degree observer, the difference CIEDE2000
by CIE 142. A picture is no colorimeter: good for before and after on one bench, not across benches.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import atan2, cos, degrees, exp, hypot, radians, sin, sqrt

Rgb = tuple[float, float, float]
WHITE = (0.95047, 1.0, 1.08883)


@dataclass(frozen=True)
class Lab:
    """L* 0 to 100, a* green to red, b* blue to yellow."""

    l: float  # noqa: E741 - the standard's own name
    a: float
    b: float


def linear(channel: float) -> float:
    """One sRGB channel, 0 to 255, as light, 0 to 1."""
    c = channel / 255
    return c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4


def balanced(spot: Rgb, neutral: Rgb | None = None) -> Rgb:
    """Light of the three channels, 0 to 1, scaled so that the neutral patch comes out grey of its own lightness.

    A patch with a channel of 0 can't be balanced on (ValueError).
    """
    light = (linear(spot[0]), linear(spot[1]), linear(spot[2]))
    if neutral is None:
        return light
    patch = [linear(c) for c in neutral]
    if min(patch) <= 0:
        raise ValueError("The neutral patch is black in one channel. Choose a light grey or white one.")
    grey = 0.2126 * patch[0] + 0.7152 * patch[1] + 0.0722 * patch[2]
    return (light[0] * grey / patch[0], light[1] * grey / patch[1], light[2] * grey / patch[2])


def lab_of(spot: Rgb, neutral: Rgb | None = None) -> Lab:
    """L*a*b* of an sRGB spot (0 to 255), white-balanced on a neutral patch if there is one."""
    r, g, b = balanced(spot, neutral)
    x = (0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / WHITE[0]
    y = (0.2126729 * r + 0.7151522 * g + 0.0721750 * b) / WHITE[1]
    z = (0.0193339 * r + 0.1191920 * g + 0.9503041 * b) / WHITE[2]
    fx, fy, fz = _f(x), _f(y), _f(z)
    return Lab(116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz))


def _f(t: float) -> float:
    return float(t ** (1 / 3)) if t > 216 / 24389 else (24389 / 27 * t + 16) / 116


def delta_e(one: Lab, two: Lab) -> float:
    """CIEDE2000 with all weights 1: under 1 hardly anybody sees it, over 5 everybody (common practice)."""
    c_mean7 = ((hypot(one.a, one.b) + hypot(two.a, two.b)) / 2) ** 7
    g = 0.5 * (1 - sqrt(c_mean7 / (c_mean7 + 25**7)))
    a1, a2 = (1 + g) * one.a, (1 + g) * two.a
    c1, c2 = hypot(a1, one.b), hypot(a2, two.b)
    h1, h2 = _hue(a1, one.b), _hue(a2, two.b)
    d_l, d_c = two.l - one.l, c2 - c1
    turn = h2 - h1
    if c1 * c2 == 0:
        turn = 0.0
    elif turn > 180:
        turn -= 360
    elif turn < -180:
        turn += 360
    d_h = 2 * sqrt(c1 * c2) * sin(radians(turn / 2))
    l_mean, c_mean = (one.l + two.l) / 2, (c1 + c2) / 2
    if c1 * c2 == 0:
        h_mean = h1 + h2
    elif abs(h1 - h2) <= 180:
        h_mean = (h1 + h2) / 2
    else:
        h_mean = (h1 + h2 + 360) / 2 if h1 + h2 < 360 else (h1 + h2 - 360) / 2
    t = (
        1
        - 0.17 * cos(radians(h_mean - 30))
        + 0.24 * cos(radians(2 * h_mean))
        + 0.32 * cos(radians(3 * h_mean + 6))
        - 0.20 * cos(radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    r_c = 2 * sqrt(c_mean**7 / (c_mean**7 + 25**7))
    r_t = -sin(radians(60 * exp(-(((h_mean - 275) / 25) ** 2)))) * r_c
    light, chroma, hue = d_l / s_l, d_c / s_c, d_h / s_h
    return sqrt(max(0.0, light**2 + chroma**2 + hue**2 + r_t * chroma * hue))


def _hue(a: float, b: float) -> float:
    return degrees(atan2(b, a)) % 360 if a or b else 0.0


@dataclass(frozen=True)
class Plastic:
    """What the spots of one picture say. `yellowing` is ΔE00 of the exposed spots' mean against the sheltered area,
    `warmer` its b* less the sheltered area's, `evenness` the largest ΔE00 of a spot from that mean."""

    sheltered: Lab
    exposed: Lab
    spots: tuple[Lab, ...]
    yellowing: float
    warmer: float
    evenness: float

    @property
    def words(self) -> str:
        how = next(word for most, word in _SEEN if self.yellowing < most)
        even = "evenly" if self.evenness < 2 else "a little unevenly" if self.evenness < 5 else "in patches"
        if self.yellowing < 1:
            return "No difference that can be seen."
        if self.warmer <= 0:
            return f"{how} off the sheltered colour, but not yellower."
        return f"{how} yellowed, {even}."


_SEEN = ((1.0, "Not"), (2.5, "Slightly"), (5.0, "Plainly"), (10.0, "Strongly"), (float("inf"), "Heavily"))


def measure(sheltered: Rgb, exposed: Sequence[Rgb], neutral: Rgb | None = None) -> Plastic:
    """Compare exposed spots (at least one) with a sheltered area of the same part in the same picture."""
    if not exposed:
        raise ValueError("Choose at least one exposed spot.")
    base = lab_of(sheltered, neutral)
    spots = tuple(lab_of(spot, neutral) for spot in exposed)
    mean = Lab(*(sum(getattr(s, n) for s in spots) / len(spots) for n in ("l", "a", "b")))
    worst = max(delta_e(mean, spot) for spot in spots)
    return Plastic(base, mean, spots, delta_e(base, mean), mean.b - base.b, worst)

"""The drawing of stop or go: what going on leaves against minutes more, over the level of stopping now."""

from dataclasses import dataclass

from stations.workshop.stop_or_go import StopGo

WIDE, HIGH = 400.0, 200.0
LEFT, RIGHT, TOP, FOOT = 44.0, 8.0, 22.0, 36.0


@dataclass(frozen=True)
class Drawn:
    """Paths in a box of WIDE × HIGH. `turn` is where the answer turns: None where it does not within what is drawn."""

    go: str
    band: str
    worse: str
    stop_y: float
    turn: tuple[float, float] | None
    levels: tuple[tuple[float, str], ...]
    minutes: tuple[tuple[float, str], ...]
    band_words: str
    end_y: float


def drawn(asked: StopGo) -> Drawn | None:
    """None where nobody can say."""
    made = asked.answer
    if made is None:
        return None
    points = made.points
    ahead = points[-1].minutes
    worths = [made.stop, *(p.low for p in points), *(p.high for p in points)]
    low, high = min(0.0, *worths), max(worths)
    high = high + (high - low) * 0.08 or 1.0

    def x(minutes: float) -> float:
        return round(LEFT + minutes / ahead * (WIDE - LEFT - RIGHT), 1)

    def y(worth: float) -> float:
        return round(HIGH - FOOT - (worth - low) / (high - low) * (HIGH - TOP - FOOT), 1)

    line = " ".join(f"{'M' if not place else 'L'}{x(p.minutes)} {y(p.likely)}" for place, p in enumerate(points))
    upper = " ".join(f"{'M' if not place else 'L'}{x(p.minutes)} {y(p.high)}" for place, p in enumerate(points))
    lower = " ".join(f"L{x(p.minutes)} {y(p.low)}" for p in reversed(points))
    turn = (x(made.limit), y(made.stop)) if made.limit is not None and made.limit <= ahead else None
    below = [p for p in points if made.limit is not None and p.minutes >= made.limit]
    worse = ""
    if turn and below:
        worse = f"M{turn[0]} {turn[1]}" + "".join(f"L{x(p.minutes)} {y(p.likely)}" for p in below)
        worse += f"L{x(ahead)} {y(made.stop)}Z"
    step = _step(high - low)
    levels = tuple((y(level), f"{level:.0f}") for level in _levels(low, high, step))
    minutes = tuple((x(at), "now" if not at else f"{at:.0f}") for at in (0.0, ahead / 3, 2 * ahead / 3, ahead))
    first = points[0]
    words = f"could be {first.low:.0f} to {first.high:.0f}"
    return Drawn(line, f"{upper} {lower}Z", worse, y(made.stop), turn, levels, minutes, words, y(points[-1].likely))


def _step(span: float) -> float:
    """A round distance of levels, three to six of them."""
    for step in (5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2500, 5000):
        if span / step <= 5:
            return float(step)
    return 10_000.0


def _levels(low: float, high: float, step: float) -> list[float]:
    first = -(-low // step) * step
    return [first + step * place for place in range(int((high - first) // step) + 1)]

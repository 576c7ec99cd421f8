"""Two photos of the same thing laid on one another: how far one was taken beside the other."""

from dataclasses import dataclass

import numpy as np

# So many standard deviations the peak stands out where two pictures show the same; chance alone gives about 5.
LEAST_PEAK = 8.0


@dataclass(frozen=True)
class Shift:
    """By what share of its width and height the second picture is moved to lie on the first."""

    right: float
    down: float


def shift_between(first: np.ndarray, second: np.ndarray) -> Shift | None:
    """Of two grey pictures of the same shape (rows × columns); None where they have too little in common.

    Phase correlation (Kuglin and Hines 1975, from memory), edges faded out so that the frame counts for nothing.
    ValueError for different shapes.
    """
    if first.shape != second.shape or first.ndim != 2:
        raise ValueError("Two grey pictures of the same shape.")
    rows, columns = first.shape
    fade = np.outer(np.hanning(rows), np.hanning(columns))

    def waves(picture: np.ndarray) -> np.ndarray:
        return np.fft.rfft2((picture - picture.mean()) * fade)

    cross = waves(first) * np.conj(waves(second))
    strength = np.abs(cross)
    if not strength.max() > 0:
        return None
    found = np.fft.irfft2(cross / np.maximum(strength, strength.max() * 1e-9), s=first.shape)
    peak = int(np.argmax(found))
    if found.flat[peak] < LEAST_PEAK * found.std():
        return None
    down, right = np.unravel_index(peak, found.shape)
    return Shift(_signed(int(right), columns) / columns, _signed(int(down), rows) / rows)


def _signed(steps: int, whole: int) -> int:
    return steps - whole if steps > whole // 2 else steps

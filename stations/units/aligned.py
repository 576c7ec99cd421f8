"""Before and after: two photos of a unit, the second moved so that it lies on the first."""

from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageOps

from core.intake.align import Shift, shift_between
from stations.units import picture_files
from stations.units.models import Photo

WIDE = 320
# As many steps each picture is looked at in: enough to a hundredth of its width.
_GRID = (160, 160)


@dataclass(frozen=True)
class Aligned:
    """Both in a frame `WIDE` units wide and `high` high; `shift` is None where they show too different things."""

    first: Photo
    second: Photo
    high: float
    shift: Shift | None

    @property
    def right(self) -> float:
        return self.shift.right * WIDE if self.shift else 0.0

    @property
    def down(self) -> float:
        return self.shift.down * self.high if self.shift else 0.0


def aligned(first: Photo, second: Photo) -> Aligned:
    """Pictures that can’t be read, or are of different shape, are not laid on one another."""
    high = WIDE * first.height / first.width
    same_shape = abs(second.height / second.width - first.height / first.width) < 0.02
    one, other = (_grey(photo) for photo in (first, second)) if same_shape else (None, None)
    shift = shift_between(one, other) if one is not None and other is not None else None
    return Aligned(first, second, high, shift)


def _grey(photo: Photo) -> np.ndarray | None:
    try:
        with Image.open(picture_files.path_of(photo.sha256, small=True)) as picture:
            return np.asarray(ImageOps.grayscale(picture).resize(_GRID), dtype=float)
    except OSError:
        return None

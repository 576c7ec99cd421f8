"""Taking in pictures: by content, bounded, stripped of everything but the pixels."""

import hashlib
import io
from collections.abc import Iterable, Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.conf import settings
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

from stations.common import files

register_heif_opener()

MOST_BYTES = 25 * 1024 * 1024
MOST_PIXELS = 40_000_000
LONGEST = 2000
SMALL = 320


class BadPicture(ValueError):
    """The file can't be taken; the message says why, naming no path."""


@dataclass(frozen=True)
class Stored:
    sha256: str
    width: int
    height: int
    looks: int


def store(data: bytes) -> Stored:
    """Check a picture, turn it upright, strip it, and keep it under its hash with a small copy beside it."""
    if len(data) > MOST_BYTES:
        raise BadPicture("larger than 25 MB")
    with _one_at_a_time():
        upright = _upright(data)
    return _keep(upright)


def _keep(picture: Image.Image) -> Stored:
    clean = _jpeg(picture, 88)
    digest = hashlib.sha256(clean).hexdigest()
    small = picture.copy()
    small.thumbnail((SMALL, SMALL))
    files.keep(path_of(digest), clean)
    files.keep(path_of(digest, small=True), _jpeg(small, 82))
    return Stored(digest, picture.width, picture.height, fingerprint(picture))


def _upright(data: bytes) -> Image.Image:
    """The picture as it is looked at, without anything else, its longer side at most LONGEST."""
    # Making a PDF switches tolerance on for the whole process; here a damaged picture is always refused.
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with Image.open(io.BytesIO(data)) as probe:
            if probe.format not in {"JPEG", "PNG", "WEBP", "HEIF"}:
                raise BadPicture("not a JPEG, PNG, WebP or HEIC picture")
            if probe.width * probe.height > MOST_PIXELS:
                raise BadPicture("more than 40 megapixels")
            # Made small first, so that only one copy of the many pixels is ever held; a JPEG is read small at once.
            probe.draft("RGB", (LONGEST, LONGEST))
            small = probe if probe.mode in {"RGB", "L"} else probe.convert("RGB")
            small.thumbnail((LONGEST, LONGEST))
            return ImageOps.exif_transpose(small).convert("RGB")
    except BadPicture:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError) as problem:
        raise BadPicture("not a picture") from problem
    except (OSError, SyntaxError, ValueError) as problem:
        raise BadPicture("cut short or damaged") from problem


def cut(sha256: str, turn: float, box: tuple[float, float, float, float]) -> Stored:
    """Keep a part of a picture that is here, turned clockwise by so many degrees, beside it. Raises BadPicture."""
    path = path_of(sha256)
    if not path.exists():
        raise BadPicture("not here any more")
    with _one_at_a_time(), Image.open(path) as whole:
        turned = whole.rotate(-turn, Image.Resampling.BICUBIC) if turn else whole
        part = turned.crop((round(box[0]), round(box[1]), round(box[2]), round(box[3])))
    return _keep(part)


def small_of(data: bytes) -> bytes:
    """A small JPEG of a picture. Raises BadPicture."""
    with _one_at_a_time():
        small = _upright(data)
    small.thumbnail((SMALL, SMALL))
    return _jpeg(small, 82)


def _one_at_a_time() -> AbstractContextManager[None]:
    """Several large pictures at once would fill the memory of the machine."""
    return files.alone("one-picture")


def fingerprint(picture: Image.Image) -> int:
    """64 bits that say of 8 rows of 9 grey fields whether each is brighter than the next; as a signed number."""
    grey = np.asarray(picture.convert("L").resize((9, 8), Image.Resampling.BILINEAR), dtype=np.int16)
    bits = np.packbits(grey[:, 1:] > grey[:, :-1])
    return int.from_bytes(bits.tobytes(), "big", signed=True)


def path_of(sha256: str, small: bool = False) -> Path:
    return Path(settings.MEDIA_ROOT) / "photos" / sha256[:2] / f"{sha256}{'-small' if small else ''}.jpg"


def both_of(sums: Iterable[str]) -> Iterator[Path]:
    """Where pictures of these hashes lie, and their small copies."""
    return (path_of(sha256, small) for sha256 in sums for small in (False, True))


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=quality)
    return out.getvalue()

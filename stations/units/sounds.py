"""Short sounds: taken in by content, bounded in size and length, kept under their hash."""

import hashlib
import io
from dataclasses import dataclass
from pathlib import Path, PurePath

from django.conf import settings
from django.db import transaction
from tinytag import TinyTag, TinyTagException

from core.intake.condition import FindingKind
from core.machine.casing import Face, FormFactor, faces_of
from stations.common import clock, files
from stations.common.refusals import Refused, within
from stations.people.models import Person
from stations.people.permissions import require
from stations.units import findings
from stations.units.models import Clip, Finding, Unit

MOST_BYTES = 6 * 1024 * 1024
MOST_SECONDS = 30.0
# What a file is, by how it begins; the name is not believed.
_BEGINS = (("wav", 0, b"RIFF"), ("ogg", 0, b"OggS"), ("mp3", 0, b"ID3"), ("mp3", 0, b"\xff\xfb"), ("m4a", 4, b"ftyp"))
TYPES = {"wav": "audio/wav", "ogg": "audio/ogg", "mp3": "audio/mpeg", "m4a": "audio/mp4"}


@dataclass(frozen=True)
class Heard:
    """A sound that was taken in: its hash, its kind by content, and its length in seconds."""

    sha256: str
    kind: str
    seconds: float


def path_of(sha256: str, kind: str) -> Path:
    return Path(settings.MEDIA_ROOT) / "sounds" / sha256[:2] / f"{sha256}.{kind}"


def store(data: bytes) -> Heard:
    """Check a sound and keep it. Raises Refused, at the clip, in words."""
    if len(data) > MOST_BYTES:
        raise Refused("The sound is larger than 6 MB. Half a minute is enough.", "clip")
    kind = next((kind for kind, at, sign in _BEGINS if data[at : at + len(sign)] == sign), "")
    if not kind or (kind == "wav" and data[8:12] != b"WAVE"):
        raise Refused("Not a sound this page can play: WAV, Ogg, MP3 or M4A.", "clip")
    try:
        seconds = TinyTag.get(filename=f"clip.{kind}", file_obj=io.BytesIO(data), tags=False).duration
    except (TinyTagException, OSError, ValueError, KeyError, IndexError, ArithmeticError) as problem:
        raise Refused("The sound is cut short or damaged.", "clip") from problem
    except Exception as problem:  # a reader of foreign files must not break the page
        raise Refused("The sound can’t be read.", "clip") from problem
    if not seconds or seconds <= 0:
        raise Refused("The sound is empty, cut short or damaged.", "clip")
    if seconds > MOST_SECONDS:
        raise Refused(f"The sound takes {seconds:.0f} s; {MOST_SECONDS:.0f} s at most. Cut it to what matters.", "clip")
    digest = hashlib.sha256(data).hexdigest()
    files.keep(path_of(digest, kind), data)
    return Heard(digest, kind, round(float(seconds), 2))


def keep(person: Person, unit: Unit, file, words: str = "", finding: Finding | None = None) -> Clip:
    """Keep one sound of a unit. Raises Refused, at the clip."""
    if file.size > MOST_BYTES:
        raise Refused("The sound is larger than 6 MB. Half a minute is enough.", "clip")
    heard = store(file.read())
    return Clip.objects.create(
        unit=unit,
        finding=finding,
        sha256=heard.sha256,
        kind=heard.kind,
        original_name=PurePath(file.name or "sound").name[:120],
        seconds=heard.seconds,
        words=within(words, 300),
        added_at=clock.now(),
        added_by=person,
    )


@transaction.atomic
def add_heard(person: Person, unit: Unit, file, words: str, face: str = "") -> Clip:
    """A noise is a finding: heard, kept, and where it seems to come from."""
    require(person, "record findings")
    faces = faces_of(FormFactor(unit.form_factor))
    face = face or (Face.INSIDE if Face.INSIDE in faces else faces[0])
    heard = findings.Observation(face, FindingKind.NOISE, 0.5, 0.5, 2, extent_percent=1, words=within(words, 120))
    finding = findings.add_finding(person, unit, heard)
    return keep(person, unit, file, words, finding)

"""Sanitising by medium: which method does what, and when it is verified.

Words of NIST SP 800-88 Revision 1 (2014): clear, purge, destroy; by medium from memory of its appendix A.
"""

from enum import StrEnum

from core.workshop.storage import StorageError

STANDARD = "NIST SP 800-88 Rev. 1"
# So many places are read back at least. Common practice, no source.
LEAST_SAMPLES = 100


class Medium(StrEnum):
    DISK = "hard disk"
    FLASH = "flash card or solid-state disk"
    FLOPPY = "diskette"
    TAPE = "tape"
    OPTICAL = "optical disc"
    MEMORY = "memory that keeps its contents"


class Method(StrEnum):
    CLEAR = "clear"
    PURGE = "purge"
    DESTROY = "destroy"


_HOW: dict[tuple[Medium, Method], str] = {
    (Medium.DISK, Method.CLEAR): "written over once from end to end, read back",
    (Medium.DISK, Method.PURGE): "erased by the drive’s own command, or degaussed: that ends the drive",
    (Medium.DISK, Method.DESTROY): "shredded, pulverised or melted",
    (Medium.FLASH, Method.CLEAR): "written over once; cells set aside by the card are not reached",
    (Medium.FLASH, Method.PURGE): "erased by the card’s own command, keys of its encryption thrown away",
    (Medium.FLASH, Method.DESTROY): "shredded or pulverised",
    (Medium.FLOPPY, Method.CLEAR): "written over once from end to end, read back",
    (Medium.FLOPPY, Method.PURGE): "degaussed",
    (Medium.FLOPPY, Method.DESTROY): "shredded",
    (Medium.TAPE, Method.CLEAR): "written over once from end to end",
    (Medium.TAPE, Method.PURGE): "degaussed",
    (Medium.TAPE, Method.DESTROY): "shredded",
    (Medium.OPTICAL, Method.DESTROY): "shredded or ground off",
    (Medium.MEMORY, Method.CLEAR): "written over, its battery out, read back",
    (Medium.MEMORY, Method.DESTROY): "shredded or pulverised",
}


def technique(medium: Medium, method: Method) -> str:
    """What a method is on a medium. Raises StorageError where there is none."""
    how = _HOW.get((medium, method))
    if how is None:
        can = " or ".join(method for (one, method) in _HOW if one is medium)
        raise StorageError(f"To {method} this is not possible ({medium}): {can}.", "method")
    return how


def verified(method: Method, samples: int | None, differing: int | None) -> str:
    """How it was verified, in words. Raises StorageError where it was not."""
    if method is Method.DESTROY:
        return "what is left of it was looked at"
    if samples is None or samples < LEAST_SAMPLES:
        raise StorageError(f"Read back {LEAST_SAMPLES} places at least, spread over all of it.", "samples")
    if differing is None:
        raise StorageError("Say how many read anything but what was written.", "differing")
    if differing > samples:
        raise StorageError("More than were read.", "differing")
    if differing:
        raise StorageError(
            f"{differing} of {samples} read something else: it is not sanitised. Purge or destroy it.", "differing"
        )
    return f"{samples:,} places read back, none differs"

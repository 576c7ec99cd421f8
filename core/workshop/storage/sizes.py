"""Sizes as people type them, and as they are written: 2 GiB, 528,482,304, 40 MB."""

import re
from decimal import Decimal

from core.machine.quantities import QuantityError, read_number
from core.workshop.storage import StorageError

KIB, MIB, GIB = 1024, 1024**2, 1024**3
MOST_BYTES = 2**44
# IEC 80000-13: binary prefixes beside the decimal ones.
_UNITS = {"": 1, "b": 1, "bytes": 1, "kib": KIB, "mib": MIB, "gib": GIB, "kb": 1000, "mb": 1000**2, "gb": 1000**3}
_TYPED = re.compile(r"([\d.,\s]*\d)\s*([A-Za-z]*)")


def read_size(typed: str, at: str = "", line: int = 0) -> int:
    """Bytes, to a whole one. Raises StorageError for no size, an unknown unit, nothing, or more than 16 TiB."""
    match = _TYPED.fullmatch(typed.strip())
    unit = match[2].lower() if match else None
    if match is None or unit not in _UNITS:
        raise StorageError(f"“{typed.strip()[:30]}” is no size. Type 2 GiB, 40 MB or bytes.", at, line)
    try:
        number = read_number(match[1])
    except QuantityError as problem:
        raise StorageError(str(problem), at, line) from problem
    size = number * _UNITS[unit]
    if not 0 < size <= MOST_BYTES:
        raise StorageError(f"“{typed.strip()[:30]}”: above nothing, 16 TiB at most.", at, line)
    return int(size)


def written(size: int) -> str:
    """The largest binary unit that leaves at least one: 503 MiB, 2.0 GiB, 21 MiB, 512 bytes."""
    for unit, name in ((GIB, "GiB"), (MIB, "MiB"), (KIB, "KiB")):
        if size >= unit:
            value = Decimal(size) / unit
            return f"{value:,.0f} {name}" if value >= 100 or value == int(value) else f"{value:,.1f} {name}"
    return f"{size} bytes"

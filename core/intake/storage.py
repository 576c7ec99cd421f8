"""Whether data may still be on a thing that is sold: it follows the storage that is in it, not what was ticked."""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class Storage:
    """What is known of the storage in a thing.

    `holds`: whether any of it keeps data (a hard disk, a card); None is not known. `drives`: how many drives are
    in it as it is now, None not known. `missing`: the storage is recorded as missing. `brought_in`: when storage
    from elsewhere was last fitted, and `cleared_at` when what is there was sanitised.
    """

    holds: bool | None
    drives: int | None
    missing: bool = False
    brought_in: datetime | None = None
    cleared_at: datetime | None = None


def may_hold_data(storage: Storage) -> str:
    """Why it may hold somebody's data, in words; empty when it holds none, or what is there was sanitised since.

    Sanitising follows NIST SP 800-88; what was fitted after it has to be sanitised too.
    """
    if storage.brought_in and (storage.cleared_at is None or storage.cleared_at < storage.brought_in):
        return "storage moved in from elsewhere was not sanitised"
    gone = storage.missing or storage.drives == 0
    if storage.cleared_at or (gone and not storage.brought_in):
        return ""
    if storage.holds:
        return "its storage was not sanitised"
    if storage.holds is None and storage.drives != 0:
        return "nobody recorded whether the storage in it keeps data"
    return ""

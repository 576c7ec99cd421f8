"""What dispatch does outside of requests: buyers are wiped when their time has come."""

from typing import Any

from stations.dispatch import wiping
from stations.queue.services import kinds, put, recurring

WIPE = "wipe buyers"


@kinds.add(WIPE)
def _wipe(about: dict[str, Any]) -> None:
    wiping.wipe_some()


@recurring.add("buyers")
def _buyers() -> None:
    if wiping.due().exists():
        put(WIPE, {}, once=WIPE)

"""Speaking to a marketplace over HTTP: everything may be said twice, and every answer is read with care."""

import json
from collections.abc import Mapping
from http.client import HTTPException
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.parse import quote
from urllib.request import HTTPRedirectHandler, Request, build_opener

from django.conf import settings

from stations.common.refusals import Refused
from stations.selling.models import Channel

PATIENCE = 5  # seconds
MOST_BYTES = 1_000_000
STAND_IN = "stand-in"
SOLD = "sold"


class ChannelTrouble(Refused):
    """The channel does not answer, or answers what nobody can read; in words."""


class _StayHere(HTTPRedirectHandler):
    """What we know it by goes to nobody else."""

    def redirect_request(self, *_: Any) -> None:
        return None


_opener = build_opener(_StayHere)


def address_of(channel: Channel) -> str:
    """Where it answers. Raises ChannelTrouble where nothing is set up."""
    address = settings.MARKETPLACE_URL if channel.address == STAND_IN else channel.address
    if not address:
        raise ChannelTrouble("No marketplace stands in here: start it, or give the channel an address.")
    return address.rstrip("/")


def put(channel: Channel, about: str, wanted: Mapping[str, Any]) -> str:
    """Put something up, or change it; answers how it stands there."""
    return _state(_ask(channel, "PUT", f"/v1/listings/{quote(about)}", wanted))


def end(channel: Channel, about: str) -> str:
    """Take it down; answers how it stands there."""
    return _state(_ask(channel, "DELETE", f"/v1/listings/{quote(about)}"))


def news(channel: Channel) -> tuple[list[object], int]:
    """What it has to tell since we read last, and up to where that is."""
    told = _ask(channel, "GET", f"/v1/news?after={channel.read_to}")
    found, upto = told.get("news"), told.get("next")
    if not isinstance(found, list) or not isinstance(upto, int) or isinstance(upto, bool) or upto < 0:
        raise ChannelTrouble("It answers without news that can be read.")
    return found, upto


def answer(channel: Channel, remote: str, words: Mapping[str, str]) -> None:
    """Answer a question or an offer, or refuse a sale."""
    _ask(channel, "POST", f"/v1/answers/{quote(remote)}", words)


def _state(told: Mapping[str, Any]) -> str:
    state = told.get("state")
    if state not in {"open", "ended", SOLD}:
        raise ChannelTrouble("It does not say how that stands there.")
    return state


def _ask(channel: Channel, method: str, path: str, body: Mapping[str, Any] | None = None) -> dict[str, Any]:
    request = Request(  # noqa: S310 - an owner's own setting
        address_of(channel) + path,
        method=method,
        data=None if body is None else json.dumps(body).encode(),
        headers={"Content-Type": "application/json", "Authorization": f"Bearer {channel.key}"},
    )
    try:
        with _opener.open(request, timeout=PATIENCE) as response:
            raw = response.read(MOST_BYTES + 1)
    except HTTPError as problem:
        if problem.code != 409:
            raise ChannelTrouble(f"It answers with error {problem.code}.") from problem
        raw = problem.read(MOST_BYTES + 1)
    except (URLError, OSError, HTTPException, ValueError) as problem:
        raise ChannelTrouble("It does not answer.") from problem
    if len(raw) > MOST_BYTES:
        raise ChannelTrouble("Its answer is too long.")
    try:
        told = json.loads(raw)
    except ValueError as problem:
        raise ChannelTrouble("It answers nonsense.") from problem
    if not isinstance(told, dict):
        raise ChannelTrouble("It answers nonsense.")
    return told

"""Who is let in: a program that shows the token of somebody of the shop, and asks no more often than it may."""

from django.http import HttpRequest
from ninja.errors import Throttled
from ninja.security import HttpBearer

from stations.people import tokens
from stations.people.models import ReadToken


class ByToken(HttpBearer):
    """`Authorization: Bearer …` (RFC 6750, 2.1); never in an address, which logs and histories keep."""

    def authenticate(self, request: HttpRequest, token: str) -> ReadToken | None:
        found = tokens.opened_by(token)
        if found and (wait := tokens.must_wait(found)) is not None:
            raise Throttled(wait.total_seconds())  # type: ignore[arg-type]
        return found

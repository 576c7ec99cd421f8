"""Who stands at the door, and how often somebody may try a password."""

from datetime import timedelta
from ipaddress import IPv6Address, ip_address, ip_network

from axes.handlers.database import AxesDatabaseHandler
from axes.handlers.proxy import AxesProxyHandler
from axes.helpers import get_lockout_response
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.signals import user_login_failed
from django.db.models import Sum
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from stations.people.models import Person


def address_of(request: HttpRequest) -> str | None:
    """The address that a visitor is counted by.

    X-Forwarded-For is read from the right, and only as far as each address that vouches for the next is one of the
    configured proxies: what a visitor writes into it is never believed. An IPv6 visitor counts as the /64 he has
    for himself.
    """
    hops = [request.META.get("REMOTE_ADDR", "")]
    hops += reversed(request.META.get("HTTP_X_FORWARDED_FOR", "").split(","))
    nearest = None
    for hop in hops:
        try:
            here = ip_address(hop.strip())
        except ValueError:
            break
        if isinstance(here, IPv6Address) and here.ipv4_mapped:
            here = here.ipv4_mapped
        nearest = here
        if not any(here in network for network in settings.TRUSTED_PROXIES):
            break
    if isinstance(nearest, IPv6Address):
        return str(ip_network((nearest, 64), strict=False).network_address)
    return str(nearest) if nearest else None


def may_try(request: HttpRequest, person: Person) -> bool:
    """Whether a password or a code of theirs may be tried from here now."""
    return AxesProxyHandler.is_allowed(request, {"username": person.username})


def count_wrong(request: HttpRequest, person: Person) -> None:
    """A password or a code of theirs was tried from here, and was wrong: a screen left open is a door as well."""
    user_login_failed.send(sender=__name__, credentials={"username": person.username}, request=request)


def shut(request: HttpRequest, person: Person) -> HttpResponse:
    """What is said to whoever may not try."""
    return get_lockout_response(request, credentials={"username": person.username})


class Throttle(AxesDatabaseHandler):
    """Slows two things, never for good: one name tried from one address (AXES_FAILURE_LIMIT), and many names tried
    from one address (THROTTLE_ADDRESS_LIMIT). A stranger elsewhere locks nobody out."""

    def is_locked(self, request, credentials=None) -> bool:
        return super().is_locked(request, credentials) or self._over_names(request) >= settings.THROTTLE_ADDRESS_LIMIT

    def _over_names(self, request) -> int:
        cool_off: timedelta = settings.AXES_COOLOFF_TIME
        lately = AccessAttempt.objects.filter(
            ip_address=request.axes_ip_address, attempt_time__gte=timezone.now() - cool_off
        )
        return lately.aggregate(Sum("failures_since_start"))["failures_since_start__sum"] or 0

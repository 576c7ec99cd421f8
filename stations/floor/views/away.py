"""What a device keeps for when there is no connection."""

import json

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.cache import never_cache

from stations.floor.away import MOST_PAGES, MOST_THINGS, kept_addresses

# Graphite, as the bar.
BAR, PAPER = "#1e272c", "#faf8f3"


def away(request: HttpRequest) -> HttpResponse:
    """What waits here to be sent, and which pages open; shown too in the place of a page that can't come. The device
    itself fills it in."""
    return render(request, "floor/away.html")


@login_not_required
@never_cache
def worker(request: HttpRequest) -> HttpResponse:
    """The script that stands between the pages and the shop. It comes from the top, to stand before all of them."""
    told = {
        "away": reverse("floor:away"),
        "find": reverse("floor:find"),
        "pages": kept_addresses(),
        "things": settings.STATIC_URL,
        "mostPages": MOST_PAGES,
        "mostThings": MOST_THINGS,
    }
    return render(request, "floor/away.js", {"told": json.dumps(told)}, content_type="text/javascript")


@login_not_required
def manifest(request: HttpRequest) -> HttpResponse:
    """For a device that puts the shop among its own programs (W3C: Web Application Manifest)."""
    told = {
        "name": "Wendopolis",
        "short_name": "Wendopolis",
        "description": "For workshops that refurbish vintage computers.",
        "id": reverse("floor:floor"),
        "start_url": reverse("floor:floor"),
        "scope": reverse("floor:floor"),
        "display": "standalone",
        "theme_color": BAR,
        "background_color": PAPER,
        "icons": [
            {"src": static(f"img/mark-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png", "purpose": purpose}
            for size in (192, 512)
            for purpose in ("any", "maskable")
        ],
    }
    return JsonResponse(told, content_type="application/manifest+json")

"""Whether a screen is light, dark, or as its device is set; kept on the device, since it stands where it stands."""

from django.db.models import TextChoices
from django.http import HttpRequest

COOKIE = "look"
KEPT_S = 365 * 24 * 3600


class Look(TextChoices):
    LIGHT = "light", "Light"
    DARK = "dark", "Dark"
    DEVICE = "device", "As the device"


# Where the dark colours hold. Paper is light.
MEDIA = {Look.DARK: "screen", Look.DEVICE: "screen and (prefers-color-scheme: dark)"}


def of(request: HttpRequest) -> Look:
    """How somebody wants this screen; light until they said."""
    said = request.COOKIES.get(COOKIE)
    return Look(said) if said in Look.values else Look.LIGHT

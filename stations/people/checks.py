"""What is wrong with the settings of this place, said in words before anything is served."""

from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

from babel.numbers import get_currency_precision, list_currencies
from django.conf import settings
from django.core.checks import CheckMessage, Error, Warning, register

# Where something is asked for or told elsewhere; empty: it is not.
_ADDRESSES = ("RATES_URL", "CARRIERS_URL", "MARKETPLACE_URL", "PUBLIC_URL")


@register()
def place_makes_sense(app_configs=None, **kwargs) -> list[CheckMessage]:
    return [*_currency(), *_addresses(), *_folders()]


def _currency() -> Iterator[CheckMessage]:
    if settings.BASE_CURRENCY not in list_currencies():
        said = f"WENDOPOLIS_CURRENCY: “{settings.BASE_CURRENCY}” is no currency."
        yield Error(said, hint="Three letters by ISO 4217, such as EUR.", id="wendopolis.E001")
    elif (decimals := get_currency_precision(settings.BASE_CURRENCY)) != 2:
        said = f"WENDOPOLIS_CURRENCY: the books are kept in hundredths, and {settings.BASE_CURRENCY} has "
        if decimals > 2:
            yield Error(said + "finer parts: what is paid in it could not be recorded.", id="wendopolis.E006")
        else:
            yield Warning(said + "none: tax and shares come out in parts that nobody can pay.", id="wendopolis.W002")


def _addresses() -> Iterator[CheckMessage]:
    for name in _ADDRESSES:
        address = getattr(settings, name)
        try:
            parts = urlsplit(address)
            fine = not address or (parts.scheme in {"http", "https"} and bool(parts.hostname) and parts.port != 0)
        except ValueError:
            fine = False
        if not fine:
            said = f"WENDOPOLIS_{name}: “{address}” is no address."
            yield Error(said, hint="Such as https://shop.example, or empty.", id="wendopolis.E002")


def _folders() -> Iterator[CheckMessage]:
    media, backups = (Path(folder).resolve() for folder in (settings.MEDIA_ROOT, settings.BACKUP_ROOT))
    if media == backups or (media in backups.parents and not any(p.startswith(".") for p in backups.parts)):
        yield Error(
            f"WENDOPOLIS_BACKUPS: {backups} lies within the media folder: each backup would hold all before it.",
            hint="A folder beside it, better on another disk.",
            id="wendopolis.E003",
        )
    for name, folder in (("WENDOPOLIS_MEDIA_ROOT", media), ("WENDOPOLIS_BACKUPS", backups)):
        there = next(path for path in (folder, *folder.parents) if path.exists())
        if not there.is_dir():
            yield Error(f"{name}: {there} is no folder.", id="wendopolis.E004")
    if settings.BACKUPS_KEPT < 0:
        yield Error("WENDOPOLIS_BACKUPS_KEPT: from 0 up; 0: none is made by itself.", id="wendopolis.E005")
    if settings.LABEL_PRINTER and not Path(settings.LABEL_PRINTER).is_dir():
        said = f"WENDOPOLIS_LABEL_PRINTER: there is no folder {settings.LABEL_PRINTER}; labels wait until there is."
        yield Warning(said, id="wendopolis.W001")

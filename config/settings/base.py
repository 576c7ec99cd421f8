"""What every way of running has in common. Values that differ by place come from WENDOPOLIS_* variables."""

import os
from datetime import timedelta
from ipaddress import IPv4Network, IPv6Network
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[2]


def number(name: str, usual: int) -> int:
    """A whole number out of the environment; where it is none, said in words."""
    said = os.environ.get(name, "") or str(usual)
    try:
        return int(said)
    except ValueError as problem:
        raise ImproperlyConfigured(f"{name}: “{said}” is no whole number.") from problem


INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.sitemaps",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "django_htmx",
    "axes",
    "csp",
    "stations.people",
    "stations.queue",
    "stations.backup",
    "stations.ledger",
    "stations.catalogue",
    "stations.stock",
    "stations.buying",
    "stations.units",
    "stations.intake",
    "stations.bench",
    "stations.workshop",
    "stations.selling",
    "stations.dispatch",
    "stations.books",
    "stations.day",
    "stations.api",
    "stations.floor",
    "demo",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "stations.common.saving.Saving",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "config.errors.OnlySent",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "axes.middleware.AxesMiddleware",
    "stations.floor.away.RecordedAway",
]

AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_USER_MODEL = "people.Person"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "people:sign-in"
LOGIN_REDIRECT_URL = "floor:floor"
LOGOUT_REDIRECT_URL = "people:sign-in"

AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_HANDLER = "stations.people.door.Throttle"
AXES_CLIENT_IP_CALLABLE = "stations.people.door.address_of"
# Trying on while it is closed doesn't keep it closed: it opens again in any case.
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
# Wrong passwords from one address over all names within the cool-off time.
THROTTLE_ADDRESS_LIMIT = 20
# Whose X-Forwarded-For is believed; nobody's unless configured.
TRUSTED_PROXIES: list[IPv4Network | IPv6Network] = []
AXES_LOCKOUT_TEMPLATE = "people/locked_out.html"
AXES_RESET_ON_SUCCESS = True

ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "config" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "stations.common.currency.in_templates",
                "stations.floor.context.shell",
            ],
            "builtins": ["stations.common.templatetags.shell"],
            "libraries": {
                "figures": "stations.common.templatetags.figures",
                "paging": "stations.common.templatetags.paging",
                "words": "stations.common.templatetags.words",
            },
        },
    }
]

DATABASES = {
    "default": dj_database_url.parse(
        os.environ.get("WENDOPOLIS_DATABASE_URL", "mysql://wendopolis@127.0.0.1:3306/wendopolis"), conn_max_age=60
    )
}
DATABASES["default"]["CONN_HEALTH_CHECKS"] = True
DATABASES["default"].setdefault("OPTIONS", {}).update(
    {
        "charset": "utf8mb4",
        "init_command": "SET sql_mode='STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO'",
        "isolation_level": "read committed",
    }
)
DATABASES["default"]["TEST"] = {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

LANGUAGE_CODE = "en-gb"
# The currency of the books, by its code (ISO 4217); it is never changed once there is an entry in them.
BASE_CURRENCY = os.environ.get("WENDOPOLIS_CURRENCY", "EUR")
TIME_ZONE = os.environ.get("WENDOPOLIS_TIME_ZONE", "Europe/Berlin")
USE_TZ = True
USE_I18N = False

STATIC_URL = "/static/"
# What is made here: another folder may be named for another shop of one checkout.
VAR = Path(os.environ.get("WENDOPOLIS_VAR") or ROOT / "var")
STATIC_ROOT = Path(os.environ.get("WENDOPOLIS_STATIC_ROOT", VAR / "static"))
STATICFILES_DIRS = [ROOT / "static"]
MEDIA_ROOT = Path(os.environ.get("WENDOPOLIS_MEDIA_ROOT", VAR / "media"))

# Where backups lie, and how many of them; 0: none is made by itself. A folder on another disk is better.
BACKUP_ROOT = Path(os.environ.get("WENDOPOLIS_BACKUPS") or VAR / "backups")
BACKUPS_KEPT = number("WENDOPOLIS_BACKUPS_KEPT", 5)

# Where carriers’ prices are asked for (see simulators/README.md for the form); empty: they are typed.
CARRIERS_URL = os.environ.get("WENDOPOLIS_CARRIERS_URL", "")
# Where the simulated marketplace answers; a channel whose address is “stand-in” is sold through there.
MARKETPLACE_URL = os.environ.get("WENDOPOLIS_MARKETPLACE_URL", "")
# How the public shop is reached from outside, for marketplaces and printed cards; empty: as the page was asked for.
PUBLIC_URL = os.environ.get("WENDOPOLIS_PUBLIC_URL", "").rstrip("/")
# Where exchange rates are asked for (see docs/deploying.md); empty: they are typed.
RATES_URL = os.environ.get("WENDOPOLIS_RATES_URL", "")

# First of the three ports of the simulated bench: what an instrument at “stand-in” 1, 2 or 3 means.
STAND_IN_PORT = number("WENDOPOLIS_INSTRUMENTS_PORT", 8205)

# A folder that a label printer watches; empty: labels are printed as PDF.
LABEL_PRINTER = os.environ.get("WENDOPOLIS_LABEL_PRINTER", "")

# Uploads: 25 MB and 40 megapixels a picture (see stations/units/photos.py).
DATA_UPLOAD_MAX_MEMORY_SIZE = 5 * 1024 * 1024
DATA_UPLOAD_MAX_NUMBER_FIELDS = 5000

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "media-src": [SELF],
        "font-src": [SELF],
        "manifest-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}

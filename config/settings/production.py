"""A server of one's own, behind TLS. See docs/deploying.md."""

import os
from ipaddress import ip_network

from django.core.exceptions import ImproperlyConfigured

from config.settings.base import *  # noqa: F403


def _must(name: str) -> str:
    value = os.environ.get(name, "")
    if not value:
        raise ImproperlyConfigured(f"Set {name}: the production settings don't guess it.")
    return value


DEBUG = False
SECRET_KEY = _must("WENDOPOLIS_SECRET_KEY")
ALLOWED_HOSTS = _must("WENDOPOLIS_ALLOWED_HOSTS").split(",")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
_must("WENDOPOLIS_DATABASE_URL")

SECURE_SSL_REDIRECT = True
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_HSTS_SECONDS = 60 * 60 * 24 * 365
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
try:
    TRUSTED_PROXIES = [
        ip_network(word.strip()) for word in _must("WENDOPOLIS_PROXIES").split(",") if word.strip() != "none"
    ]
except ValueError as problem:
    raise ImproperlyConfigured(f"WENDOPOLIS_PROXIES: {problem}. Write addresses or networks, or none.") from problem
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

"""One workshop, one machine, loopback only: bin/start and the tests."""

import os

from config.settings.base import *  # noqa: F403

DEBUG = False
SECRET_KEY = os.environ.get("WENDOPOLIS_SECRET_KEY", "only-for-tests-and-tools-on-this-machine")
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", "testserver"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_USE_FINDERS = True

"""The desk settings with a quick password hash and throw-away files."""

import tempfile
from pathlib import Path

from config.settings.desk import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
# What the processes of one run share: the demo shop, put up once.
SHARED_ROOT = tempfile.mkdtemp(prefix="wendopolis-test-")
MEDIA_ROOT = f"{SHARED_ROOT}/media"
Path(MEDIA_ROOT).mkdir()
BACKUP_ROOT = f"{MEDIA_ROOT}/.backups"
# None is made by itself, beside whatever a test has to do.
BACKUPS_KEPT = 0
LOGGING = {"version": 1, "disable_existing_loggers": False, "root": {"level": "CRITICAL"}}

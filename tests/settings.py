"""The desk settings with a quick password hash and throw-away files."""

import tempfile

from config.settings.desk import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
MEDIA_ROOT = tempfile.mkdtemp(prefix="wendopolis-test-")
BACKUP_ROOT = f"{MEDIA_ROOT}/.backups"
# None is made by itself, beside whatever a test has to do.
BACKUPS_KEPT = 0
LOGGING = {"version": 1, "disable_existing_loggers": False, "root": {"level": "CRITICAL"}}

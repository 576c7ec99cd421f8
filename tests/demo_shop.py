"""The demo shop, put up once in a run of the tests and copied from then on.

What the first test that wants it has loaded is kept as rows in a file, with its pictures and sounds; the others, in
whatever process, put them into their own database and folder.
"""

import fcntl
import pickle
import shutil
from io import StringIO
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.db import connection, transaction


def put_up() -> None:
    """Load the demo shop into a database that is empty but for what migrations put there."""
    shared = Path(settings.SHARED_ROOT)
    kept, files = shared / "demo-shop.pickle", shared / "demo-shop-media"
    with (shared / "demo-shop.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            call_command("load_demo", stdout=StringIO())
            shutil.copytree(settings.MEDIA_ROOT, files)
            kept.write_bytes(pickle.dumps(_rows()))
            return
    shutil.copytree(files, settings.MEDIA_ROOT, dirs_exist_ok=True)
    with transaction.atomic(), connection.constraint_checks_disabled(), connection.cursor() as cursor:
        for insert, rows in pickle.loads(kept.read_bytes()):
            cursor.executemany(insert, rows)


def _rows() -> list[tuple[str, list[tuple]]]:
    """What every table of the shop holds, with what puts it into another: a row that is there already stays."""
    quote, found = connection.ops.quote_name, []
    with connection.cursor() as cursor:
        for model in apps.get_models(include_auto_created=True):
            if not model.__module__.startswith("stations."):
                continue
            columns = [field.column for field in model._meta.local_concrete_fields]
            names, table = ", ".join(map(quote, columns)), quote(model._meta.db_table)
            cursor.execute(f"SELECT {names} FROM {table}")
            if rows := cursor.fetchall():
                found.append(
                    (f"INSERT IGNORE INTO {table} ({names}) VALUES ({', '.join(['%s'] * len(columns))})", list(rows))
                )
    return found

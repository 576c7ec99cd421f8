"""The tables of the test database, as all migrations leave them: kept in its server from one run to the next.

They are made anew when a migration, or a package that brings some, has changed.
"""

import hashlib
from pathlib import Path

from django.db import connection

ROOT = Path(__file__).resolve().parent.parent


def _made_of() -> str:
    """What the tables come from, as a short name of its content."""
    files = (ROOT / "requirements.txt", *sorted(ROOT.glob("stations/*/migrations/*.py")))
    return hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()[:32]


class KeptTables:
    """Before and after Django's own making of the test databases."""

    def __init__(self) -> None:
        self.creation = connection.creation
        self.name = self.creation._get_test_db_name()
        self.kept = f"{self.name}_as_migrated"

    def lay_out(self) -> bool:
        """Put what was kept where the tests look for it, and nothing else there; false where it is of another day."""
        with self.creation._nodb_cursor() as cursor:
            cursor.execute("SELECT schema_name, schema_comment FROM information_schema.schemata")
            there = dict(cursor.fetchall())
            usable = there.get(self.kept) == _made_of()
            for left in there:
                # What a run that was killed has left behind goes too.
                if left.startswith(self.name) and not (usable and left == self.kept):
                    cursor.execute(f"DROP DATABASE `{left}`")
            if usable:
                cursor.execute(f"CREATE DATABASE `{self.name}` {self.creation.sql_table_creation_suffix()}")
        if usable:
            self.creation._clone_db(self.kept, self.name)
        return usable

    def keep(self) -> None:
        """Whole, or not at all: what it is made of is written down last."""
        with self.creation._nodb_cursor() as cursor:
            cursor.execute(f"CREATE DATABASE `{self.kept}` {self.creation.sql_table_creation_suffix()}")
            self.creation._clone_db(self.name, self.kept)
            cursor.execute(f"ALTER DATABASE `{self.kept}` COMMENT = %s", [_made_of()])

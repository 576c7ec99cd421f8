"""The tables of the test database, as all migrations leave them: kept in its server from one run to the next.

They are made anew when a migration, or a package that brings some, has changed.
"""

import hashlib
from pathlib import Path

from django.db import connection

ROOT = Path(__file__).resolve().parent.parent
TRIES = 3


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
        self.copy = self.creation._clone_db
        # Django’s own copies, one for each process, are looked at too.
        self.creation._clone_db = self.copy_whole

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
            self.copy_whole(self.kept, self.name)
        return usable

    def keep(self) -> None:
        """Whole, or not at all: what it is made of is written down last."""
        with self.creation._nodb_cursor() as cursor:
            cursor.execute(f"CREATE DATABASE `{self.kept}` {self.creation.sql_table_creation_suffix()}")
            self.copy_whole(self.name, self.kept)
            cursor.execute(f"ALTER DATABASE `{self.kept}` COMMENT = %s", [_made_of()])

    def copy_whole(self, source: str, target: str) -> None:
        """Django pipes a dump into the server and asks neither end how it went: a copy that was cut short is seen, and
        made again."""
        wanted = self._holds(source)
        for _ in range(TRIES):
            self.copy(source, target)
            if self._holds(target) == wanted:
                return
        raise RuntimeError(f"{target} holds {self._holds(target)} of the {wanted} tables and triggers of {source}.")

    def _holds(self, database: str) -> tuple[int, int]:
        with self.creation._nodb_cursor() as cursor:
            counts = []
            for kind, of in (("tables", "table_schema"), ("triggers", "trigger_schema")):
                cursor.execute(f"SELECT COUNT(*) FROM information_schema.{kind} WHERE {of} = %s", [database])
                counts.append(cursor.fetchone()[0])
        return counts[0], counts[1]

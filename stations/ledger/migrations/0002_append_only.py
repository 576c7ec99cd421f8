"""The database itself refuses to change or delete an entry.

Only a session that says so on purpose (a test that empties its own database, a restore) may:
SET @wendopolis_ledger_unlocked = 1.
"""

from django.db import migrations

TRIGGER = """
CREATE TRIGGER ledger_entry_no_{verb} BEFORE {verb} ON ledger_ledgerentry FOR EACH ROW
IF @wendopolis_ledger_unlocked IS NULL THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'The ledger is append-only: post a reversal instead.';
END IF
"""


class Migration(migrations.Migration):
    dependencies = [("ledger", "0001_initial")]
    operations = [
        migrations.RunSQL([TRIGGER.format(verb=verb)], [f"DROP TRIGGER IF EXISTS ledger_entry_no_{verb}"])
        for verb in ("update", "delete")
    ]

from django.core.management.base import BaseCommand, CommandError

from stations.books.selectors import complaints
from stations.ledger.models import LedgerEntry, Posting


class Command(BaseCommand):
    help = "Prove that every cent paid stands somewhere; says what does not add up and ends with an error if anything."

    def handle(self, *args, **options):
        found = complaints()
        for complaint in found:
            self.stderr.write(f"{complaint.what}: {complaint.words}")
        counted = f"{Posting.objects.count()} postings, {LedgerEntry.objects.count()} entries"
        if found:
            raise CommandError(f"The books do not add up: {len(found)} complaints over {counted}.")
        self.stdout.write(f"The books add up: {counted}.")

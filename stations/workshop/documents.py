"""What the workshop's papers post: labour, parts issued, parts recovered."""

from collections.abc import Iterator

from stations.ledger.documents import Document, documents
from stations.ledger.models import EntryKind
from stations.workshop.models import LabourEntry, PartIssue, RecoveredPart


@documents.add("labour")
def labour() -> Iterator[Document]:
    for entry in LabourEntry.objects.filter(ended_at__isnull=False):
        yield Document(f"labour {entry.pk}", entry.posting_id, {EntryKind.LABOUR: entry.cost})


@documents.add("part issue")
def issues() -> Iterator[Document]:
    for issue in PartIssue.objects.all():
        yield Document(f"parts {issue.pk}", issue.posting_id, {EntryKind.PART_ISSUED: issue.cost})


@documents.add("recovered part")
def recovered() -> Iterator[Document]:
    for part in RecoveredPart.objects.all():
        yield Document(f"recovered {part.pk}", part.posting_id, {EntryKind.PART_RECOVERED: -part.cost})

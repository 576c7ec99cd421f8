"""What goes out as CSV, so that a spreadsheet opens it as text and numbers and never as formulas."""

import csv
from collections.abc import Iterable, Sequence

from django.http import HttpResponse

_BEGINS = ("=", "+", "-", "@", "\t", "\r")


def harmless(cell):
    """The cell, marked as text when it would begin a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(_BEGINS) else cell


def csv_answer(name: str, head: Sequence[str], rows: Iterable[Sequence]) -> HttpResponse:
    """A CSV file as a download, every cell harmless."""
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    answer.write("\ufeff")
    writer = csv.writer(answer)
    writer.writerow(head)
    for row in rows:
        writer.writerow(map(harmless, row))
    return answer


def unmarked(cell: str) -> str:
    """What `harmless` was given, when a file of ours comes back."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(_BEGINS) else cell

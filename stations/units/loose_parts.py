"""Single parts that lie in drawers, as a list and as a file."""

from collections.abc import Iterator

from django.core.paginator import Paginator
from django.db.models import QuerySet

from stations.ledger.models import Account
from stations.ledger.selectors import balances
from stations.units.models import Part

FILE_HEAD = ("code", "kind", "name", "serial", "revision", "setting", "drawer", "condition", "from", "worth", "cost")


def loose() -> QuerySet[Part]:
    """Single parts that lie in drawers."""
    rows = Part.objects.filter(unit=None, gone_at=None).select_related("came_from")
    return rows.order_by("drawer", "name", "id")


def file_rows() -> Iterator[tuple]:
    """Every single part in a drawer, as FILE_HEAD says; empty for what nobody knows."""
    for page in Paginator(loose(), 500):
        rows = list(page)
        own = balances(Account.PART, [part.pk for part in rows])
        for part in rows:
            said = (part.code, part.kind, part.name, part.serial, part.revision, part.setting, part.drawer)
            came = part.came_from.tag if part.came_from else ""
            yield (*said, part.condition, str(came), "" if part.worth is None else part.worth, own[part.pk])

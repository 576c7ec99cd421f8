"""The books are kept in one currency for good: a setting that says another one is told before anything is written."""

from django.conf import settings
from django.core.checks import CheckMessage, Error, Tags, register
from django.db import DatabaseError

from stations.buying.models import LotCharge


@register(Tags.database)
def books_are_in_this_currency(app_configs=None, databases=None, **kwargs) -> list[CheckMessage]:
    """Billed at a rate of one is what is billed in the currency of the books: where nothing is in the one that is set,
    and something in another, that is the one."""
    found: list[CheckMessage] = []
    for name in databases or ():
        billed = LotCharge.objects.using(name).filter(rate=1)
        try:
            if billed.filter(currency=settings.BASE_CURRENCY).exists():
                continue
            kept_in = billed.order_by("-id").values_list("currency", flat=True).first()
        except DatabaseError:
            # No tables yet.
            continue
        if kept_in:
            said = (
                f"WENDOPOLIS_CURRENCY says {settings.BASE_CURRENCY}; the books of this database are kept in {kept_in}."
            )
            found.append(Error(said, hint=f"Set it to {kept_in}.", id="wendopolis.E010"))
    return found

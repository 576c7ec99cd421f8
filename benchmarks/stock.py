"""How long the stock takes with 200 and with 20,000 kinds of part, as multiples of an empty page on the same server.

bin/bench runs it after the pages.
"""

import random
import sys
from decimal import Decimal

from django.test import Client
from django.test.runner import DiscoverRunner
from django.utils import timezone

from benchmarks.pages import seconds  # sets Django up
from stations.catalogue.models import MachineModel
from stations.ledger.models import Account, EntryKind, LedgerEntry, Posting
from stations.people.models import Person, PersonRole, Role
from stations.people.shop_settings import settings
from stations.stock.models import StockItem

KINDS = ("Logic chip", "Memory chip", "Capacitor", "Drive belt", "Keycap", "Serial card", "Socket", "Fuse", "Standoff")
PAGES = (
    "/workshop/stock/",
    "/workshop/stock/?page=8",
    "/workshop/stock/?q=belt+147",
    "/workshop/stock/found/?q=belt+147",
    "/workshop/stock/found/?q=belt",
    "/workshop/stock/found/?q=nothing+so",
    "/workshop/stock/found/?fits={model}",
    "/workshop/stock/?low=on",
    "/workshop/stock/{item}/",
)


def fill(count: int, who: Person, models: list[MachineModel]) -> None:
    """So many kinds of part, each bought once; one in five fits a machine, one in fifty is at its level."""
    dice, now, start = random.Random(3), timezone.now(), StockItem.objects.count()
    items = StockItem.objects.bulk_create(
        [
            StockItem(
                name=f"{KINDS[n % len(KINDS)]} {n}",
                condition="new",
                drawer=f"D{n % 400}",
                quantity=dice.randint(1, 90),
                reorder_at=Decimal(95 if n % 50 == 0 else 0) if n % 5 == 0 else None,
            )
            for n in range(start, start + count)
        ],
        batch_size=2000,
    )
    items = list(StockItem.objects.order_by("-pk")[: len(items)])
    posting = Posting.objects.create(when=now, happened_on=now.date(), who=who, document="bought")
    LedgerEntry.objects.bulk_create(
        [
            LedgerEntry(
                posting=posting,
                account=account,
                account_id=item.pk * there,
                kind=kind,
                amount=amount,
                happened_on=now.date(),
            )
            for item in items
            for account, there, kind, amount in (
                (Account.STOCK, 1, EntryKind.PURCHASE, Decimal(5)),
                (Account.CASH, 0, EntryKind.PURCHASE, Decimal(-5)),
            )
        ],
        batch_size=2000,
    )
    through = StockItem.fits.through
    through.objects.bulk_create(
        [
            through(stockitem_id=item.pk, machinemodel_id=models[n % len(models)].pk)
            for n, item in enumerate(items)
            if n % 5 == 0
        ],
        batch_size=2000,
    )


def measure(client: Client, models: list[MachineModel]) -> dict[str, float]:
    empty = seconds(client, "/keys/")
    names = {"model": models[0].pk, "item": StockItem.objects.order_by("-pk")[0].pk}
    # What is typed into the box fetches the rows alone, as htmx asks for them.
    typing = Client(headers={"hx-request": "true"})
    typing.cookies = client.cookies
    return {path: seconds(typing if "/found/" in path else client, path.format(**names)) / empty for path in PAGES}


def main(most: int) -> None:
    runner = DiscoverRunner(interactive=False, verbosity=0)
    databases = runner.setup_databases()
    try:
        who = Person.objects.create_user("bench")
        PersonRole.objects.create(person=who, role=Role.OWNER)
        settings()
        models = [
            MachineModel.objects.create(maker="Corvane", name=f"Stack {n}", form_factor="tower") for n in range(40)
        ]
        client = Client()
        client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")
        fill(200, who, models)
        small = measure(client, models)
        fill(most, who, models)
        large = measure(client, models)
    finally:
        runner.teardown_databases(databases)
    print(f"{'stock':34} {'200 kinds':>12} {f'{most} kinds':>14} {'growth':>8}   (times an empty page)")
    for path in small:
        print(f"{path:34} {small[path]:12.1f} {large[path]:14.1f} {large[path] / small[path]:8.2f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000)

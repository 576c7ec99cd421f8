"""How long the public shop and the selling station take with many units on offer, as multiples of an empty page.

    bin/bench          fills a throw-away database with 200, then 20,000 units on offer

Wanted: the first page of the shop within 3 empty pages, a search within 3, at 20,000 units.
"""

import sys
from datetime import timedelta
from decimal import Decimal

from django.test import Client
from django.test.runner import DiscoverRunner
from django.utils import timezone

from benchmarks.pages import fill, seconds
from core.flow.stage import Stage, State
from stations.buying.models import Supplier
from stations.catalogue.models import MachineModel
from stations.people.models import Person, PersonRole, Role
from stations.people.shop_settings import settings
from stations.selling.models import Channel, Listing, ListingWord, Placement
from stations.selling.placing import words_of
from stations.units.models import Unit

WORDS = ("Corvane", "Tessaly", "Halden", "Orrin", "Pellmark", "Desk", "Tower", "Portable", "Micro", "View")
PAGES = (
    "/shop/",
    "/shop/?page=90",
    "/shop/?q=tessaly+tower+64",
    "/shop/?q=portable",
    "/shop/?q=zzz",
    "/shop/?state=tested&most=120",
    "/shop/?shape=tower&order=cheapest",
    "/shop/feed.atom",
    "/selling/",
    "/selling/offers/",
    "/selling/bundles/",
    "/selling/channels/",
)


def offer_all(channels: list[Channel]) -> None:
    """Everything in the shop that is not on offer yet is."""
    Unit.objects.exclude(listing__isnull=False).update(stage=Stage.LISTED, state=State.MOVING, station="selling")
    now, rows = timezone.now(), []
    for number, pk in Unit.objects.filter(listing=None).values_list("number", "pk"):
        words = [WORDS[number % 10], WORDS[number // 10 % 10], str(8 + number // 100 % 120)]
        rows.append(
            Listing(
                unit_id=pk,
                channel=channels[0],
                asking=Decimal(40 + number % 200),
                title=" ".join(words),
                text="A machine.",
                status="live",
                grade="ABC"[number % 3],
                shape="tower",
                on_show=True,
                published_at=now - timedelta(minutes=number),
                looked_at=now,
                stale=int(number % 50 == 0),
                ask_now=Decimal(30) if number % 40 == 0 else None,
                gains=Decimal(number % 30),
            )
        )
    Listing.objects.bulk_create(rows, batch_size=1000)
    known = set(ListingWord.objects.values_list("listing", flat=True))
    words = ((pk, word) for pk, title in Listing.objects.values_list("pk", "title") for word in words_of(title))
    ListingWord.objects.bulk_create(
        (ListingWord(listing_id=pk, word=word) for pk, word in words if pk not in known), batch_size=2000
    )
    placed = set(Placement.objects.values_list("unit_id", flat=True))
    Placement.objects.bulk_create(
        (
            Placement(
                unit_id=row.unit_id, channel=channel, wanted=True, stands=True, turn=1, confirmed=1, changed_at=now
            )
            for row in rows
            for channel in channels
            if row.unit_id not in placed
        ),
        batch_size=1000,
    )


def measure(client: Client) -> dict[str, float]:
    """As multiples of an empty page (the list of keys, as in benchmarks/pages); the shop’s as a visitor has them."""
    visitor = Client()
    empty, words = seconds(client, "/keys/"), seconds(visitor, "/shop/about/buying/")
    print(f"an empty page {empty * 1000:.1f} ms; a page of words of the shop {words * 1000:.1f} ms")
    return {path: seconds(visitor if path.startswith("/shop/") else client, path) / empty for path in PAGES}


def main(most: int) -> None:
    runner = DiscoverRunner(interactive=False, verbosity=0)
    databases = runner.setup_databases()
    try:
        who = Person.objects.create_user("bench")
        PersonRole.objects.create(person=who, role=Role.OWNER)
        settings()
        kinds = Channel.Kind
        channels = [
            Channel.objects.create(name="Shop page", kind=kinds.SHOP),
            Channel.objects.create(name="Quay market", kind=kinds.MARKET, address="stand-in"),
        ]
        model = MachineModel.objects.create(maker="Corvane", name="Stack 4", form_factor="tower")
        supplier = Supplier.objects.create(name="Quayside sale room")
        client = Client()
        client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")
        fill(200, who, model, supplier)
        offer_all(channels)
        small = measure(client)
        fill(most, who, model, supplier)
        offer_all(channels)
        large = measure(client)
    finally:
        runner.teardown_databases(databases)
    print(f"{'page':36} {'200 units':>12} {f'{most} units':>14} {'growth':>8}   (times an empty page)")
    for path in small:
        print(f"{path:36} {small[path]:12.1f} {large[path]:14.1f} {large[path] / small[path]:8.2f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000)

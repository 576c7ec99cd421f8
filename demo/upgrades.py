"""A bare desk that is to become something, offers of sellers, and sales that say what was in them."""

from datetime import datetime, timedelta
from decimal import Decimal

from core.flow.stage import GONE, Stage
from core.intake.completeness import Presence
from core.stock.parts import PartKind
from core.workshop.upgrades.best import Limits
from core.workshop.upgrades.features import read_feature
from demo.days import Hand
from stations.people.models import Person
from stations.selling.models import Comparable
from stations.units import fitting, offers, parts
from stations.units.models import Content, Unit
from stations.units.parts import Described, Place
from stations.workshop import upgrades


def worth(runa: Person, tobin: Person, now: datetime) -> None:
    """The third desk of a lot stands bare: what it should become is planned, and kept."""
    _offers(Hand(runa, now - timedelta(days=3), "offers of parts"))
    _sales()
    desk = _bare(tobin, now - timedelta(hours=4))
    if desk is None:
        return
    musts = [read_feature(name) for name in ("memory 2 MiB", "disk 40 MB", "network")]
    hand = Hand(tobin, now - timedelta(hours=2), "what if")
    found = upgrades.found_for(desk, "", Limits(Decimal(60), 120), musts)
    hand.do(upgrades.keep_what_if, found, musts)


def _offers(hand: Hand) -> None:
    for want, seller, each, days in (
        ("Disk 40 MB, 16-bit", "Quay surplus", "9.00", 5),
        ("Disk 1.2 GB, 16-bit", "Saltgate bits", "14.00", 3),
        ("Orrin diskette drive, grey front", "Saltgate bits", "48.00", 3),
        ("Diskette reader for memory cards", "Quay surplus", "23.00", 5),
    ):
        quote = offers.Quote(want, seller, Decimal(each), days=days, postage=Decimal("4.50"))
        hand.do(offers.note_offer, quote)


def _sales() -> None:
    """Of what such desks fetched elsewhere: what was in them, and who bought them."""
    had: tuple[tuple[list[str], str], ...] = (
        (["sound", "memory 4 mib", "disk 40 mb"], "games"),
        (["disk 40 mb"], "work"),
        (["sound", "memory 4 mib", "memory 8 mib", "disk 40 mb", "disk 100 mb"], "games"),
        (["network", "disk 40 mb"], "daily"),
        ([], ""),
        (["disk 40 mb", "maths chip"], "work"),
        (["sound"], "games"),
        (["memory 4 mib"], ""),
        (["sound", "network"], "games"),
        ([], "games"),
    )
    rows = Comparable.objects.filter(model__name="Desk 16").order_by("-price", "id")
    for row, (features, buyer) in zip(rows, had, strict=False):
        Comparable.objects.filter(pk=row.pk).update(features=features, buyer=buyer)


def _bare(tobin: Person, now: datetime) -> Unit | None:
    """A desk with a processor and a display card and nothing else, its diskette drive missing."""
    here = Unit.objects.filter(model__name="Desk 16", holding="owned").exclude(stage__in=(*GONE, Stage.LISTED))
    desk = here.filter(parts=None).exclude(stage=Stage.GRADED).order_by("number").first()
    if desk is None:
        return None
    hand = Hand(tobin, now, "bare")
    for kind, name, slot in (
        (PartKind.CHIP, "Processor 16 MHz", "processor"),
        (PartKind.CARD, "Display card, 16-bit", "2"),
    ):
        hand.do(parts.record_part, Place(desk, slot), Described(kind, name, keeps_data=False))
    hand.do(fitting.say_whole, desk, True)
    Content.objects.get_or_create(
        unit=desk, name="diskette drive", defaults={"weight": 3, "presence": Presence.MISSING.value}
    )
    return desk

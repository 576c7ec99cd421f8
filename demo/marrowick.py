"""The demo shop: a two-bench workshop in the invented harbour town of Marrowick, the same every time.

Dates are counted back from today. Everything is done by the services the screens call.
"""

import random
from datetime import datetime, time, timedelta
from decimal import Decimal

from django.utils import timezone

from core.buying.rates import read_rates
from demo import care, day, dispatch, fit, parts, recipes, selling, storage, strip_downs, upgrades
from demo.bank import ESTIMATES, MODELS, NOTES, PARTS, PATTERNS, RULES, SUPPLIERS
from demo.days import Hand
from demo.norrvik import Shop
from simulators import rates as source
from stations.buying import rates
from stations.buying.models import Supplier
from stations.catalogue.models import ExpectedItem, MachineModel, SerialPattern, VariantRule
from stations.common import clock
from stations.people.models import Person, PersonRole, Role
from stations.people.shop_settings import settings
from stations.selling.models import Channel, Comparable
from stations.selling.remote import STAND_IN
from stations.stock import services as stock
from stations.stock.models import StockItem

# Nobody answers at the discard port of this machine: a channel that is down.
SILENT = "http://127.0.0.1:9"
PEOPLE = (
    ("runa", "Runa", "Kjell", "harbour-runa", (Role.OWNER, Role.BUYER, Role.TECHNICIAN, Role.SELLER)),
    ("tobin", "Tobin", "Ashe", "harbour-tobin", (Role.TECHNICIAN,)),
    ("vera", "Vera", "Lund", "harbour-vera", (Role.VIEWER,)),
)


def load() -> None:
    """Fill an empty shop."""
    runa, tobin = _people()
    _shop()
    models = _bank()
    morning = timezone.localtime(clock.now()).replace(hour=9, minute=10, second=0, microsecond=0)
    # The last things happen up to three hours later.
    now = morning if morning + timedelta(hours=3) <= clock.now() else morning - timedelta(days=1)
    # Nothing is told of that is older than 140 days, also where the last things happened yesterday.
    dispatch.set_up(runa, now - timedelta(days=138))
    _stock(Hand(runa, now - timedelta(days=130), "stock"))
    _comparables(models, now)
    rates.keep(read_rates(source.listing(now.date(), source.DAYS).encode()))
    shop = Shop(runa, tobin, models, now)
    for lot in (
        shop.school_attic,
        shop.radio_room,
        shop.insurance_office,
        shop.college_room,
        shop.saltgate_gift,
        shop.museum_custody,
        shop.norrvik_crate,
        shop.planned_bids,
        shop.only_closed_up,
        shop.shelf,
    ):
        lot()
    strip_downs.of_the_models(runa)
    strip_downs.standing_open(tobin, now + timedelta(minutes=75))
    strip_downs.as_set(tobin, now + timedelta(minutes=60))
    strip_downs.treatment_note(tobin, now + timedelta(minutes=70))
    parts.known_to_fail(runa, now)
    parts.drawers(runa, tobin, now)
    parts.parcels(runa, now)
    fit.known(runa, now)
    fit.fitted(tobin, now)
    parts.bag_of_cards(runa, now, shop.bag_of_cards())
    parts.donor_and_patient(tobin, now)
    parts.disk_that_moved(tobin, now)
    parts.single(runa, tobin, now)
    parts.found_bad(tobin, now)
    parts.held(tobin, now)
    upgrades.worth(runa, tobin, now)
    care.under_way(tobin, now)
    storage.planned(tobin, now)
    recipes.offered(runa, now - timedelta(days=1))
    recipes.known(tobin, now - timedelta(days=2))
    recipes.drying(tobin, now - timedelta(minutes=40))
    strip_downs.forgotten_clock(tobin, now - timedelta(days=1))
    selling.on_offer(shop)
    selling.since(runa, tobin, now)
    selling.on_channels(runa, now)
    dispatch.after_sales(shop)
    day.planned(runa, tobin, clock.now())


def _people() -> tuple[Person, Person]:
    made = []
    for username, first, last, password, roles in PEOPLE:
        person = Person.objects.create_user(username, password=password, first_name=first, last_name=last)
        PersonRole.objects.bulk_create(PersonRole(person=person, role=role) for role in roles)
        made.append(person)
    return made[0], made[1]


def _shop() -> None:
    row = settings()
    type(row).objects.filter(pk=row.pk).update(
        version=2,
        name="Marrowick workshop",
        closes_at=time(18),
        latitude=Decimal("54.5"),
        longitude=Decimal("3.0"),
        tax_scheme="global",
        tax_percent=Decimal("20.00"),
    )
    kinds, owner = Channel.Kind, Person.objects.filter(roles__role=Role.OWNER).first()
    for name, percent, fixed, kind, address in (
        ("Shop page", "2.50", "0.30", kinds.SHOP, ""),
        ("Quay market", "9.00", "0.35", kinds.MARKET, STAND_IN),
        ("Table at the autumn fair", "0.00", "0.00", kinds.FAIR, ""),
        ("Ferry board", "4.00", "0.00", kinds.MARKET, SILENT),
    ):
        fees = {"fee_percent": Decimal(percent), "fee_fixed": Decimal(fixed)}
        Channel.objects.create(name=name, kind=kind, address=address, set_up_by=owner, **fees)
    for name, place in SUPPLIERS:
        Supplier.objects.create(name=name, place=place)


def _bank() -> dict[str, MachineModel]:
    made = {}
    for m in MODELS:
        row = MachineModel.objects.create(
            maker=m.maker,
            name=m.name,
            form_factor=m.form_factor,
            year_from=m.years[0],
            year_to=m.years[1],
            width_mm=m.size[0],
            height_mm=m.size[1],
            depth_mm=m.size[2],
            supply=m.supply,
            battery=m.battery,
            picture_tube=m.tube,
            drives=m.drives,
            keyboard=m.keyboard,
            keeps_data=m.drives > 0,
            needs_cell=m.needs_cell,
            **NOTES.get(f"{m.maker} {m.name}", {}),
        )
        ExpectedItem.objects.bulk_create(
            ExpectedItem(model=row, name=name, weight=weight, estimate=Decimal(ESTIMATES.get(name, "0")))
            for name, weight in m.expected
        )
        made[str(row)] = row
    SerialPattern.objects.bulk_create(SerialPattern(maker=m, pattern=p, note=note) for m, p, note in PATTERNS)
    VariantRule.objects.bulk_create(VariantRule(maker=m, base=b, at_base=x, at_next=y) for m, b, x, y in RULES)
    return made


def _stock(hand: Hand) -> None:
    for name, condition, drawer, count, paid, modern in PARTS:
        item = StockItem.objects.create(name=name, condition=condition, drawer=drawer, modern=modern)
        hand.do(stock.buy_stock, item, count, Decimal(paid))


def _comparables(models: dict[str, MachineModel], now: datetime) -> None:
    dice = random.Random("comparables")
    prices = {f"{m.maker} {m.name}": m.price for m in MODELS}
    worth = {"A": 1.25, "B": 1.0, "C": 0.78, "D": 0.5, "parts": 0.22, "untested": 0.55}
    rows = []
    for name, model in models.items():
        for _ in range(2 if name == "Pellmark Term 220" else dice.randrange(8, 16)):
            grade = dice.choice(("A", "B", "B", "B", "C", "C", "D", "untested", "parts"))
            currency, rate = dice.choice((("EUR", "1"), ("EUR", "1"), ("GBP", "1.17"), ("SEK", "0.088")))
            base = prices[name] * worth[grade] * dice.lognormvariate(0, 0.16)
            rows.append(
                Comparable(
                    model=model,
                    sold_on=(now - timedelta(days=dice.randrange(4, 420))).date(),
                    grade=grade,
                    completeness=dice.choice((60, 75, 90, 100, 100)),
                    currency=currency,
                    rate=Decimal(rate),
                    price=Decimal(round(base / float(rate))),
                    channel=dice.choice(("Quay market", "Northferry auctions", "fair")),
                )
            )
    Comparable.objects.bulk_create(rows)

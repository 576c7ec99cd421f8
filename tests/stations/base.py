"""A small shop on the real database, and hands that call the services the screens call."""

import sys
import threading
import traceback
from dataclasses import fields, replace
from datetime import timedelta
from decimal import Decimal

from django.core.management import call_command
from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from core.buying.landed import USUAL_CHARGES, usual_charges
from core.buying.share import Basis
from stations.books.selectors import complaints
from stations.buying import services as buying
from stations.buying.details import LineDetails, LotDetails
from stations.buying.models import Lot, LotLine
from stations.buying.sharing import share_lot
from stations.catalogue.models import ExpectedItem, MachineModel
from stations.common.details import as_kept
from stations.common.refusals import Refused
from stations.intake import services as intake
from stations.intake import settling
from stations.people.models import Person, PersonRole, Role
from stations.selling.models import Channel
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.units.models import Unit
from tests.hands import Hand

D = Decimal
# Seconds; longer than the database waits for a lock (50), so that what it says of that is seen. How long something
# takes is asked nowhere here.
HANGS = 120


def person(name: str, *roles: str) -> Person:
    made = Person.objects.create_user(name, password=f"{name}-sesame", first_name=name.capitalize())
    PersonRole.objects.bulk_create(PersonRole(person=made, role=role) for role in roles)
    return made


def lot_data(**changes) -> LotDetails:
    """A lot as it is recorded: 100 for the lot, 18 % premium, 12 freight. The usual charges go by their plain names."""
    data = {
        "title": "Attic",
        "supplier_name": "Pell Head school",
        "source_kind": "auction",
        "bought_on": timezone.localdate(),
        "currency": "EUR",
        "rate": D(1),
        "price": D(100),
        "premium_percent": D(18),
        "freight": D(12),
        "another": True,
        **changes,
    }
    figures = {name: data.pop(name) for name in USUAL_CHARGES if name in data}
    return LotDetails(**{"charges": usual_charges(figures)} | data)


def line_data(description: str = "Halden M2", quantity: int = 1, worth: int = 100, **changes) -> LineDetails:
    usual = LineDetails(
        description=description,
        quantity=quantity,
        kind="machine",
        form_factor="all_in_one",
        claim="untested",
        weight_kg=D(5),
        worth_low=D(worth),
        worth_likely=D(worth),
        worth_high=D(worth),
    )
    return replace(usual, **changes)


def as_recorded(line: LotLine) -> LineDetails:
    return LineDetails(**{field.name: getattr(line, field.name) for field in fields(LineDetails)})


def fill_shop(target) -> None:
    """Put people, a model, a channel, a part and one shared lot with two lines on `target`."""
    target.owner = person("olga", Role.OWNER)
    target.technician = person("tom", Role.TECHNICIAN)
    target.seller = person("sven", Role.SELLER)
    target.viewer = person("vic", Role.VIEWER)
    target.model = MachineModel.objects.create(
        maker="Halden",
        name="M2",
        form_factor="all_in_one",
        supply="linear",
        battery="lithium",
        picture_tube=True,
        drives=1,
        keyboard=True,
        keeps_data=True,
        photos_wanted=1,
    )
    ExpectedItem.objects.create(model=target.model, name="keyboard", weight=4)
    ExpectedItem.objects.create(model=target.model, name="mouse", weight=2)
    target.channel = Channel.objects.create(name="Quay market", fee_percent=D(10), fee_fixed=D(0))
    target.lot = buying.record_lot(target.owner, lot_data(), [line_data(quantity=3), line_data("Tessaly 48", 1, 30)])
    share_lot(target.owner, target.lot, Basis.VALUE)
    target.line, target.other_line = target.lot.lines.all()
    target.part = StockItem.objects.create(name="Belt", drawer="A1")
    stock.buy_stock(target.owner, target.part, 3, D("10.00"))


class AtWork:
    """What a shop has by the hands of its people."""

    # What the first unit that a test asks for is already when the class begins: "assessed", "proven" or "listed".
    STANDS = ""
    first_unit: Unit | None = None

    def hand(self, who: Person | None = None) -> Hand:
        return Hand(who or self.owner, timezone.now() - timedelta(days=3))

    def receive(self, count: int = 1) -> list[Unit]:
        return intake.receive(self.owner, self.line, count, self.model, "shelf")

    def assessed(self, approach: str = "period", **facts) -> Unit:
        if approach == "period" and not facts and (unit := self._standing("assessed")):
            return unit
        (unit,) = self.receive()
        return self.hand().assess(unit, approach, **facts)

    def identify(self, unit: Unit, **said) -> None:
        """As it is, but for what is said."""
        intake.identify(self.owner, unit, unit.version, replace(as_kept(intake.Identity, unit), **said))

    def proven(self) -> Unit:
        if unit := self._standing("proven"):
            return unit
        unit = self.assessed()
        self.hand().test(unit)
        settling.record_sanitisation(self.owner, unit, "clear", "read back, all noughts")
        return self.again(unit)

    def listed(self, asking: str = "150") -> Unit:
        if asking == "150" and (unit := self._standing("listed")):
            return unit
        unit = self.proven()
        self.hand().offer(unit, asking, pictures=1)
        return self.again(unit)

    def _standing(self, what: str) -> Unit | None:
        unit, wanted = self.first_unit, what == self.STANDS
        if wanted:
            self.first_unit = None
        return unit if wanted else None

    def again(self, row):
        return type(row).objects.get(pk=row.pk)

    def balanced(self) -> None:
        """Every cent stands somewhere: nothing in the books does not add up."""
        self.assertEqual([f"{one.what}: {one.words}" for one in complaints()], [])


class ShopTest(AtWork, TestCase):
    @classmethod
    def setUpTestData(cls):
        fill_shop(cls)
        shop = cls()
        shop.client = cls.client_class()
        bare = {*vars(shop)}
        shop.scene()
        for name in {*vars(shop)} - bare:
            setattr(cls, name, getattr(shop, name))

    def scene(self) -> None:
        """What stands before any test of the class begins: set once, and every test has it as it was. What it keeps on
        `self` is there for the tests; what must be stopped, or belongs to one test, is for setUp."""
        self.first_unit = getattr(self, self.STANDS)() if self.STANDS else None

    def lot_again(self) -> Lot:
        return self.again(self.lot)


class LedgerEmptied:
    """For tests with real transactions: the ledger, which nothing is taken out of, is emptied with all the rest. What
    Django writes for each model after a migration is asked for nowhere, and not written again."""

    def _fixture_teardown(self):
        with connection.cursor() as cursor:
            cursor.execute("SET @wendopolis_ledger_unlocked = 1")
        call_command("flush", verbosity=0, interactive=False, reset_sequences=False, inhibit_post_migrate=True)
        with connection.cursor() as cursor:
            cursor.execute("SET @wendopolis_ledger_unlocked = NULL")


class AtOnce(AtWork, LedgerEmptied, TransactionTestCase):
    """Real transactions on several connections, begun at the same moment."""

    def setUp(self):
        fill_shop(self)

    def together(self, *acts):
        """Do all of it at the same moment; what each answered, or the words it was refused with. What breaks in one of
        them breaks here; of one that hangs it is said where."""
        barrier, ends, broke = threading.Barrier(len(acts)), [], []

        def run(act):
            try:
                barrier.wait(HANGS)
                ends.append(act())
            except Refused as refusal:
                ends.append(refusal.message)
            except Exception as problem:
                broke.append(problem)
            finally:
                connection.close()

        threads = [threading.Thread(target=run, args=[act], daemon=True) for act in acts]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(HANGS)
        if broke:
            raise broke[0]
        standing = [sys._current_frames().get(thread.ident) for thread in threads if thread.is_alive()]
        where = "".join(line for frame in standing if frame for line in traceback.format_stack(frame))
        self.assertEqual(len(ends), len(acts), f"one of them hangs:\n{where}")
        return ends

"""How long the main pages take, as multiples of an empty page on the same server, and how that grows.

    bin/bench          fills a throw-away database with 200, then 20,000 units

Units are spread over lots of a hundred, over every stage (with 200 one lot is open, with 20,000 the Floor has its
twelve rails); each has a share, parts and labour in the books, and what is sold was sold for 60 to 98.
Times are medians of what Django's test client measures in this process; only their ratios mean anything.
"""

import os
import statistics
import sys
import time
from collections.abc import Callable
from datetime import timedelta
from decimal import Decimal

import django

os.environ["DJANGO_SETTINGS_MODULE"] = "tests.settings"
django.setup()

from django.test import Client  # noqa: E402
from django.test.runner import DiscoverRunner  # noqa: E402
from django.utils import timezone  # noqa: E402
from django.utils.html import strip_tags  # noqa: E402

from core.bench.seen import seen_at  # noqa: E402
from core.buying.share import Basis  # noqa: E402
from core.flow.facts import BenchFlow, FlowFacts, IntakeFlow, SellingFlow, WorkshopFlow  # noqa: E402
from core.flow.rules import unit_status  # noqa: E402
from core.flow.task import Task  # noqa: E402
from core.machine.mains import Mains  # noqa: E402
from stations.bench import timers  # noqa: E402
from stations.bench.models import StepResult  # noqa: E402
from stations.bench.services import plan_of, start_run  # noqa: E402
from stations.buying.models import Claim, Lot, LotLine, Sharing, Supplier  # noqa: E402
from stations.catalogue.models import MachineModel  # noqa: E402
from stations.common import clock  # noqa: E402
from stations.day.gather import gather  # noqa: E402
from stations.floor.selectors import next_steps  # noqa: E402
from stations.ledger.models import Account, EntryKind, LedgerEntry, Posting  # noqa: E402
from stations.people import tokens  # noqa: E402
from stations.people.models import HistoryEntry, Person, PersonRole, Role  # noqa: E402
from stations.people.shop_settings import settings  # noqa: E402
from stations.selling.models import Channel, PriceStep, Sale  # noqa: E402
from stations.units import seen  # noqa: E402
from stations.units.as_it_is import bench_facts  # noqa: E402
from stations.units.models import Unit  # noqa: E402

# Entries of what was done to a unit.
DONE = 6
A_LOT = 100
ASSESSED, COMPLETE = IntakeFlow(assessed=True, worth=Decimal(80)), BenchFlow(started=True, complete=True)
FACTS = (
    FlowFacts(IntakeFlow(gaps=["approach"], worth=Decimal(80))),
    FlowFacts(ASSESSED),
    FlowFacts(ASSESSED, BenchFlow(started=True, failed=["Picture"])),
    FlowFacts(ASSESSED, BenchFlow(started=True), WorkshopFlow([Task(1, "job:1", "Belt")], waiting_for="a belt")),
    FlowFacts(ASSESSED, COMPLETE),
    FlowFacts(ASSESSED, COMPLETE, selling=SellingFlow(graded=True, blocks=["No price set"])),
    FlowFacts(selling=SellingFlow(sold=True, sent=True, closed=True)),
)
PAGES = (
    "/",
    f"/day/{clock.today()}/",
    "/day/bells/",
    "/next/bench/",
    "/buying/",
    "/intake/",
    "/intake/units/",
    "/bench/",
    "/workshop/",
    "/selling/",
    "/books/",
    "/books/period/",
    "/books/period/entries/",
    "/books/what-pays/?by=claim",
    "/books/learned/",
    "/books/stock/",
    "/books/time/",
    "/people/log/",
    "/people/log/?of=unit",
    "/W-150/",
    "/bench/W-150/",
    "/workshop/W-150/",
    "/workshop/W-150/worth/",
    "/selling/W-150/",
    "/find/?q=SER-150",
    # What other programs read.
    "/api/v1/units",
    "/api/v1/units?on_offer=true",
    "/api/v1/units?after=150&limit=1",
    "/api/v1/lots",
    "/api/v1/stock",
    "/api/v1/ledger",
    # A name that nobody has: all there is was gone through.
    "/find/?q=nobody+here",
)


def fill(count: int, who: Person, model: MachineModel, supplier: Supplier) -> None:
    """Add lots until the shop has `count` units."""
    have, now = Unit.objects.count(), timezone.now()
    stands = [unit_status(facts) for facts in FACTS]
    for number in range(have // A_LOT + 1, count // A_LOT + 1):
        # Most lots of a shop of this size are closed; every tenth is open.
        finished = number % 10 != 1
        lot = Lot.objects.create(
            number=number,
            title=f"Lot {number}",
            supplier=supplier,
            bought_on=now.date(),
            landed_total=Decimal(1000),
            priced=True,
        )
        line = LotLine.objects.create(
            lot=lot,
            position=1,
            description="Tower",
            quantity=A_LOT,
            received=A_LOT,
            worth_low=Decimal(70),
            worth_likely=Decimal(80),
            worth_high=Decimal(90),
            claim=list(Claim)[number % len(Claim)],
        )
        Sharing.objects.create(lot=lot, basis=Basis.COUNT, when=now, who=who)
        units = []
        for index in range(A_LOT):
            stand = stands[-1] if finished else stands[index % len(stands)]
            units.append(
                Unit(
                    number=100 + (number - 1) * A_LOT + index + 1,
                    lot=lot,
                    line=line,
                    line_index=index,
                    model=model,
                    title="Corvane Stack 4",
                    form_factor="tower",
                    serial=f"SER-{(number - 1) * A_LOT + index}",
                    approach="period",
                    identified_at=now,
                    assessed_at=now,
                    received_at=now,
                    received_by=who,
                    stage=stand.stage,
                    station=stand.station,
                    state=stand.state,
                    stage_reason=stand.reason,
                    next_step=stand.next_step,
                    next_kind=stand.next_kind,
                    next_minutes=stand.minutes,
                    pull=stand.pull,
                    stage_since=now - timedelta(days=index % 40),
                )
            )
        Unit.objects.bulk_create(units)
        posting = Posting.objects.create(when=now, happened_on=now.date(), who=who, document=f"lot {number}")
        entries, stays, market = [], [], Channel.objects.get()
        price = Decimal(60 + number * 7 % 39)
        if finished:
            sold = {"channel": market, "price": price, "sold_at": now, "sent_at": now, "closed_at": now}
            sold |= {"fee": Decimal(0), "postage": Decimal(0), "tax": Decimal(0), "paid": price}
            Sale.objects.bulk_create(
                Sale(unit=unit, open_for=unit, buyer=f"Buyer {unit.number}", **sold)
                for unit in Unit.objects.filter(lot=lot)
            )
            # Two years of stays on offer, for three to six weeks each.
            for unit in Unit.objects.filter(lot=lot):
                begun = now - timedelta(days=45 + (unit.number * 13) % 700)
                ended = begun + timedelta(days=21 + unit.number % 22)
                stay = {"begun_at": begun, "ended_at": ended, "sold": True, "sold_for": price}
                stays.append(PriceStep(unit=unit, channel=market, asking=price, likely=Decimal(80), **stay))
            PriceStep.objects.bulk_create(stays)
        for unit in Unit.objects.filter(lot=lot):
            booked = [(EntryKind.TRANSFER, 10), (EntryKind.PART_ISSUED, 4), (EntryKind.LABOUR, 12)]
            if finished:
                booked.append((EntryKind.SALE, -price))
            for kind, amount in booked:
                for account, sign in ((Account.UNIT, 1), (Account.CASH, -1)):
                    entries.append(
                        LedgerEntry(
                            posting=posting,
                            account=account,
                            account_id=unit.pk if sign > 0 else 0,
                            lot_id=lot.pk if sign > 0 else None,
                            kind=kind,
                            amount=Decimal(sign * amount),
                            happened_on=now.date(),
                        )
                    )
        LedgerEntry.objects.bulk_create(entries)
        HistoryEntry.objects.bulk_create(
            HistoryEntry(
                when=now - timedelta(minutes=turn),
                who=who,
                action="intake.receive",
                subject=HistoryEntry.Subject.UNIT,
                subject_id=unit_id,
                words="Something was done",
            )
            for unit_id in Unit.objects.filter(lot=lot).values_list("pk", flat=True)
            for turn in range(DONE)
        )


def seconds(client: Client, path: str, times: int = 7) -> float:
    """The median of several gets of a page, the first one left out."""
    taken = []
    for turn in range(times + 1):
        start = time.perf_counter()
        answer = client.get(path)
        if turn:
            taken.append(time.perf_counter() - start)
        if answer.status_code not in {200, 302}:
            raise SystemExit(f"{path} answered {answer.status_code}")
    return statistics.median(taken)


def timed(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def words(answer) -> str:
    """What a page says, without its tags."""
    return " ".join(strip_tags(answer.content.decode()).split())[:2000]


def key_to_next_step(client: Client, who: Person, number: int) -> float:
    """The median of a pass at the bench with the page that shows the step after it: the post and the get."""
    Unit.objects.filter(number=number).update(mains_variant=Mains.V220_240)
    run = start_run(who, Unit.objects.get(number=number))
    path, taken = f"/bench/W-{number}/", []
    for check in plan_of(run):
        for one in seen.asked(run.unit, seen_at(check, bench_facts(run.unit))):
            seen.say(who, run.unit, one.name, one.answers[0][0])
            run.unit.refresh_from_db()
        data = {"code": check.code, "outcome": "pass", "reading": "", "reason": "measured for the benchmark"}
        if check.limits:
            reading = f"{check.limits.nominal or check.limits.high / 2}"
            data["reading"] = f"0 {reading}; 1 {reading}; 2 {reading}" if check.under_load else reading
        if check.alone_minutes:
            with clock.at(timezone.now() - timedelta(minutes=check.alone_minutes + 1)):
                timers.start(who, run, check.code)
        start = time.perf_counter()
        answer = client.post(path, data, follow=True)
        taken.append(time.perf_counter() - start)
        if not StepResult.objects.filter(run=run, code=check.code).exists():
            raise SystemExit(f"{check.code} was not taken: {words(answer)}")
    return statistics.median(taken[1:])


def measure(client: Client, who: Person, tested: int) -> dict[str, float]:
    """Every page, and a key at the bench on the unit numbered `tested`, as multiples of an empty page."""
    empty = seconds(client, "/keys/")
    times = {path: seconds(client, path) / empty for path in PAGES}
    step = key_to_next_step(client, who, tested)
    print(f"an empty page {empty * 1000:.1f} ms, a key at the bench to its next step {step * 1000:.1f} ms")
    gathered = gather(clock.today())
    day = timed(lambda: gather(clock.today()))
    print(f"a day gathered from {len(gathered.problem.tasks)} tasks in {day * 1000:.0f} ms")
    next_up = statistics.median(timed(next_steps) for _ in range(7))
    rows = {"key to next step": step, "a day gathered": day, "next up": next_up}
    return times | {what: took / empty for what, took in rows.items()}


def main(most: int) -> None:
    runner = DiscoverRunner(interactive=False, verbosity=0)
    databases = runner.setup_databases()
    try:
        who = Person.objects.create_user("bench")
        PersonRole.objects.create(person=who, role=Role.OWNER)
        settings()
        Channel.objects.create(name="Quay market", fee_percent=Decimal(9))
        model = MachineModel.objects.create(maker="Corvane", name="Stack 4", form_factor="tower")
        supplier = Supplier.objects.create(name="Quayside sale room")
        secret = tokens.new_token(who, tokens.NewToken("measured", None))
        client = Client(headers={"Authorization": f"Bearer {secret}"})
        client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")
        fill(200, who, model, supplier)
        small = measure(client, who, 102)
        fill(most, who, model, supplier)
        large = measure(client, who, 109)
    finally:
        runner.teardown_databases(databases)
    print(f"{'page':22} {'200 units':>12} {f'{most} units':>14} {'growth':>8}   (times an empty page)")
    for path in small:
        print(f"{path:22} {small[path]:12.1f} {large[path]:14.1f} {large[path] / small[path]:8.2f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000)

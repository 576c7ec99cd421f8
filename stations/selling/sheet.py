"""The selling page of a unit: its grade and what lifting it is worth, its price and why, what must be said, offers."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from decimal import Decimal

from core.bench.plan import hands_on
from core.money import to_cent
from core.selling.auction import AuctionPlan
from core.selling.disclosure import DEFAULTS, Disclosure
from core.selling.grade import LADDER, Cap, Grade, Graded, GradeEvidence, Lifting, lifted
from core.selling.grade import grade as work_out_grade
from core.selling.listing import ListingFacts
from core.selling.market import Learned, PriceBand, Weighed
from core.selling.postage import Reckoned
from stations.people import shop_settings
from stations.selling import holding, market, selectors, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.drawing import MarkdownDrawing, PriceChart, markdown_drawing, price_chart
from stations.selling.models import Channel, Listing, Offer, Placement, Question, Reserved, UnitGrade
from stations.selling.waiting import Waiting, auction_of, waiting_of
from stations.units.models import Unit

MOST_CHANNELS = 40


@dataclass(frozen=True)
class Lift:
    """Caps on the grade that one kind of work takes away (several kinds: all of them), and what that would bring: the
    grade then, what it fetches more, what the work costs; None where nobody can say."""

    caps: tuple[Cap, ...]
    grade: Grade | None
    more: Decimal | None
    cost: Decimal | None

    @property
    def liftings(self) -> tuple[Lifting, ...]:
        return tuple(dict.fromkeys(cap.lifting for cap in self.caps))

    @property
    def of_all(self) -> bool:
        return len(self.liftings) > 1

    @property
    def because(self) -> str:
        return "; ".join(cap.reason for cap in self.caps)

    @property
    def worst(self) -> Grade:
        return max((cap.grade for cap in self.caps), key=LADDER.index)

    @property
    def gain(self) -> Decimal | None:
        return None if self.more is None or self.cost is None else self.more - self.cost


@dataclass(frozen=True)
class Said:
    """One thing that must be said, as it is told now; `standard` is how it is told without words of its own, `moves`
    how our own sales say that it moves the price, None where they say nothing; `typed` and `problem`: words that were
    refused, and why."""

    disclosure: Disclosure
    standard: str
    moves: Learned | None
    typed: str = ""
    problem: str = ""

    @property
    def words(self) -> str:
        return self.disclosure.worded or self.standard

    def refused(self, form) -> "Said":
        """With the words of this form, if they were meant for it and refused."""
        about = form.data.get("kind"), form.data.get("what", "")
        if about != (self.disclosure.kind.value, self.disclosure.what):
            return self
        problems = [problem for found in form.errors.values() for problem in found]
        return replace(self, typed=form.data.get("words", ""), problem=" ".join(map(str, problems)))


@dataclass(frozen=True)
class Placed:
    """A channel, the unit’s place on it (None: never), and what a sale there at what is asked leaves."""

    channel: Channel
    placement: Placement | None
    leaves: Decimal | None


@dataclass(frozen=True)
class Sheet:
    facts: ListingFacts
    now: Graded
    set_to: UnitGrade | None
    lifts: list[Lift]
    listing: Listing
    found: market.UnitMarket
    band: PriceBand | None
    weighed: tuple[Weighed, ...]
    learned: list[Learned]
    chart: PriceChart | None
    least: Decimal | None
    floor: Decimal | None
    waiting: Waiting | None
    plan: MarkdownDrawing | None
    auction: AuctionPlan | None
    said: list[Said]
    changed: list[wording.Changed]
    edits: list[tuple[str, str]]
    offers: list[Offer]
    questions: list[Question]
    placements: list[Placed]
    held: Reserved | None
    postage: Reckoned

    @property
    def grade(self) -> Grade:
        return Grade(self.set_to.grade) if self.set_to else self.now.grade

    @property
    def of_grade(self) -> int:
        """How many of the sales were of its grade."""
        return sum(one.comparable.grade is self.grade for one in self.weighed)

    @property
    def outliers(self) -> int:
        return sum(one.outlier for one in self.weighed)


def sheet_of(unit: Unit) -> Sheet:
    as_tested, set_to, listing = selectors.newest_run_of(unit), selectors.grade_set(unit), selectors.listing_of(unit)
    told = selectors.told_before(unit)
    evidence = selectors.evidence_of(unit, as_tested, told)
    now = work_out_grade(evidence)
    grade = Grade(set_to.grade) if set_to else now.grade
    facts = listing_facts(unit, as_tested, told)
    found = wording.market_now(unit, grade, listing.channel if listing.channel_id else None, facts)
    band, weighed = found.band, found.weighed
    least, floor, books = None, None, market.unit_books(unit)
    if listing.channel_id and not facts.cost_unknown:
        with suppress(ValueError):
            least, floor = books.floors(listing.channel)
    waiting = waiting_of(unit, listing, found)
    return Sheet(
        facts=facts,
        now=now,
        set_to=set_to,
        lifts=lifts(as_tested, evidence, now, found),
        listing=listing,
        found=found,
        band=band,
        weighed=weighed,
        learned=found.learned,
        chart=price_chart(band, weighed, float(floor) if floor is not None else None) if band else None,
        least=least,
        floor=floor,
        waiting=waiting,
        plan=markdown_drawing(waiting) if waiting else None,
        auction=auction_of(listing, waiting, least) if waiting and least is not None else None,
        said=[Said(one, _standard(one), found.moves(one.kind.value)) for one in wording.must_say(facts)],
        changed=wording.changed(listing, facts),
        edits=wording.edits(listing),
        offers=list(unit.offers.select_related("channel")[:20]),
        questions=list(unit.questions.select_related("channel")[:20]),
        placements=placements_of(unit, listing, books),
        held=holding.reserved(unit),
        postage=market.postage_of(unit),
    )


def placements_of(unit: Unit, listing: Listing, books: market.UnitBooks) -> list[Placed]:
    """Every channel in use, with how the unit stands there and what a sale at what is asked would leave: two
    queries."""
    rows = {row.channel_id: row for row in unit.placements.select_related("channel")}
    asking = listing.asking
    return [
        Placed(channel, rows.get(channel.pk), books.leaves(channel)(asking) if asking else None)
        for channel in Channel.objects.filter(in_use=True)[:MOST_CHANNELS]
    ]


def _standard(one: Disclosure) -> str:
    return DEFAULTS[one.kind].replace("{things}", one.what)


def lifts(as_tested: selectors.Tested, evidence: GradeEvidence, now: Graded, found: market.UnitMarket) -> list[Lift]:
    """What each kind of work that lifts caps is worth alone; all of it together last where that is more than one."""
    here, rate = found.band_at(now.grade), shop_settings.settings().labour_rate

    def lift(caps: Sequence[Cap]) -> Lift:
        liftings = {cap.lifting for cap in caps}
        after = lifted(evidence, liftings)
        there = found.after(evidence, after) if after else None
        more = there.likely - here.likely if there and here else None
        taken = [one.minutes for one in liftings]
        if any(one.runs_the_plan for one in liftings):
            taken.append(hands_on(as_tested.steps, again=any(one.runs_it_again for one in liftings)))
        known = [minutes for minutes in taken if minutes is not None]
        cost = to_cent(rate * sum(known) / 60) if len(known) == len(taken) else None
        return Lift(tuple(caps), work_out_grade(after).grade if after else None, more, cost)

    rows = [lift([cap for cap in now.caps if cap.lifting is one]) for one in dict.fromkeys(c.lifting for c in now.caps)]
    return [*rows, lift(now.caps)] if len(rows) > 1 else rows

"""Care under way: a whitening in its third round, one that should stop, a repaint between coats, an old marking, a leak
by its chemistry, feet measured, something glued."""

from datetime import datetime, timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile

from core.catalogue.recipes import Proof
from core.machine.casing import Face
from core.workshop.care import plans, recondition
from core.workshop.care.agents import Chemistry
from core.workshop.care.coats import read_coats
from core.workshop.care.placing import Placed, Stuck
from core.workshop.care.recondition import Mended
from core.workshop.care.region import Region
from core.workshop.care.strength import Basis, percent_wv
from demo import pictures
from demo.days import Hand
from stations.people.models import Person
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.stock.services import Sort
from stations.units.models import Finding, Unit
from stations.workshop import care_planning, placing, recipe_run, services
from stations.workshop.care_planning import Planned
from stations.workshop.models import Job

COATS = """primer 1: from 20 min; to 24 h; 35 µm; can 1.8 m²
primer 2: from 1 h; to 24 h; 35 µm
texture: from 3 h; to 6 h; 60 µm; can 1.2 m²
colour: from 6 h; to 30 h; 45 µm; can 1.8 m²"""


def under_way(tobin: Person, now: datetime) -> None:
    """On machines of the shop's own that stand in the workshop or before it."""
    _drawers(Hand(tobin, now - timedelta(days=20), "care drawers"))
    gel = plans.school_of("gel")
    mixture = plans.mixture_for(gel, percent_wv(Decimal(40), Basis.VOLUMES), Decimal(6), Decimal(295))
    white = Planned(plans.whiten(gel, mixture, "top case", 5, 120), "top case", Region(Face.TOP), Decimal(1180))
    _whiten(
        tobin, now - timedelta(hours=6, minutes=40), 117, white, ("7.9 8.2 7.6", "5.8 6.1 5.5", "3.6 3.9 4.9"), True
    )
    keys = Planned(plans.whiten(gel, mixture, "keys", 5, 120), "keys")
    _whiten(tobin, now - timedelta(hours=9), 119, keys, ("6.4 6.1", "4.2 4.4", "4.0 4.2", "3.9 4.2"), False)
    _repaint(tobin, now - timedelta(hours=3), 114)
    Hand(tobin, now - timedelta(hours=5), "marking").find(
        Unit.objects.get(number=124), "back", "sticker", 1, "chalk number of a school, 14"
    )
    _leak(tobin, now - timedelta(hours=2))
    _feet(Hand(tobin, now - timedelta(days=6), "feet"), Unit.objects.get(number=121))
    _glued(tobin, now - timedelta(days=16))


def _drawers(hand: Hand) -> None:
    """What care uses up, bought in bottles."""
    for name, drawer, measure, amount, paid in (
        ("Peroxide 40 volumes", "C1", "ml", "1000", "9.80"),
        ("Deionised water", "C2", "ml", "5000", "4.50"),
        ("Vinegar, household", "C3", "ml", "750", "1.20"),
        ("Plastic-safe grease", "C4", "g", "50", "11.00"),
        ("Thermal paste", "C5", "ml", "4", "6.40"),
    ):
        if not StockItem.objects.filter(name=name).exists():
            hand.do(stock.stock_part, Sort(name, "new", drawer, measure), amount, Decimal(paid))


def _leak(tobin: Person, now: datetime) -> None:
    """A nickel cell leaked on a board: vinegar, then water, then dry; it stands at the rinsing."""
    hand = Hand(tobin, now, "leak")
    hand.find(Unit.objects.get(number=119), "inside", "leak", 2, "green crust beside the cell on the board")
    finding = Finding.objects.select_related("unit__model").get(kind="leak", unit__number=119)
    recipe = recondition.battery("main board", Chemistry.NICKEL, True)
    job = hand.do(care_planning.plan, finding.unit, Planned(recipe, "main board"), finding)
    hand.do(recipe_run.do_step, job, 0, "", "", _photo(finding.unit, "leak"))
    hand.do(recipe_run.do_step, job, 1)
    hand.do(recipe_run.start_alone, job, 2)


def _feet(hand: Hand, unit: Unit) -> None:
    """Three of its feet; the fourth is gone, and goes where the others say."""
    size = care_planning.size_of(unit)
    if size is None:
        return
    inset, wide = Decimal(18), Decimal(14)
    far = Decimal(size.width) - inset - wide
    low = Decimal(size.depth) - inset - wide
    for left, top in ((inset, inset), (far, inset), (inset, low), (far, low)):
        hand.do(placing.measure, unit, Placed(Stuck.FOOT, Face.UNDERSIDE, left, top, wide, wide))


def _glued(tobin: Person, now: datetime) -> None:
    """The lid's latch, glued two weeks and more ago: somebody has to look."""
    hand, unit = Hand(tobin, now, "glue"), Unit.objects.get(number=121)
    job = hand.do(care_planning.plan, unit, Planned(recondition.mechanism("lid", "latch", Mended.GLUED), "lid"))
    for index, step in enumerate(recipe_run.steps_of_job(job)):
        if step.step.alone_minutes:
            hand.do(recipe_run.start_alone, job, index)
            hand.wait(minutes=step.step.alone_minutes)
        photo = _photo(unit, f"latch {index}") if step.step.proof is Proof.PHOTO else None
        hand.do(recipe_run.do_step, job, index, "0" if step.step.proof.is_typed else "", "", photo)
    hand.do(services.finish_job, job, services.JobResult("latch holds", True))


def _open(hand: Hand, number: int, planned: Planned) -> tuple[Unit, Job]:
    unit = Unit.objects.select_related("model").get(number=number)
    return unit, hand.do(care_planning.plan, unit, planned)


def _photo(unit: Unit, name: str) -> SimpleUploadedFile:
    view = pictures.draw(f"demo {name} {unit.number}", unit.form_factor, (400, 80, 220), pictures.VIEWS[0])
    return SimpleUploadedFile(f"{name}.jpg", view, "image/jpeg")


def _whiten(tobin: Person, start: datetime, number: int, planned: Planned, read: tuple[str, ...], runs: bool) -> None:
    """As far as its readings go; then the next round `runs`, or waits."""
    hand, left = Hand(tobin, start, f"whiten {number}"), list(read)
    unit, job = _open(hand, number, planned)
    for index, step in enumerate(planned.recipe.steps):
        if step.alone_minutes:
            if not left:
                if runs:
                    hand.do(recipe_run.start_alone, job, index)
                return
            hand.do(recipe_run.start_alone, job, index)
            hand.wait(minutes=step.alone_minutes)
        if step.proof is Proof.COLOUR and not left:
            return
        typed = left.pop(0) if step.proof is Proof.COLOUR else ""
        photo = _photo(unit, f"step {index}") if step.proof is Proof.PHOTO else None
        hand.do(recipe_run.do_step, job, index, typed, "", photo)


def _repaint(tobin: Person, start: datetime, number: int) -> None:
    """The second primer is dry enough for the texture, whose window is short."""
    hand = Hand(tobin, start, f"repaint {number}")
    recipe = plans.repaint(Decimal(620), read_coats(COATS), "foot rail")
    unit, job = _open(hand, number, Planned(recipe, "foot rail", area=Decimal(620)))
    for index, step in enumerate(recipe.steps):
        if step.alone_minutes:
            hand.do(recipe_run.start_alone, job, index, "", "19 52" if step.most_humid else "")
            if step.instruction.startswith("Lay primer 2"):
                return
            hand.wait(minutes=step.alone_minutes)
        photo = _photo(unit, f"step {index}") if step.proof is Proof.PHOTO else None
        hand.do(recipe_run.do_step, job, index, "", "", photo)

"""Care under way: a whitening in its third round, one that should stop, a repaint between coats, an old marking."""

from datetime import datetime, timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile

from core.catalogue.recipes import Proof, Recipe
from core.workshop.care import plans
from core.workshop.care.coats import read_coats
from core.workshop.care.strength import Basis, percent_wv
from demo import pictures
from demo.days import Hand
from stations.people.models import Person
from stations.units.models import Unit
from stations.workshop import care, recipe_run
from stations.workshop.models import Job

COATS = """primer 1: from 20 min; to 24 h; 35 µm; can 1.8 m²
primer 2: from 1 h; to 24 h; 35 µm
texture: from 3 h; to 6 h; 60 µm; can 1.2 m²
colour: from 6 h; to 30 h; 45 µm; can 1.8 m²"""


def under_way(tobin: Person, now: datetime) -> None:
    """On machines of the shop's own that stand in the workshop or before it."""
    gel = plans.school_of("gel")
    mixture = plans.mixture_for(gel, percent_wv(Decimal(40), Basis.VOLUMES), Decimal(6), Decimal(295))
    white = plans.whiten(gel, mixture, "top case", 5, 120)
    _whiten(
        tobin, now - timedelta(hours=6, minutes=40), 117, white, ("7.9 8.2 7.6", "5.8 6.1 5.5", "3.6 3.9 4.9"), True
    )
    keys = plans.whiten(gel, mixture, "keys", 5, 120)
    _whiten(tobin, now - timedelta(hours=9), 119, keys, ("6.4 6.1", "4.2 4.4", "4.0 4.2", "3.9 4.2"), False)
    _repaint(tobin, now - timedelta(hours=3), 114)
    Hand(tobin, now - timedelta(hours=5), "marking").find(
        Unit.objects.get(number=124), "back", "sticker", 1, "chalk number of a school, 14"
    )


def _open(hand: Hand, number: int, recipe: Recipe) -> tuple[Unit, Job]:
    unit = Unit.objects.select_related("model").get(number=number)
    return unit, hand.do(care.plan, unit, recipe)


def _photo(unit: Unit, name: str) -> SimpleUploadedFile:
    view = pictures.draw(f"demo {name} {unit.number}", unit.form_factor, (400, 80, 220), pictures.VIEWS[0])
    return SimpleUploadedFile(f"{name}.jpg", view, "image/jpeg")


def _whiten(tobin: Person, start: datetime, number: int, recipe: Recipe, read: tuple[str, ...], runs: bool) -> None:
    """As far as its readings go; then the next round `runs`, or waits."""
    hand, left = Hand(tobin, start, f"whiten {number}"), list(read)
    unit, job = _open(hand, number, recipe)
    for index, step in enumerate(recipe.steps):
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
    unit, job = _open(hand, number, recipe)
    for index, step in enumerate(recipe.steps):
        if step.alone_minutes:
            hand.do(recipe_run.start_alone, job, index)
            if step.instruction.startswith("Lay primer 2"):
                return
            hand.wait(minutes=step.alone_minutes)
        photo = _photo(unit, f"step {index}") if step.proof is Proof.PHOTO else None
        hand.do(recipe_run.do_step, job, index, "", "", photo)

"""Work done by its recipe: a step that dries by itself while somebody does something else."""

from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from demo import pictures
from demo.days import Hand
from stations.catalogue.recipes import recipes
from stations.people.models import Person
from stations.units import offers
from stations.units.models import Unit
from stations.workshop import as_found, knowledge, recipe_run
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob


def drying(tobin: Person, now: datetime) -> None:
    """The keycaps of a luggable are washed and lie on a towel."""
    hand, unit = Hand(tobin, now, "recipes"), Unit.objects.get(number=136)
    recipe = recipes()["clean-keyboard"]
    job = hand.do(workshop.open_job, unit, NewJob.by_recipe(recipe, reversible=True))
    hand.do(as_found.record_state, unit, None, 0, "keys that answer", "81 of 84", "")
    view = pictures.draw("demo keys", unit.form_factor, (400, 60, 220), pictures.VIEWS[0])
    photo = SimpleUploadedFile("keys.jpg", view, "image/jpeg")
    hand.do(recipe_run.do_step, job, 0, "", "", photo)
    hand.wait(minutes=14)
    hand.do(recipe_run.do_step, job, 1, "", "space bar wire marked", None)
    hand.do(recipe_run.start_alone, job, 2)


def known(tobin: Person, now: datetime) -> None:
    """What is known of a luggable: printed, measured, guessed, and asked outside."""
    hand, unit = Hand(tobin, now, "known"), Unit.objects.get(number=136)
    rows: tuple[tuple[str, str, str, str, dict[str, Any]], ...] = (
        (
            "Service manual, chapter 4",
            "manual",
            "printed",
            "Order of the screws, values of the PSU.",
            {"may_pass_on": False},
        ),
        ("P8 and P9", "pinout", "measured", "P8: og +5 V good, rd +5 V, ye +12 V, bu −12 V; P9: wh −5 V.", {}),
        ("SW1", "jumpers", "guessed", "Switch 3 is bank 3; 7 and 8 not known.", {}),
        (
            "What sets the line rate of the screen?",
            "question",
            "outsider",
            "",
            {"from_whom": "its designer, by letter", "due": (now + timedelta(days=9)).date()},
        ),
    )
    for title, kind, sure, words, more in rows:
        of = unit.model if unit.model and kind in {"manual", "pinout"} else unit
        hand.do(knowledge.keep, of, None, 0, knowledge.Known(title, kind, sure, words, **more), None)


def offered(runa: Person, now: datetime) -> None:
    """What three sellers ask for what is wanted, and one whose postage nobody knows yet."""
    hand = Hand(runa, now, "offers")
    asks = {"Quay surplus": ("5.20", None), "Old Mill parts": ("6.00", "40.00"), "Harbour spares": ("4.00", None)}
    there = list(offers.wants())
    for place, (seller, (postage, free)) in enumerate(asks.items()):
        for number, want in enumerate(there):
            if (number + place) % 3 == 2:
                continue
            each = Decimal(600 + 137 * number + 420 * ((number + place) % 3)) / 100
            quote = offers.Quote(
                want,
                seller,
                each,
                days=4 + 3 * place,
                postage=Decimal(postage),
                free_from=Decimal(free) if free else None,
            )
            hand.do(offers.note_offer, quote)
    hand.do(offers.note_offer, offers.Quote(there[0], "A collector in Pell Head", Decimal("9.00")))

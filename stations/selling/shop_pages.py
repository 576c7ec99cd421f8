"""What the public shop says of itself: standard pages that an owner words anew."""

from dataclasses import dataclass

from django.db import transaction

from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling.models import ShopPage

FIRST = "buying"


@dataclass(frozen=True)
class Told:
    """A page as it is shown; `own`: in the owner’s words."""

    slug: str
    title: str
    text: str
    own: bool = False


# What stands there until the owner says otherwise. What the law asks for differs by country and is left to say.
STANDARD = {
    "buying": (
        "How to buy",
        "Each machine here is one piece, described as it was found and tested. Choose it, then ask or make an offer on"
        " its page: we answer, and hold it for you for a week.\n\nWhat is reserved is marked so; when its time runs out"
        " it is for sale again.",
    ),
    "postage": (
        "Postage",
        "Machines are taken apart where that is safer, and sent in two boxes. What postage to you costs we say before"
        " you decide.\n\nLithium cells and picture tubes are sent only as the carrier and the local rules allow.",
    ),
    "returns": (
        "Returns",
        "If something is not as we described it, say so and send it back: compare it with the page, where everything we"
        " know stands, with the test report.\n\nWhat the law where you live gives you besides is not touched by this.",
    ),
    "privacy": (
        "What we keep of you",
        "Your name, how to reach you, and what you asked or bought, as long as we need it to answer, to send, and as"
        " the law asks for our books. This site sets no cookie for visitors but the one that protects its form.",
    ),
    "legal": (
        "Who we are",
        "The owner of this shop has still to say here who answers for it, with an address, as the law asks.",
    ),
}


def page_of(slug: str) -> Told | None:
    """None where there is no such page. One query."""
    if slug not in STANDARD:
        return None
    own = ShopPage.objects.filter(slug=slug).first()
    return Told(slug, own.title, own.text, own=True) if own else Told(slug, *STANDARD[slug])


def held_page(slug: str) -> Told:
    """As it is said now; whoever words it too waits until the transaction ends."""
    ShopPage.objects.select_for_update().filter(slug=slug).first()
    return page_of(slug) or Told(slug, "", "")


def all_pages() -> list[Told]:
    """In the order in which they are told. One query."""
    own = {row.slug: row for row in ShopPage.objects.all()}
    return [
        Told(slug, own[slug].title, own[slug].text, own=True) if slug in own else Told(slug, *standard)
        for slug, standard in STANDARD.items()
    ]


@transaction.atomic
def word_page(person: Person, slug: str, title: str, text: str) -> None:
    """Say it in the owner’s words; what is word for word the standard page takes that one back."""
    require(person, "word the shop’s pages")
    if slug not in STANDARD:
        raise Refused("There is no such page.")
    now = page_of(slug)
    if now and (now.title, now.text) == (title, text):
        return
    history.record(
        person, "selling.word_page", HistoryEntry.Subject.SHOP, 0, f"Page “{title}” of the shop: {text}", slug=slug
    )
    if (title, text) == STANDARD[slug]:
        ShopPage.objects.filter(slug=slug).delete()
    else:
        ShopPage.objects.update_or_create(slug=slug, defaults={"title": title, "text": text})

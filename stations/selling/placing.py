"""Where a unit is offered: what should stand on each channel, put in motion whenever something of it changes."""

import hashlib
import json
import re
from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import F, Q
from django.urls import reverse

from core.flow.stage import State
from core.selling.listing import write_title
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.queue.services import put
from stations.selling import holding, market, price_steps, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.models import Channel, Listing, ListingWord, Placement
from stations.selling.pictures import pictures_of
from stations.units import stages
from stations.units.models import Unit

UNIT = HistoryEntry.Subject.UNIT
# So many are told of at once.
MOST_AT_ONCE = 200
# What is wanted of a channel that answers by itself is told by work of this kind.
TELL = "tell a channel"
# Of what stands otherwise than it is wanted, or is not known to stand so.
DOWN_UNCONFIRMED = Q(wanted=False) & ~Q(stands=False)
NOT_AS_WANTED = (
    Q(wanted=True) & ~Q(stands=True) | Q(wanted=False) & ~Q(stands=False) | Q(wanted=True, confirmed__lt=F("turn"))
)


@transaction.atomic
def offer_on(person: Person, unit: Unit, channel: Channel) -> Placement:
    """Have the unit on this channel as well; it is put up there as long as it is on offer."""
    require(person, "list a unit")
    if not channel.in_use:
        raise Refused(f"We don’t sell on {channel} any more.")
    unit = lock_row(Unit.objects.all(), unit)
    stages.refuse_gone(unit, "where it was offered")
    listing = Listing.objects.filter(unit=unit).first()
    if listing and listing.asking is not None and not listing.below_floor_reason:
        try:
            _, floor = market.unit_books(unit).floors(channel)
        except ValueError as problem:
            raise Refused(str(problem)) from problem
        if listing.asking < floor:
            raise Refused(
                f"There the floor is {floor}, and {listing.asking} is asked: it would not earn back its cost. "
                "Ask more, or say why with the price."
            )
    placement = place(unit, channel)
    history.record(person, "selling.offer_on", UNIT, unit.pk, f"To be offered on {channel}", channel=channel.pk)
    settle(unit)
    return placement


@transaction.atomic
def take_off(person: Person, placement: Placement) -> None:
    """Have it there no longer; it may still be on offer there until the channel has confirmed."""
    require(person, "end a listing")
    unit = lock_row(Unit.objects.all(), placement.unit)
    if not Placement.objects.filter(pk=placement.pk, chosen=True).update(chosen=False, changed_at=clock.now()):
        raise Refused("It was taken off there already.")
    history.record(person, "selling.take_off", UNIT, unit.pk, f"No longer offered on {placement.channel}")
    settle(unit)


@transaction.atomic
def take_all_off(person: Person, channel: Channel) -> int:
    """Have nothing there any longer; answers how much that was."""
    require(person, "end a listing")
    rows = list(
        channel.placements.filter(chosen=True).select_related("unit", "channel").order_by("unit_id")[:MOST_AT_ONCE]
    )
    if not rows:
        raise Refused("Nothing is to be offered there.")
    for row in rows:
        take_off(person, row)
    return len(rows)


@transaction.atomic
def confirm(person: Person, placement: Placement, seen_turn: int | None) -> None:
    """Say that it was put up, changed or taken down, on a channel that somebody serves by hand: as it was to stand in
    the turn that was seen. Refused where it is to stand otherwise by now."""
    require(person, "list a unit")
    lock_row(Unit.objects.all(), placement.unit)
    placement = lock_row(Placement.objects.select_related("channel"), placement)
    if not placement.channel.by_hand:
        raise Refused(f"{placement.channel} confirms that itself.")
    if placement.standing.settled:
        raise Refused(f"It is {placement.standing.words} already.")
    if placement.turn != seen_turn:
        raise Refused(f"Meanwhile it is {placement.standing.words} on {placement.channel}: look at it again.")
    words = "Put up" if placement.wanted else "Taken down"
    told = by_hand(Listing.objects.get(unit=placement.unit_id)) if placement.wanted else ""
    Placement.objects.filter(pk=placement.pk).update(
        stands=placement.wanted, confirmed=placement.turn, told=told, trouble="", changed_at=clock.now()
    )
    history.record(person, "selling.confirm", UNIT, placement.unit_id, f"{words} on {placement.channel}")


def by_hand_to_do(channel: Channel) -> list[Placement]:
    """What somebody has to put up, change or take down there, the first MOST_AT_ONCE: one query."""
    if not channel.by_hand:
        return []
    rows = channel.placements.filter(NOT_AS_WANTED).select_related("unit", "channel").order_by("unit_id")
    return [row for row in rows[:MOST_AT_ONCE] if row.by_hand_to_do]


@transaction.atomic
def confirm_all(person: Person, channel: Channel, seen: Mapping[int, int]) -> int:
    """Say that all there was to do there by hand was done, as it was seen: turns by placement. What came since is still
    to do. Answers how much that was."""
    require(person, "list a unit")
    found = [row for row in by_hand_to_do(channel) if row.pk in seen]
    if not found:
        raise Refused("There is nothing to do there.")
    for row in found:
        confirm(person, row, seen[row.pk])
    return len(found)


def to_come_down(channel: Channel) -> list[Placement]:
    """What is to come down there and is not known to have, the first MOST_AT_ONCE: one query."""
    return list(channel.placements.filter(DOWN_UNCONFIRMED).select_related("unit").order_by("unit_id")[:MOST_AT_ONCE])


@transaction.atomic
def found_down(person: Person, channel: Channel, seen: Mapping[int, int]) -> int:
    """Somebody looked on a marketplace that does not answer, or is gone: what was to come down, by turn as it was seen,
    does not stand there. Answers how much that was."""
    require(person, "list a unit")
    if not channel.answers_itself or channel.trouble_since is None:
        raise Refused(f"{channel} confirms that itself." if channel.answers_itself else "Say so at each unit.")
    rows = [row for row in to_come_down(channel) if seen.get(row.pk) == row.turn]
    if not rows:
        raise Refused("There is nothing to come down there.")
    for row in rows:
        lock_row(Unit.objects.all(), row.unit)
        down = Placement.objects.filter(DOWN_UNCONFIRMED, pk=row.pk, turn=row.turn)
        if down.update(stands=False, confirmed=F("turn"), trouble="", changed_at=clock.now()):
            words = f"Not on {channel} any more: somebody looked, it did not answer"
            history.record(person, "selling.found_down", UNIT, row.unit_id, words, channel=channel.pk)
    return len(rows)


def refuse_left_there(channel: Channel) -> None:
    """Raise Refused while something is on offer on the channel, may be, or is priced for it."""
    for rows, words in (
        (channel.placements.filter(Q(wanted=True) | ~Q(stands=False)), "on offer there, or may still be"),
        (channel.listings.filter(status=Listing.Status.LIVE), "priced for it"),
    ):
        if there := [row.unit for row in rows.select_related("unit").order_by("unit_id")[:6]]:
            named = ", ".join(str(unit.tag) for unit in there[:5]) + (" and more" if there[5:] else "")
            raise Refused(f"{named}: {words}. Take that off, or price it for another, first.", "in_use")


def place(unit: Unit, channel: Channel) -> Placement:
    """Chosen for this channel, whether or not it may be there now."""
    row, _ = Placement.objects.update_or_create(
        unit=unit, channel=channel, defaults={"chosen": True}, create_defaults={"changed_at": clock.now()}
    )
    return row


def take_over(channel: Channel) -> None:
    """The first channel that is our public shop has all that the shop showed without one."""
    if Channel.objects.filter(kind=Channel.Kind.SHOP).exclude(pk=channel.pk).exists():
        return
    now, shown = clock.now(), Listing.objects.filter(status=Listing.Status.LIVE)
    Placement.objects.bulk_create(
        (
            Placement(
                unit_id=unit, channel=channel, wanted=on_show, stands=on_show, turn=1, confirmed=1, changed_at=now
            )
            for unit, on_show in shown.values_list("unit", "on_show")
        ),
        batch_size=500,
        ignore_conflicts=True,
    )


def settle(unit: Unit, *, look_again: bool = True) -> None:
    """Work out what should stand where, and set it in motion; `look_again`: what is told of it may be otherwise now.

    The caller holds the unit. A reserved unit stays in our own shop, as reserved, and is on offer nowhere else.
    """
    listing = Listing.objects.filter(unit=unit).first()
    on_offer = listing is not None and listing.is_live and unit.state == State.MOVING
    free = on_offer and holding.reserved(unit) is None
    placements = list(unit.placements.select_related("channel"))
    for row in placements:
        wanted = row.chosen and row.channel.in_use and (free or (on_offer and row.channel.is_shop))
        if wanted == row.wanted and not (wanted and _differs(row, listing)):
            continue
        turned = Placement.objects.filter(pk=row.pk)
        turned.update(wanted=wanted, turn=F("turn") + 1, changed_at=clock.now())
        if row.channel.is_shop:
            # Our own pages show what is so.
            turned.update(stands=wanted, confirmed=F("turn"))
        elif row.channel.answers_itself:
            put(TELL, {"placement": row.pk})
        elif row.stands is False and not wanted:
            # It never was put up there.
            turned.update(confirmed=F("turn"))
    if listing is not None:
        if listing.is_live:
            price_steps.go_by(unit, listing, free)
        in_shop = any(row.chosen and row.channel.is_shop for row in placements)
        shown = on_offer and (in_shop or not Channel.objects.filter(kind=Channel.Kind.SHOP).exists())
        given = unit.grades.order_by("-id").first()
        grade = given.grade if given else ""
        changed = {"on_show": shown, "grade": grade, "shape": unit.form_factor}
        Listing.objects.filter(pk=listing.pk).update(**changed, **({"looked_at": None} if look_again else {}))
        if shown:
            _keep_words(listing)


def _keep_words(listing: Listing) -> None:
    """What it is found by in the shop: a query, and two more where its title is another."""
    wanted, there = words_of(listing.title), set(listing.words.values_list("word", flat=True))
    if wanted != there:
        listing.words.exclude(word__in=wanted).delete()
        # Two that the database takes for the same, as “cafe” and “café”, are one.
        fresh = (ListingWord(listing=listing, word=word) for word in sorted(wanted - there))
        ListingWord.objects.bulk_create(fresh, ignore_conflicts=True)


def words_of(text: str) -> set[str]:
    """The words of a title, or of what somebody looks for, as they are compared."""
    return {word[:24] for word in re.findall(r"\w+", text.casefold())}


def follow(units: list[Unit]) -> None:
    """Something of these units changed: what stands on the channels follows. One query where none is offered."""
    begun = Listing.objects.filter(unit__in=units).exclude(status=Listing.Status.DRAFT)
    for pk in begun.order_by("unit_id").values_list("unit_id", flat=True):
        settle(next(unit for unit in units if unit.pk == pk))


def unsettled(channel: Channel) -> list[int]:
    """Placements of which the channel has still to be told something, the oldest first; a few at a time."""
    rows = channel.placements.filter(NOT_AS_WANTED)
    return list(rows.order_by("changed_at").values_list("pk", flat=True)[:50])


def _differs(row: Placement, listing: Listing | None) -> bool:
    """Whether something else may be wanted there than what stands. What a marketplace was told is compared when it is
    told again: what must be said is part of that, and takes some reading."""
    if listing is None or row.channel.is_shop:
        return False
    return row.channel.answers_itself or (row.stands is True and row.told != by_hand(listing))


def by_hand(listing: Listing) -> str:
    """A digest of what somebody has put up by hand."""
    return digest({"title": listing.title, "text": listing.text, "asking": str(listing.asking)})


def on_the_channel(unit: Unit, listing: Listing, channel: Channel) -> dict[str, Any]:
    """What a marketplace is told of a unit: a title within its length (as the record has it where the seller’s is too
    long), the text with all that must be said, price, pictures by worth."""
    facts, longest = listing_facts(unit), channel.title_length
    return {
        "title": listing.title if len(listing.title) <= longest else write_title(facts, longest),
        "text": wording.in_full(listing, facts),
        "price": str(listing.asking),
        "currency": base_currency(),
        "pictures": [
            settings.PUBLIC_URL + reverse("shop:picture", args=[picture.photo.pk, "full"])
            for picture in pictures_of(unit)
            if settings.PUBLIC_URL
        ],
    }


def digest(wanted: dict[str, Any]) -> str:
    return hashlib.sha256(json.dumps(wanted, sort_keys=True).encode()).hexdigest()

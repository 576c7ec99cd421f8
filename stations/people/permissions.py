"""Who may do what: one table, asked by every service that writes and by the pages that offer it."""

from collections.abc import Mapping

from stations.common.refusals import NotAllowed
from stations.people.models import Person, Role

_OWNER: frozenset[Role] = frozenset()
_BENCH = frozenset({Role.TECHNICIAN})
_BUYING = frozenset({Role.BUYER})
_SELLING = frozenset({Role.SELLER})

# What a person wants to do, in the words of a refusal: "You may not …"; and who may besides an owner, who may all.
PERMISSIONS: Mapping[str, frozenset[Role]] = {
    # people
    "add somebody": _OWNER,
    "say what somebody is called": _OWNER,
    "say who may do what": _OWNER,
    "retire somebody": _OWNER,
    "bring somebody back": _OWNER,
    "make a one-time address": _OWNER,
    "sign somebody out": _OWNER,
    "end the token of somebody else": _OWNER,
    "take a second factor away": _OWNER,
    "change the settings of the shop": _OWNER,
    "try queued work again": _OWNER,
    "make a backup": _OWNER,
    "take a backup out": _OWNER,
    "bring lost files back": _OWNER,
    # day
    "plan the day": _BENCH,
    "say when somebody works": _OWNER,
    "say one’s own hours": _BENCH | _SELLING | _BUYING,
    "make a promise": _BENCH | _SELLING,
    "begin and end a task": _BENCH | _SELLING | _BUYING,
    "have a calendar address": _BENCH | _SELLING | _BUYING,
    "decide to stop or go on": _BENCH,
    # catalogue
    "change a model": _BENCH | _BUYING,
    "import models": _BENCH | _BUYING,
    "add a model": _BENCH | _BUYING,
    "add to the model bank": _BENCH | _BUYING,
    "change the recipes": _BENCH,
    "change what is known to fail": _BENCH | _BUYING,
    "say what a part needs": _BENCH | _BUYING,
    "write down what was tried": _BENCH | _BUYING,
    # stock
    "add stock": _BENCH | _BUYING,
    "count a drawer": _BENCH | _BUYING,
    "correct a condition": _BENCH,
    "order parts": _BENCH | _BUYING,
    "take a parcel in": _BENCH | _BUYING,
    "import stock": _BENCH | _BUYING,
    # buying
    "import a manifest": _BUYING,
    "plan a bid": _BUYING,
    "change a plan": _BUYING,
    "set our limit": _BUYING,
    "decide on a plan": _BUYING,
    "buy a lot": _BUYING,
    "change the starting odds": _OWNER,
    "fetch exchange rates": _BUYING,
    "record a lot": _BUYING,
    "correct a lot": _BUYING,
    "share a lot’s cost": _BUYING,
    # units
    "measure colour": _BENCH | _BUYING,
    "change the wanted list": _BENCH | _BUYING,
    "record findings": _BENCH | _BUYING,
    "move findings": _BENCH | _BUYING,
    "settle findings": _BENCH,
    "print labels": _BENCH | _BUYING | _SELLING,
    "say where a unit stands": _BENCH | _BUYING | _SELLING,
    "say what was seen of a unit": _BENCH | _BUYING | _SELLING,
    "add photos": _BENCH | _BUYING | _SELLING,
    "sort photos": _BENCH | _BUYING | _SELLING,
    "record facts": _BENCH | _BUYING,
    "record parts": _BENCH | _BUYING,
    "move parts": _BENCH,
    "test a part": _BENCH,
    "write a part off": _BENCH,
    # intake
    "record whose it is": _BENCH | _BUYING,
    "record what data it may hold": _BENCH | _BUYING,
    "tick off contents": _BENCH | _BUYING,
    "identify a unit": _BENCH | _BUYING,
    "import a unit": _BENCH | _BUYING,
    "receive units": _BENCH | _BUYING,
    "take back what was received": _BENCH | _BUYING,
    "choose the approach": _BENCH | _BUYING,
    "finish intake": _BENCH | _BUYING,
    "look a unit over": _BENCH | _BUYING,
    "park a unit": _BENCH,
    "take a unit up again": _BENCH,
    "write a unit off": _OWNER,
    "take a write-off back": _OWNER,
    "give a unit back": _BENCH,
    "take a unit back in": _BENCH,
    "record sanitising": _BENCH,
    "decide what becomes of a unit": _BENCH | _BUYING,
    "say that sanitising does not hold": _BENCH,
    # bench
    "record benchmarks": _BENCH,
    "look for a fault": _BENCH,
    "close a fault": _BENCH,
    "change the known-good shelf": _BENCH,
    "command an instrument": _BENCH,
    "set up instruments": _OWNER,
    "change the checks": _OWNER,
    "write at the bench": _BENCH,
    "test a unit": _BENCH,
    "take over a run": _BENCH,
    "record test results": _BENCH,
    "record starts": _BENCH,
    "end a test run": _BENCH,
    "waive a gate or a time": _OWNER,
    "stop a unit": _BENCH,
    "end a hold": _BENCH,
    "record a discharge": _BENCH,
    "start a timer": _BENCH,
    "stop a timer": _BENCH,
    # workshop
    "open a job": _BENCH,
    "change a job": _BENCH,
    "finish a job": _BENCH,
    "make a fix good": _BENCH,
    "reserve parts": _BENCH,
    "issue parts": _BENCH,
    "return parts": _BENCH,
    "record labour": _BENCH,
    "correct labour": _BENCH,
    "correct somebody else’s labour": _OWNER,
    "correct labour on what left the house": _OWNER,
    "take a unit apart": _BENCH,
    "take a machine apart and close it": _BENCH,
    "write a treatment report": _BENCH,
    "record settings": _BENCH,
    "record the state as found": _BENCH,
    "keep what is known": _BENCH | _BUYING,
    "work through a recipe": _BENCH,
    "take over a job": _BENCH,
    "override what the approach refuses": _OWNER,
    "keep a what-if": _BENCH | _BUYING,
    "change what buyers pay for": _BENCH | _BUYING | _SELLING,
    # selling
    "grade a unit": _BENCH | _SELLING,
    "add a channel": _SELLING,
    "connect a marketplace": _OWNER,
    "word the shop’s pages": _OWNER,
    "add comparables": _BUYING | _SELLING,
    "set a price": _SELLING,
    "write a listing": _SELLING,
    "list a unit": _SELLING,
    "word a listing’s sentences": _OWNER,
    "answer an offer": _SELLING,
    "reserve a unit": _SELLING,
    "put a bundle together": _SELLING,
    "end a listing": _SELLING,
    "record a sale": _SELLING,
    "take a payment": _SELLING,
    # dispatch
    "issue a receipt": _SELLING,
    "pack a parcel": _BENCH | _SELLING,
    "send a parcel": _BENCH | _SELLING,
    "close a sale": _SELLING,
    "call a sale off": _SELLING,
    "settle a return": _SELLING,
    "take a return in": _BENCH | _SELLING,
    "claim from a carrier": _SELLING,
    "pay an owner": _SELLING,
    "change boxes and carriers": _SELLING,
    "change the terms of sale": _OWNER,
    # books
    "close a tax period": _OWNER,
    "take a unit out of global accounting": _OWNER,
}


def may(person: Person, to: str) -> bool:
    """Whether the person may do it. `to` is a key of PERMISSIONS; a KeyError is a programming error."""
    return bool(person.role_names & {Role.OWNER, *PERMISSIONS[to]})


def who_may(to: str) -> list[str]:
    """The roles that may, an owner last."""
    return [role.value for role in Role if role in PERMISSIONS[to]] + [Role.OWNER.value]


def only(to: str) -> str:
    """Who may, in words."""
    allowed = " or ".join(f"{'an' if role == Role.OWNER else 'a'} {role}" for role in who_may(to))
    return f"Only {allowed} may {to}."


def require(person: Person, to: str) -> None:
    """Raise NotAllowed, in words, unless `person` may do what `to` says."""
    if not may(person, to):
        raise NotAllowed(f"{only(to)} You can read everything here.")

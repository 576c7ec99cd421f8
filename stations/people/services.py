"""What an owner does with the people of the shop, and what everybody does with their own sign-in."""

from collections.abc import Iterable

from django.contrib.auth.tokens import default_token_generator
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from stations.common.refusals import Refused
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person, PersonRole, ReadToken, Role
from stations.people.permissions import require

ABOUT = HistoryEntry.Subject.PERSON


def add_person(owner: Person, username: str, first_name: str, last_name: str, roles: Iterable[str]) -> Person:
    """Somebody new, who can't sign in before choosing a password at a one-time address."""
    require(owner, "add somebody")
    person = Person(username=username, first_name=first_name, last_name=last_name)
    person.set_unusable_password()
    person.save()
    PersonRole.objects.bulk_create(PersonRole(person=person, role=role) for role in sorted(set(roles)))
    history.record(owner, "people.add_person", ABOUT, person.pk, f"Added: {may_act_as(roles)}")
    return person


def name_person(owner: Person, person: Person, username: str, first_name: str, last_name: str) -> None:
    """What somebody is called, and signs in as, from now on: also beside everything done before."""
    require(owner, "say what somebody is called")
    names = {"username": username, "first_name": first_name, "last_name": last_name}
    history.changed(owner, "people.name_person", ABOUT, person.pk, "Called otherwise", person, names)
    Person.objects.filter(pk=person.pk).update(**names)


def give_roles(owner: Person, person: Person, roles: Iterable[str], seen: Iterable[str]) -> None:
    """The roles from now on; refused when they are no longer those that were `seen`, or nobody would own the shop."""
    require(owner, "say who may do what")
    shop_settings.take_turns()
    wanted = set(roles)
    held = set(person.roles.values_list("role", flat=True))
    if held != set(seen):
        raise Refused(f"Somebody else changed this meanwhile: {may_act_as(held)}. Look again, then save.", "roles")
    if held == wanted:
        return
    if Role.OWNER in held - wanted and (why := why_kept(person)):
        raise Refused(why, "roles")
    person.roles.exclude(role__in=wanted).delete()
    PersonRole.objects.bulk_create(PersonRole(person=person, role=role) for role in sorted(wanted - held))
    history.record(
        owner,
        "people.give_roles",
        ABOUT,
        person.pk,
        f"Now: {may_act_as(wanted)}; before: {may_act_as(held)}",
        before=sorted(held),
        after=sorted(wanted),
    )


def retire(owner: Person, person: Person) -> None:
    """No longer signs in; everything done under the name stays."""
    require(owner, "retire somebody")
    shop_settings.take_turns()
    person.refresh_from_db()
    if not person.is_active:
        raise Refused(f"{person.name} is retired already.")
    if why := why_kept(person):
        raise Refused(why)
    _set_active(person, False)
    ReadToken.objects.filter(person=person).delete()
    history.record(owner, "people.retire", ABOUT, person.pk, "Retired: signs in no longer")


def bring_back(owner: Person, person: Person) -> None:
    require(owner, "bring somebody back")
    person.refresh_from_db()
    if person.is_active:
        raise Refused(f"{person.name} is not retired.")
    _set_active(person, True)
    history.record(owner, "people.bring_back", ABOUT, person.pk, "Brought back: may sign in again")


def new_address(owner: Person, person: Person) -> str:
    """A path at which the person chooses a password once, within PASSWORD_RESET_TIMEOUT; signing in ends it too."""
    require(owner, "make a one-time address")
    if not person.is_active:
        raise Refused(f"{person.name} is retired. Bring them back first.")
    history.record(owner, "people.new_address", ABOUT, person.pk, "Given a one-time address to choose a password")
    return one_time_address(person)


def choose_password(person: Person) -> None:
    """That somebody does so at a one-time address; the password itself is Django's to keep."""
    history.record(person, "people.choose_password", ABOUT, person.pk, "Chose a password at a one-time address")


def change_password(person: Person) -> None:
    """That somebody does so, knowing the old one."""
    history.record(person, "people.change_password", ABOUT, person.pk, "Changed the own password")


def one_time_address(person: Person) -> str:
    who = urlsafe_base64_encode(force_bytes(person.pk))
    return reverse("people:one-time", args=[who, default_token_generator.make_token(person)])


def may_act_as(roles: Iterable[str]) -> str:
    """In the order of the roles, such as "technician, seller"; "may only look" for none."""
    held = set(roles)
    return ", ".join(role.label for role in Role if role in held) or "may only look"


def is_begun() -> bool:
    """An owner can sign in."""
    return any(owner.has_begun for owner in Person.objects.filter(is_active=True, roles__role=Role.OWNER))


def first_owner() -> Person | None:
    """Whoever is to begin an empty shop; None when an owner can sign in already."""
    if is_begun():
        return None
    owners = Person.objects.filter(is_active=True, roles__role=Role.OWNER)
    person = owners.first()
    if person is None:
        person = Person.objects.create_user("owner")
        PersonRole.objects.create(person=person, role=Role.OWNER)
    return person


def why_kept(person: Person) -> str:
    """Why somebody can’t cease to be an owner: nobody else who is one can sign in. Empty where one can, or this is
    none."""
    others = Person.objects.filter(is_active=True, roles__role=Role.OWNER).exclude(pk=person.pk)
    if Role.OWNER not in person.roles.values_list("role", flat=True) or any(other.has_begun for other in others):
        return ""
    return f"{person.name} is the only owner who can sign in: make somebody else an owner first."


def _set_active(person: Person, active: bool) -> None:
    person.is_active = active
    person.save(update_fields=["is_active"])

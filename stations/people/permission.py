"""Who may do what: asked at the start of every service that writes."""

from stations.common.refusals import NotAllowed
from stations.people.models import Person, Role


def may(person: Person, *roles: str) -> bool:
    """Whether the person holds one of the roles; an owner holds all."""
    return bool(person.role_names & {Role.OWNER, *roles})


def require(person: Person, *roles: str, to: str) -> None:
    """Raise NotAllowed unless `person` holds one of `roles`. `to` says what they wanted: "record a lot"."""
    if not may(person, *roles):
        allowed = " or ".join(
            f"{'an' if role == Role.OWNER else 'a'} {role}" for role in dict.fromkeys([*roles, Role.OWNER])
        )
        raise NotAllowed(f"Only {allowed} may {to}. You can read everything here.")

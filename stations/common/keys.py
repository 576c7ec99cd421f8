"""What tells one press of a button from another."""

import uuid


def new_key() -> str:
    return uuid.uuid4().hex

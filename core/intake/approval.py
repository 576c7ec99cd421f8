"""Approval numbers of radio-frequency rules: who was granted it, and for which product.

47 CFR 2.926: a grantee code of three characters, or five when it begins with a digit, then the product
code: capital letters, digits and hyphens, 14 at most.
"""

import re
from dataclasses import dataclass

_PRODUCT = re.compile(r"[0-9A-Z-]{1,14}")


class ApprovalError(ValueError):
    """Not an approval number; the message says why."""


@dataclass(frozen=True)
class Approval:
    grantee: str
    product: str


def read_approval(text: str) -> Approval:
    """Grantee and product code of a number as it stands on a plate, with or without blanks."""
    bare = re.sub(r"^(FCC)? *ID[:.]?", "", text.strip().upper()).replace(" ", "")
    if not re.fullmatch(r"[0-9A-Z][0-9A-Z-]*", bare):
        raise ApprovalError("An approval number has letters, digits and hyphens only.")
    length = 5 if bare[0].isdigit() else 3
    # A hyphen right after the grantee code is how plates are often set, no part of the code (common practice).
    grantee, product = bare[:length], bare[length:].removeprefix("-")
    if len(grantee) < length or "-" in grantee:
        raise ApprovalError(f"The grantee code at its head has {length} letters or digits.")
    if not _PRODUCT.fullmatch(product):
        raise ApprovalError("After the grantee code comes a product code of 1 to 14 letters, digits and hyphens.")
    return Approval(grantee, product)

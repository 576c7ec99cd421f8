"""When two names are one: by what is seen, whatever signs stand behind it."""

import unicodedata

# Told apart by their signs alone, which the collation does not look at: no decomposition of Unicode says so.
_ALIKE = str.maketrans({"œ": "oe", "Œ": "oe", "ґ": "г", "Ґ": "г", "ͺ": "ι", "ƍ": "zw", "ƾ": "ts"})


def as_seen(name: str) -> str:
    """What the eye tells two names apart by: no case, accents, doubled spaces or signs that aren't seen.

    At least as coarse as the database's collation (utf8mb4_unicode_ci), so that what differs here differs there.
    """
    letters = [
        letter
        for letter in unicodedata.normalize("NFKD", name.translate(_ALIKE))
        if unicodedata.category(letter) not in {"Mn", "Me", "Cf", "Cc", "Cs", "Cn"} or letter.isspace()
    ]
    return " ".join("".join(letters).casefold().split())

"""When two names are one: by what is seen, whatever signs stand behind it."""

import unicodedata


def as_seen(name: str) -> str:
    """What the eye tells two names apart by: no case, accents, doubled spaces or signs that aren't seen.

    At least as coarse as the database's collation (utf8mb4_unicode_ci), so that what differs here differs there.
    """
    letters = [
        letter
        for letter in unicodedata.normalize("NFKD", name)
        if unicodedata.category(letter) not in {"Mn", "Me", "Cf", "Cc", "Cs", "Cn"} or letter.isspace()
    ]
    return " ".join("".join(letters).casefold().split())

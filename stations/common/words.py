"""Words: rows that hold those somebody looks for, and how they read in a sentence."""

from django.db.models import Q

# What is typed past these narrows nothing: nobody looks for a sentence.
MOST_WORDS = 6


def words_in(typed: str, *fields: str) -> Q:
    """Each of the words stands in one of the fields, whatever their order; whether letters are large or have accents
    is the database’s to say. Nothing typed holds everywhere."""
    found = Q()
    for word in typed.split()[:MOST_WORDS]:
        one = Q()
        for field in fields:
            one |= Q(**{f"{field}__icontains": word})
        found &= one
    return found


def holds(typed: str, text: str) -> bool:
    """The same of a text that is in no table."""
    inside = text.casefold()
    return all(word.casefold() in inside for word in typed.split()[:MOST_WORDS])


def lower_first(words: str) -> str:
    """As it reads where it does not begin one."""
    return words[:1].lower() + words[1:]

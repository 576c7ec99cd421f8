"""A listing in one piece, as its buyers read it."""

from collections.abc import Mapping

from core.selling.disclosure import told, with_wordings
from core.selling.listing import STANDARD, ListingFacts, disclosures, narrative, write_title


def write_listing(
    facts: ListingFacts, title_length: int = 80, sentences: Mapping[str, str] = STANDARD
) -> tuple[str, str]:
    """Title, and text with all that must be said at its end."""
    parts = [*narrative(facts, sentences).values(), *told(with_wordings(disclosures(facts), facts.wordings), sentences)]
    return write_title(facts, title_length), "\n\n".join(parts)

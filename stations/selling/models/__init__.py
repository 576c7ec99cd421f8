"""Channels, comparables, grades, listings, offers and sales."""

from stations.selling.models.market import GRADES, Channel, Comparable, ComparableFile
from stations.selling.models.offer import (
    DisclosureWording,
    Listing,
    ListingSentence,
    Offer,
    PriceStep,
    Reserved,
    UnitGrade,
)
from stations.selling.models.sale import Sale

__all__ = [
    "GRADES",
    "Channel",
    "Comparable",
    "ComparableFile",
    "DisclosureWording",
    "Listing",
    "ListingSentence",
    "Offer",
    "PriceStep",
    "Reserved",
    "Sale",
    "UnitGrade",
]

"""Channels, comparables, grades, listings, offers and sales."""

from stations.selling.models.market import GRADES, Channel, Comparable, ComparableFile
from stations.selling.models.offer import (
    DisclosureWording,
    Listing,
    ListingSentence,
    ListingWord,
    Offer,
    PriceStep,
    Reserved,
    UnitGrade,
)
from stations.selling.models.pictures import PhotoMark, ShownPhoto
from stations.selling.models.places import Bundle, ChannelMessage, Placement, Question, ShopPage
from stations.selling.models.sale import FeeChange, Payment, Sale

__all__ = [
    "GRADES",
    "Bundle",
    "Channel",
    "ChannelMessage",
    "Comparable",
    "ComparableFile",
    "DisclosureWording",
    "FeeChange",
    "Listing",
    "ListingSentence",
    "ListingWord",
    "Offer",
    "Payment",
    "PhotoMark",
    "Placement",
    "PriceStep",
    "Question",
    "Reserved",
    "Sale",
    "ShopPage",
    "ShownPhoto",
    "UnitGrade",
]

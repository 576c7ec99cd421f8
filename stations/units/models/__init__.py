from stations.units.models.condition import PRESENCES, Clip, ColourSample, Content, Finding, Photo, UnitFact
from stations.units.models.offers import PartOffer, PartSeller
from stations.units.models.unit import APPROACHES, Unit

__all__ = [
    "APPROACHES",
    "PRESENCES",
    "Clip",
    "ColourSample",
    "Content",
    "Finding",
    "PartOffer",
    "PartSeller",
    "Photo",
    "Unit",
    "UnitFact",
]

from stations.units.models.condition import PRESENCES, Clip, ColourSample, Content, Finding, Photo, UnitFact
from stations.units.models.fit import UnitFit
from stations.units.models.parts import DrawerReceipt, Part, PartMove, PartTest
from stations.units.models.unit import APPROACHES, OwnersTerms, Unit
from stations.units.models.wanted import WantedPart

__all__ = [
    "APPROACHES",
    "PRESENCES",
    "Clip",
    "ColourSample",
    "Content",
    "DrawerReceipt",
    "Finding",
    "OwnersTerms",
    "Part",
    "PartMove",
    "PartTest",
    "Photo",
    "Unit",
    "UnitFact",
    "UnitFit",
    "WantedPart",
]

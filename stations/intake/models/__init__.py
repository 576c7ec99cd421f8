from stations.intake.models.bank import ExpectedItem, MachineModel, SerialPattern, VariantRule
from stations.intake.models.condition import PRESENCES, Clip, ColourSample, Content, Finding, Photo, UnitFact
from stations.intake.models.units import APPROACHES, Unit

__all__ = [
    "APPROACHES",
    "PRESENCES",
    "Clip",
    "ColourSample",
    "Content",
    "ExpectedItem",
    "Finding",
    "MachineModel",
    "Photo",
    "SerialPattern",
    "Unit",
    "UnitFact",
    "VariantRule",
]

from stations.buying.models.lots import (
    Claim,
    LineKind,
    LineShare,
    Lot,
    LotCharge,
    LotLine,
    Sharing,
    SourceKind,
    Supplier,
)
from stations.buying.models.manifests import Manifest
from stations.buying.models.plans import BidPlan, PlanCase, PlanLine, StartingOdds, TurnedOut

__all__ = [
    "BidPlan",
    "Claim",
    "LineKind",
    "LineShare",
    "Lot",
    "LotCharge",
    "LotLine",
    "Manifest",
    "PlanCase",
    "PlanLine",
    "Sharing",
    "SourceKind",
    "StartingOdds",
    "Supplier",
    "TurnedOut",
]

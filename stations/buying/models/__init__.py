from stations.buying.models.lots import (
    ChargeShare,
    Claim,
    ExchangeRate,
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
from stations.buying.models.plans import BidPlan, LineAnswer, PlanCase, PlanLine, StartingOdds, ToldOutcome, TurnedOut

__all__ = [
    "BidPlan",
    "ChargeShare",
    "Claim",
    "ExchangeRate",
    "LineAnswer",
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
    "ToldOutcome",
    "TurnedOut",
]

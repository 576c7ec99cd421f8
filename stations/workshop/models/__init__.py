from stations.workshop.models.care import CarePlan, GlueWatch, Placement
from stations.workshop.models.decisions import StopDecision
from stations.workshop.models.jobs import Job, JobQuerySet, JobStep, LabourEntry, PartIssue, RecoveredPart, Reservation
from stations.workshop.models.openings import OpenedAssembly, Opening, UnitStripDown
from stations.workshop.models.records import Knowledge, Setting, SettingTrial, StateAsFound, TreatmentNote
from stations.workshop.models.storage import (
    FirmwareChange,
    InstallAttempt,
    MediumRead,
    PlannedStorage,
    Sanitising,
    SystemRules,
    TrackTable,
)
from stations.workshop.models.upgrades import BuyerTable, WhatIf

__all__ = [
    "BuyerTable",
    "CarePlan",
    "FirmwareChange",
    "GlueWatch",
    "InstallAttempt",
    "Job",
    "JobQuerySet",
    "JobStep",
    "Knowledge",
    "LabourEntry",
    "MediumRead",
    "OpenedAssembly",
    "Opening",
    "PartIssue",
    "Placement",
    "PlannedStorage",
    "RecoveredPart",
    "Reservation",
    "Sanitising",
    "Setting",
    "SettingTrial",
    "StateAsFound",
    "StopDecision",
    "SystemRules",
    "TrackTable",
    "TreatmentNote",
    "UnitStripDown",
    "WhatIf",
]

from stations.workshop.models.care import CarePlan, GlueWatch, Placement
from stations.workshop.models.jobs import Job, JobQuerySet, JobStep, LabourEntry, PartIssue, RecoveredPart, Reservation
from stations.workshop.models.openings import OpenedAssembly, Opening, UnitStripDown
from stations.workshop.models.records import Knowledge, Setting, StateAsFound, TreatmentNote
from stations.workshop.models.upgrades import BuyerTable, WhatIf

__all__ = [
    "BuyerTable",
    "CarePlan",
    "GlueWatch",
    "Job",
    "JobQuerySet",
    "JobStep",
    "Knowledge",
    "LabourEntry",
    "OpenedAssembly",
    "Opening",
    "PartIssue",
    "Placement",
    "RecoveredPart",
    "Reservation",
    "Setting",
    "StateAsFound",
    "TreatmentNote",
    "UnitStripDown",
    "WhatIf",
]

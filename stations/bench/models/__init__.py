from stations.bench.models.evidence import Benchmark, FaultCase, KnownGood, StartTrial, Try
from stations.bench.models.library import BenchCheck, Instrument
from stations.bench.models.runs import Discharge, PowerStop, StepNote, StepResult, StepTimer, TestRun

__all__ = [
    "BenchCheck",
    "Benchmark",
    "Discharge",
    "FaultCase",
    "Instrument",
    "KnownGood",
    "PowerStop",
    "StartTrial",
    "StepNote",
    "StepResult",
    "StepTimer",
    "TestRun",
    "Try",
]

from stations.bench.models.evidence import Benchmark, FaultCase, KnownGood, StartTrial, Try
from stations.bench.models.library import BenchCheck, Instrument
from stations.bench.models.runs import StepNote, StepResult, StepTimer, TestRun

__all__ = [
    "BenchCheck",
    "Benchmark",
    "FaultCase",
    "Instrument",
    "KnownGood",
    "StartTrial",
    "StepNote",
    "StepResult",
    "StepTimer",
    "TestRun",
    "Try",
]

from stations.bench.models.evidence import Benchmark, FaultCase, StartTrial, Try
from stations.bench.models.library import BenchCheck, Instrument
from stations.bench.models.runs import Discharge, PowerStop, StepNote, StepResult, StepTimer, TestRun

__all__ = [
    "BenchCheck",
    "Benchmark",
    "Discharge",
    "FaultCase",
    "Instrument",
    "PowerStop",
    "StartTrial",
    "StepNote",
    "StepResult",
    "StepTimer",
    "TestRun",
    "Try",
]

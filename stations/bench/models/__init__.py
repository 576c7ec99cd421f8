from stations.bench.models.faults import FaultCase, Try
from stations.bench.models.library import BenchCheck, Instrument
from stations.bench.models.runs import Discharge, PowerStop, StepNote, StepResult, StepTimer, TestRun
from stations.bench.models.trials import Benchmark, StartTrial

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

"""Benchmarks before and after."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.bench import benchmarks
from stations.bench.forms import BenchmarkForm
from stations.people.screens import saved
from stations.units.models import Unit


def benchmark(request, number):
    """Runs of one test before and after an upgrade, and whether it is a difference."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    form = BenchmarkForm(request.POST or None)
    if done := saved(
        request,
        form,
        lambda data: benchmarks.record_benchmark(request.user, row, benchmarks.BenchmarkRuns(**data)),
        reverse("bench:benchmark", args=[number]),
    ):
        return done
    context = {"unit": row, "form": form, "benchmarks": benchmarks.benchmarks_of(row)}
    return render(request, "bench/benchmark.html", context)

"""The bench calculators."""

from django.http import Http404
from django.shortcuts import render

from core.bench.calculators import CALCULATORS, calculate
from core.bench.electrics import Cell


def calculators(request):
    """The bench calculators; each answers while one types."""
    return render(request, "bench/calculators.html", {"cells": list(Cell)})


def calculator(request, what):
    """One calculator: a partial with its answer, or with what is wrong."""
    if what not in CALCULATORS:
        raise Http404
    context = {}
    try:
        context["said"] = calculate(what, request.GET)
    except (ValueError, ArithmeticError) as problem:
        context["problem"] = str(problem) or "That can’t be worked out."
    return render(request, "bench/_calculator.html", context)

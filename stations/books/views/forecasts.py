"""How our forecasts held, lot by lot."""

from django.shortcuts import render

from stations.books import forecasts


def held(request):
    return render(request, "books/forecasts.html", forecasts.page())

"""What the shop thought beforehand, and what came."""

from django.shortcuts import render

from stations.books.lessons import lessons


def learned(request):
    return render(request, "books/learned.html", {"lessons": lessons()})

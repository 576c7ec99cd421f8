"""What is shown when a request can't even be read."""

from django.http import HttpResponseBadRequest
from django.template.loader import render_to_string


def unreadable(request, exception):
    """Reads nothing of the request: Django's own page looks for a form in it, and breaks on the same."""
    return HttpResponseBadRequest(render_to_string("400.html"))

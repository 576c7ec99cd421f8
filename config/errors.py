"""What is shown when what was asked can't be answered, or not even be read."""

from django.http import HttpResponseBadRequest
from django.template.loader import render_to_string


def unreadable(request, exception):
    """Reads nothing of the request: Django's own page looks for a form in it, and breaks on the same."""
    return HttpResponseBadRequest(render_to_string("400.html"))


class OnlySent:
    """Middleware. An address that only takes what a form sends may be opened all the same: by a tab that a phone brings
    back, by an address that was copied. It says so, and is no empty page."""

    def __init__(self, get_response) -> None:
        self.get_response = get_response

    def __call__(self, request):
        answer = self.get_response(request)
        if answer.status_code == 405 and request.method == "GET":
            answer.content = render_to_string("405.html")
        return answer

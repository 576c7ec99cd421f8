"""What the scripts of a page are told when they send a form for it (static/js/saving.js)."""

from urllib.parse import quote

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import resolve_url


class Saving:
    """Middleware. To a script that sends a form, where it leads is told in a header, so that the page can go there
    itself, and why nothing was done; that one is signed out is told as 401, never as the sign-in page inside a panel.
    """

    def __init__(self, get_response) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        answer = self.get_response(request)
        scripted = "X-Saving" in request.headers or bool(request.headers.get("HX-Request"))
        if scripted and (why := getattr(request, "not_done", "")):
            answer["X-Not-Done"] = quote(why)
        if answer.status_code != 302:
            return answer
        leads_to, door = answer["Location"], resolve_url(settings.LOGIN_URL)
        signed_out = leads_to.partition("?")[0] == door and request.path != door
        if signed_out and scripted:
            return _told(answer, 401, "X-Sign-In", door)
        if "X-Saving" in request.headers:
            return _told(answer, 204, "X-Leads-To", leads_to)
        if signed_out and request.method != "GET":
            # Without scripts: what was posted to can seldom be looked at.
            answer["Location"] = door
        return answer


def _told(answer: HttpResponse, status: int, name: str, address: str) -> HttpResponse:
    kept = {"X-Not-Done": answer["X-Not-Done"]} if "X-Not-Done" in answer else {}
    told = HttpResponse(status=status, headers={name: address, **kept})
    told.cookies = answer.cookies
    return told

"""Programs that read in one’s name, and what they need for it."""

from django.shortcuts import render
from django.urls import reverse

from stations.people import tokens
from stations.people.forms import TokenForm
from stations.people.screens import saved

MADE = "new token"
READS = {
    "units": "api:units",
    "lots": "api:lots",
    "stock": "api:stock",
    "the book": "api:ledger",
}


def mine(request):
    """The tokens there are, and another one, which is shown once."""
    form, here = TokenForm(request.POST or None), reverse("people:programs")

    def act(data):
        request.session[MADE] = tokens.new_token(request.user, form.said)

    if done := saved(request, form, act, here):
        return done
    addresses = [(what, request.build_absolute_uri(reverse(name))) for what, name in READS.items()]
    context = {
        "form": form,
        "tokens": request.user.read_tokens.all(),
        "made": request.session.pop(MADE, ""),
        "addresses": addresses,
        "reads_at": addresses[0][1],
        "a_minute": tokens.A_MINUTE,
        "at_once": tokens.AT_ONCE,
    }
    return render(request, "people/programs.html", context, status=422 if form.errors else 200)

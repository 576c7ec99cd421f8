"""Somebody’s own second factor: begun with a phone, ended, other spare codes."""

from django.shortcuts import render
from django.urls import reverse
from django.utils.safestring import mark_safe

from stations.common import qr
from stations.people import door, second_factor
from stations.people.forms import CodeForm
from stations.people.screens import saved

OFFERED, SPARE = "offered secret", "spare codes"


def mine(request):
    """One page: what there is, or what a phone needs to begin. Spare codes are shown once."""
    factor, form = second_factor.of(request.user), CodeForm(request.POST or None)
    form.fields["code"].widget.attrs.pop("autofocus")
    if factor is None and OFFERED not in request.session:
        request.session[OFFERED] = second_factor.offered()
    secret = request.session.get(OFFERED, "")

    def act(data):
        if factor is None:
            request.session[SPARE] = second_factor.begin(request.user, secret, data["code"])
            del request.session[OFFERED]
        elif request.POST.get("act") == "codes":
            request.session[SPARE] = second_factor.new_codes(request.user, data["code"])
        else:
            second_factor.end(request.user, data["code"])

    if request.method == "POST" and factor and not door.may_try(request, request.user):
        return door.shut(request, request.user)
    if done := saved(request, form, act, reverse("people:second-factor")):
        return done
    if second_factor.WRONG in form.errors.get("code", ()):
        door.count_wrong(request, request.user)
    context = {"form": form, "factor": factor, "spare": request.session.pop(SPARE, [])}
    if factor is None:
        picture = qr.svg(second_factor.address(request.user, secret), 4)
        in_groups = " ".join(secret[at : at + 4] for at in range(0, len(secret), 4))
        context |= {"picture": mark_safe(picture), "secret": secret, "in_groups": in_groups}  # noqa: S308 - drawn here
    else:
        context["left"] = second_factor.left(request.user)
    return render(request, "people/second_factor.html", context, status=422 if form.errors else 200)

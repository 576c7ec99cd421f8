"""The people of the shop."""

from django.conf import settings
from django.contrib import messages
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common import look
from stations.common.look import Look
from stations.common.typed import whole_number
from stations.people import history, in_hand, second_factor, services, signed_in, tokens
from stations.people.forms import NamesForm, PersonForm, RolesForm
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import may
from stations.people.screens import attempt, press, saved, sent

# Where somebody presses this of themselves.
OF_ONESELF = {"sign-out": "people:me", "end-token": "people:programs"}


def me(request):
    """Who is signed in, the people of the shop, and the way out."""
    context = {
        "people": Person.objects.prefetch_related("roles").order_by("-is_active", "first_name", "pk"),
        "owns": may(request.user, "add somebody"),
        "looks": Look.choices,
        "look": look.of(request),
        "devices": signed_in.of(request.user, request.session.session_key),
    }
    return render(request, "people/me.html", context)


@require_POST
def say_look(request):
    """How this screen is to look, for whoever stands before it."""
    answer = redirect("people:me")
    if (said := request.POST.get("look")) in Look.values:
        answer.set_cookie(
            look.COOKIE,
            said,
            max_age=look.KEPT_S,
            secure=settings.SESSION_COOKIE_SECURE,
            httponly=True,
            samesite="Lax",
        )
    return answer


def add(request):
    if not may(request.user, "add somebody"):
        messages.error(request, "Only an owner may add somebody.")
        return redirect("people:me")
    form = PersonForm(request.POST or None)

    def act(data):
        made = services.add_person(request.user, **data)
        request.session["one_time"] = [made.pk, services.one_time_address(made)]
        return reverse("people:person", args=[made.pk])

    if done := saved(request, form, act):
        return done
    return render(request, "people/add.html", {"form": form})


def person(request, pk):
    """One of the people; an owner gives roles, makes a one-time address, retires."""
    somebody = get_object_or_404(Person, pk=pk)
    held = [role.role for role in somebody.roles.all()]
    form = RolesForm(request.POST or None, initial={"roles": held, "seen": held})
    if request.method == "POST":

        def act(data):
            services.give_roles(request.user, somebody, data["roles"], data["seen"])
            return reverse("people:person", args=[pk])

        if leads_to := attempt(request, form, act):
            messages.success(request, "Saved.")
            return redirect(leads_to)
    for_whom, address = request.session.get("one_time") or (None, "")
    if for_whom == pk:
        del request.session["one_time"]
    return render(
        request,
        "people/person.html",
        {
            "person": somebody,
            "form": form,
            "owns": may(request.user, "add somebody"),
            "may_act_as": services.may_act_as(held),
            "address": request.build_absolute_uri(address) if for_whom == pk else "",
            "in_hand": in_hand.of(somebody),
            "devices": signed_in.of(somebody, request.session.session_key),
            "tokens": somebody.read_tokens.all(),
            "second_factor": second_factor.of(somebody),
            "why_kept": services.why_kept(somebody),
            "story": history.latest(HistoryEntry.Subject.PERSON, pk),
        },
    )


def names(request, pk):
    """What one of the people is called, and signs in as."""
    somebody, back = get_object_or_404(Person, pk=pk), reverse("people:person", args=[pk])
    if not may(request.user, "say what somebody is called"):
        messages.error(request, "Only an owner may say what somebody is called.")
        return redirect(back)
    called = somebody.name
    form = NamesForm(request.POST or None, instance=somebody)

    def act(data):
        services.name_person(request.user, somebody, **data)
        return back

    if done := saved(request, form, act):
        return done
    return render(request, "people/names.html", {"form": form, "called": called, "back": back})


def change(request, pk, what):
    """The buttons on the page of one of the people."""
    somebody, back = get_object_or_404(Person, pk=pk), reverse("people:person", args=[pk])
    if somebody == request.user and what in OF_ONESELF:
        back = reverse(OF_ONESELF[what])

    def address():
        request.session["one_time"] = [pk, services.new_address(request.user, somebody)]

    acts = {
        "retire": lambda: services.retire(request.user, somebody),
        "bring-back": lambda: services.bring_back(request.user, somebody),
        "address": address,
        "end-token": lambda: tokens.end_token(
            request.user, get_object_or_404(somebody.read_tokens, pk=whole_number(sent(request, "which")))
        ),
        "sign-out": lambda: signed_in.sign_out(
            request.user, somebody, sent(request, "which"), request.session.session_key
        ),
        "no-second-factor": lambda: second_factor.take_away(request.user, somebody),
    }
    if what not in acts or request.method != "POST":
        raise Http404
    return press(request, lambda: acts[what]() or back, back)

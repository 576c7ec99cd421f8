from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, LogoutView, PasswordChangeView, PasswordResetConfirmView
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse, reverse_lazy
from django.utils.decorators import method_decorator

from stations.people import history, services, shop
from stations.people.editing import attempt, forget_old_keys, press
from stations.people.forms import BeginForm, PersonForm, RolesForm, SettingsForm, SignInForm
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import may


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def form_valid(self, form):
        forget_old_keys()
        return super().form_valid(form)


class SignOut(LogoutView):
    pass


@method_decorator(login_not_required, name="dispatch")
class OneTime(PasswordResetConfirmView):
    """Where somebody chooses a password once: the first of a new shop, somebody new, or who forgot theirs."""

    template_name = "people/one_time.html"
    form_class = BeginForm
    post_reset_login = True
    post_reset_login_backend = "django.contrib.auth.backends.ModelBackend"
    success_url = reverse_lazy("floor:floor")

    def get_user(self, uidb64):
        try:
            person = super().get_user(uidb64)
        except (OverflowError, ValidationError):
            return None
        return person if person and person.is_active else None

    def form_valid(self, form):
        try:
            with transaction.atomic():
                services.choose_password(form.user)
                return super().form_valid(form)
        except IntegrityError:  # somebody took the name in this very moment
            form.add_error("username", "Somebody signs in with that name already.")
            return self.form_invalid(form)


class OwnPassword(PasswordChangeView):
    template_name = "people/password.html"
    success_url = reverse_lazy("people:me")

    def form_valid(self, form):
        with transaction.atomic():
            services.change_password(self.request.user)
            answer = super().form_valid(form)
        messages.success(self.request, "Your password is changed. Other devices are signed out.")
        return answer


def me(request):
    """Who is signed in, the people of the shop, and the way out."""
    people = Person.objects.prefetch_related("roles").order_by("-is_active", "first_name", "pk")
    return render(request, "people/me.html", {"people": people, "owns": may(request.user, Role.OWNER)})


def add(request):
    if not may(request.user, Role.OWNER):
        messages.error(request, "Only an owner may add somebody.")
        return redirect("people:me")
    form = PersonForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            made = services.add_person(request.user, **data)
            request.session["one_time"] = [made.pk, services.one_time_address(made)]
            return reverse("people:person", args=[made.pk])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
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
            "owns": may(request.user, Role.OWNER),
            "may_act_as": services.may_act_as(held),
            "address": request.build_absolute_uri(address) if for_whom == pk else "",
            "story": history.of(HistoryEntry.Subject.PERSON, pk).reverse()[:20],
        },
    )


def change(request, pk, what):
    """The buttons on the page of one of the people."""
    somebody, back = get_object_or_404(Person, pk=pk), reverse("people:person", args=[pk])

    def address():
        request.session["one_time"] = [pk, services.new_address(request.user, somebody)]

    acts = {
        "retire": lambda: services.retire(request.user, somebody),
        "bring-back": lambda: services.bring_back(request.user, somebody),
        "address": address,
    }
    if what not in acts or request.method != "POST":
        raise Http404
    return press(request, lambda: acts[what]() or back, back)


def settings(request):
    row = shop.settings()
    form = SettingsForm(request.POST or None, instance=row)
    if request.method == "POST":

        def act(data):
            shop.change_settings(request.user, data["version"], form.changes)
            return reverse("people:settings")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    return render(request, "people/settings.html", {"form": form})

"""Signing in and out, passwords."""

from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, LogoutView, PasswordChangeView, PasswordResetConfirmView
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.shortcuts import redirect, render
from django.urls import reverse_lazy
from django.utils.crypto import constant_time_compare
from django.utils.decorators import method_decorator

from stations.common import clock
from stations.people import door, second_factor, services, tokens
from stations.people.forms import BeginForm, CodeForm, OwnPasswordForm, SignInForm
from stations.people.models import Person
from stations.people.screens import forget_what_is_over

# Whose password was right, and for how many seconds a code is waited for.
HALF, HALF_S = "half signed in", 300


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs):
        return super().get_context_data(**kwargs) | {"is_begun": services.is_begun()}

    def form_valid(self, form):
        forget_what_is_over()
        person = form.get_user()
        if second_factor.of(person) is None:
            return super().form_valid(form)
        self.request.session[HALF] = {
            "person": person.pk,
            "password": person.get_session_auth_hash(),
            "backend": person.backend,
            "until": clock.now().timestamp() + HALF_S,
            "there": self.get_success_url(),
        }
        return redirect("people:code")


@login_not_required
def code(request):
    """The second factor of somebody whose password was right a moment ago; tried as often as a password."""
    if request.user.is_authenticated:
        return redirect("floor:floor")
    said = request.session.get(HALF) or {}
    person = Person.objects.filter(pk=said.get("person"), is_active=True).first()
    # Somebody chose another password meanwhile.
    same = person and constant_time_compare(said["password"], person.get_session_auth_hash())
    if not same or said["until"] < clock.now().timestamp():
        request.session.pop(HALF, None)
        messages.info(request, "Sign in once more, from the beginning.")
        return redirect("people:sign-in")
    form = CodeForm(request.POST or None)
    if not door.may_try(request, person):
        return door.shut(request, person)
    if request.method == "POST" and form.is_valid():
        if second_factor.of(person) is None or second_factor.passes(person, form.cleaned_data["code"]):
            del request.session[HALF]
            login(request, person, backend=said["backend"])
            return redirect(said["there"])
        door.count_wrong(request, person)
        form.add_error("code", second_factor.WRONG)
    return render(request, "people/code.html", {"form": form}, status=422 if form.errors else 200)


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
                if second_factor.of(form.user):
                    self.post_reset_login, self.success_url = False, reverse_lazy("people:sign-in")
                    messages.success(self.request, "Your password is chosen. Sign in with it.")
                return super().form_valid(form)
        except IntegrityError:  # somebody took the name in this very moment
            form.add_error("username", "Somebody signs in with that name already.")
            return self.form_invalid(form)


class OwnPassword(PasswordChangeView):
    form_class = OwnPasswordForm
    template_name = "people/password.html"
    success_url = reverse_lazy("people:me")

    def post(self, request, *args, **kwargs):
        return (
            super().post(request, *args, **kwargs)
            if door.may_try(request, request.user)
            else door.shut(request, request.user)
        )

    def form_invalid(self, form):
        if form.has_error("old_password", "password_incorrect"):
            door.count_wrong(self.request, self.request.user)
        return super().form_invalid(form)

    def form_valid(self, form):
        with transaction.atomic():
            services.change_password(self.request.user)
            answer = super().form_valid(form)
        messages.success(self.request, "Your password is changed. Other devices are signed out.")
        if told := tokens.still_read(self.request.user):
            messages.info(self.request, told)
        return answer

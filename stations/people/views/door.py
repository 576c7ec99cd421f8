"""Signing in and out, passwords."""

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, LogoutView, PasswordChangeView, PasswordResetConfirmView
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.urls import reverse_lazy
from django.utils.decorators import method_decorator

from stations.people import services
from stations.people.forms import BeginForm, OwnPasswordForm, SignInForm
from stations.people.screens import forget_what_is_over


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs):
        return super().get_context_data(**kwargs) | {"is_begun": services.is_begun()}

    def form_valid(self, form):
        forget_what_is_over()
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
    form_class = OwnPasswordForm
    template_name = "people/password.html"
    success_url = reverse_lazy("people:me")

    def form_valid(self, form):
        with transaction.atomic():
            services.change_password(self.request.user)
            answer = super().form_valid(form)
        messages.success(self.request, "Your password is changed. Other devices are signed out.")
        return answer

from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, LogoutView
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.decorators import method_decorator

from stations.people import shop
from stations.people.editing import attempt
from stations.people.forms import SettingsForm
from stations.people.models import Person


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    template_name = "people/sign_in.html"
    redirect_authenticated_user = True


class SignOut(LogoutView):
    pass


def me(request):
    """Who is signed in, the people of the shop, and the way out."""
    people = Person.objects.filter(is_active=True).prefetch_related("roles").order_by("first_name")
    return render(request, "people/me.html", {"people": people})


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

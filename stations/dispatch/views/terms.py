"""What is agreed with every buyer, and what stands on receipts."""

from django.shortcuts import render
from django.urls import reverse

from stations.dispatch import terms as kept
from stations.dispatch.forms import TermsForm
from stations.people.screens import saved


def terms(request):
    form = TermsForm(request.POST or None, instance=kept.terms())

    def save(data):
        kept.change_terms(request.user, data["version"], kept.TermsDetails(**form.changes))

    if done := saved(request, form, save, reverse("dispatch:terms")):
        return done
    return render(request, "dispatch/terms.html", {"form": form})

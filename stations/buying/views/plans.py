"""The bid plans, and their terms."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.buying import plans
from stations.buying.details import PlanDetails
from stations.buying.forms import PlanForm
from stations.buying.models import BidPlan, Supplier
from stations.people.screens import saved

WORDS = {"margin": "profit wanted", "loss": "chance of a loss", "hourly": "profit an hour"}


def overview(request):
    page = Paginator(BidPlan.objects.select_related("supplier", "lot"), 25).get_page(request.GET.get("page"))
    return render(request, "buying/plans.html", {"page": page})


def new(request):
    return _plan_form(request, None)


def terms(request, number):
    return _plan_form(request, get_object_or_404(BidPlan.objects.select_related("supplier"), number=number))


def _plan_form(request, plan):
    form = PlanForm(request.POST or None, instance=plan)

    def save(data):
        seen = data.pop("version")
        said = PlanDetails(**data)
        if plan is None:
            number = plans.plan_bid(request.user, said).number
        else:
            number = plan.number
            plans.change_plan(request.user, BidPlan.objects.get(pk=plan.pk), seen, said)
        return reverse("buying:plan", args=[number])

    if done := saved(request, form, save):
        return done
    context = {"form": form, "plan": plan, "suppliers": Supplier.objects.all()[:200]}
    return render(request, "buying/plan_form.html", context)

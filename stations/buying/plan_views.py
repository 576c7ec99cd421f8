"""The bid planner's pages: made to be used with one thumb at a sale."""

from decimal import ROUND_DOWN, Decimal

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.buying.odds import OUTCOMES, Outcome
from stations.buying import plans
from stations.buying.drawing import distribution, stop_line
from stations.buying.forms import BidForm, PlanForm, PlanLineForm, QuickLineForm, StartingOddsForm
from stations.buying.models import BidPlan, Claim, PlanLine, StartingOdds, Supplier
from stations.people.editing import attempt, press
from stations.people.refusals import Refused

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
    if request.method == "POST":

        def act(data):
            if plan is None:
                return reverse("buying:plan", args=[plans.plan_bid(request.user, data).number])
            plans.change_plan(request.user, BidPlan.objects.get(pk=plan.pk), data["version"], data)
            return reverse("buying:plan", args=[plan.number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    context = {"form": form, "plan": plan, "suppliers": Supplier.objects.all()[:200]}
    return render(request, "buying/plan_form.html", context)


def plan(request, number):
    """One plan: what is in it, what to bid, what to find out. The form adds a line."""
    row = get_object_or_404(BidPlan.objects.select_related("supplier", "lot"), number=number)
    form = QuickLineForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            plans.add_line(request.user, row, {k: v for k, v in data.items() if k != "worth"}, data["worth"])
            return reverse("buying:plan", args=[number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    lines = list(row.lines.prefetch_related("cases"))
    context = {"plan": row, "form": form, "lines": [], "outcomes": OUTCOMES}
    if lines:
        drawn, targets = plans.forecast_of(row), plans.targets_of(row)
        most = drawn.most(targets)
        bid = row.bid if row.bid is not None else (most.bid or Decimal(0)).quantize(Decimal(1), rounding=ROUND_DOWN)
        adds = drawn.adds(targets)
        asks = [
            {
                "line": lines[q.line],
                "lowers": q.lowers,
                "lifts": q.lifts,
                "worth": q.worth,
                "rate": q.worth / lines[q.line].look_minutes,
            }
            for q in drawn.questions(targets, bid)
            if not lines[q.line].seen
        ]
        asks.sort(key=lambda ask: -ask["rate"])
        learned = {claim: plans.odds_for(row.supplier, claim) for claim in {line.claim for line in lines}}
        context |= {
            "lines": [(line, drawn.worth[i].mean(), adds[i]) for i, line in enumerate(lines)],
            "asks": asks[:6],
            "learned": [(line_claim, learned[line_claim]) for line_claim in sorted(learned)],
            "claims": dict(PlanLine._meta.get_field("claim").choices),
            **_at(row, bid),
        }
    return render(request, "buying/plan.html", context)


def _at(row, bid):
    """Everything that depends on the bid; the draws are made once."""
    drawn, targets = plans.forecast_of(row), plans.targets_of(row)
    limits = drawn.limits(targets)
    most = drawn.most(targets)
    at = drawn.at(bid)
    top = max([bid, *(limit.bid for limit in limits if limit.bid is not None), Decimal(10)])
    return {
        "plan": row,
        "bid": bid,
        "at": at,
        "profit_chance": 1 - at.loss,
        "most": most,
        "binding": WORDS[most.name],
        "limits": [
            (limit, WORDS[limit.name], drawn.landed(limit.bid) if limit.bid is not None else None) for limit in limits
        ],
        "chart": distribution(drawn, at),
        "stop": stop_line(bid, limits),
        "hours": drawn.hours,
        "range_top": int(top * Decimal("1.4")) + 10,
    }


def at_bid(request, number):
    """What a bid would mean: the partial that is swapped while the bid is moved."""
    row = get_object_or_404(BidPlan, number=number)
    form = BidForm(request.GET)
    if not form.is_valid():
        return render(request, "buying/_bid_wrong.html", {"form": form})
    return render(request, "buying/_bid.html", _at(row, form.cleaned_data["bid"]))


def line(request, number, pk):
    row = get_object_or_404(PlanLine.objects.select_related("plan__supplier"), pk=pk, plan__number=number)
    form = PlanLineForm(request.POST or None, instance=row)
    if request.method == "POST":

        def act(data):
            plans.change_line(
                request.user, PlanLine.objects.select_related("plan").get(pk=pk), form.line_values, form.cases
            )
            return reverse("buying:plan", args=[number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    learned = plans.odds_for(row.plan.supplier, row.claim)
    return render(request, "buying/plan_line.html", {"form": form, "line": row, "plan": row.plan, "learned": learned})


@require_POST
def drop(request, number, pk):
    row = get_object_or_404(PlanLine.objects.select_related("plan"), pk=pk, plan__number=number)
    there = reverse("buying:plan", args=[number])

    def act():
        plans.drop_line(request.user, row)
        return there

    return press(request, act, there)


@require_POST
def answer(request, number, pk):
    row = get_object_or_404(PlanLine.objects.select_related("plan"), pk=pk, plan__number=number)
    there = reverse("buying:plan", args=[number])
    said = request.POST.get("outcome", "")

    def act():
        if said not in set(Outcome):
            raise Refused("Say how it turned out.")
        plans.answer(request.user, row, Outcome(said))
        return there

    return press(request, act, there)


@require_POST
def decide(request, number, what):
    """Set our limit, leave the lot, or record that we got it."""
    row = get_object_or_404(BidPlan, number=number)
    there = reverse("buying:plan", args=[number])
    form = BidForm(request.POST)
    if what != "leave" and not form.is_valid():
        return press(request, lambda: _refuse(form), there)

    def act():
        if what == "leave":
            plans.leave(request.user, row)
            return there
        if what == "bought":
            return reverse("buying:lot", args=[plans.buy(request.user, row, form.cleaned_data["bid"]).number])
        plans.set_limit(request.user, row, form.cleaned_data["bid"])
        return there

    return press(request, act, there)


def _refuse(form):
    raise Refused(form.errors["bid"][0])


def odds(request):
    """The starting odds by claim: what we think before anything is known."""
    rows = {row.claim: row for row in StartingOdds.objects.all()}
    said = request.POST.get("claim", "")
    forms = []
    for claim in Claim:
        row = rows.get(claim.value) or StartingOdds(claim=claim.value, **_percents(plans.starting_odds(claim.value)))
        mine = request.method == "POST" and said == claim.value
        form = StartingOddsForm(request.POST if mine else None, instance=row, auto_id=f"id_{claim.value}_%s")
        if mine:

            def act(data, claim=claim.value):
                chosen = {outcome: data[outcome.value] for outcome in OUTCOMES}
                plans.change_starting_odds(request.user, claim, data["version"], chosen)
                return reverse("buying:odds")

            if leads_to := attempt(request, form, act):
                return redirect(leads_to)
        forms.append((claim, form, claim.value in rows))
    return render(request, "buying/odds.html", {"forms": forms})


def _percents(shares):
    return {outcome.value: round(Decimal(str(share)) * 100, 2) for outcome, share in zip(OUTCOMES, shares, strict=True)}

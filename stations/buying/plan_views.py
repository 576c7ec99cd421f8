"""The bid planner's pages: made to be used with one thumb at a sale."""

from decimal import ROUND_DOWN, Decimal

from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.buying.odds import OUTCOMES, family_of
from core.buying.questions import ASKS, BY_CODE
from stations.buying import plans
from stations.buying.drawing import distribution, moves, stop_line
from stations.buying.forms import BidForm, PlanForm, PlanLineForm, QuickLineForm, StartingOddsForm
from stations.buying.models import BidPlan, Claim, LineKind, PlanLine, StartingOdds, Supplier
from stations.buying.record import Record, odds_for, starting_odds, starting_table
from stations.common.refusals import Refused
from stations.common.snapshot import one_moment
from stations.people.editing import attempt, press

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
    form = QuickLineForm(request.POST or None)
    if request.method == "POST":
        planned = get_object_or_404(BidPlan, number=number)

        def act(data):
            plans.add_line(request.user, planned, {k: v for k, v in data.items() if k != "worth"}, data["worth"])
            return reverse("buying:plan", args=[number])

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    with one_moment():
        row = get_object_or_404(BidPlan.objects.select_related("supplier", "lot"), number=number)
        return render(request, "buying/plan.html", {"form": form, **_standing(row)})


def _standing(row):
    """The plan's lines, and what to bid for them."""
    lines = list(row.lines.prefetch_related("cases", "answers"))
    context = {"plan": row, "lines": []}
    if lines:
        drawn, targets = plans.forecast_of(row), plans.targets_of(row)
        most = drawn.most(targets)
        bid = row.bid if row.bid is not None else (most.bid or Decimal(0)).quantize(Decimal(1), rounding=ROUND_DOWN)
        adds = drawn.adds(targets)
        context |= {
            "lines": [(line, drawn.worth[i].mean(), adds[i], _heard(line)) for i, line in enumerate(lines)],
            "asks": _worth_asking(row, lines, bid) if row.status == BidPlan.Status.OPEN else [],
            "learned": _learned(row, lines),
            **_at(row, bid),
        }
    return context


def _heard(line):
    """The answers a piece was asked for before the sale, in words."""
    return ", ".join(BY_CODE[a.question].answer(a.answer).words for a in line.answers.all() if a.question in BY_CODE)


def _worth_asking(row, lines, bid):
    """The questions best worth their minutes, with how far each would move our limit, drawn on one scale."""
    drawn, targets = plans.forecast_of(row), plans.targets_of(row)
    asked = {(i, a.question) for i, line in enumerate(lines) for a in line.answers.all()}
    asked |= {(i, ask.code) for i, line in enumerate(lines) if line.seen for ask in ASKS}
    found = drawn.questions(targets, bid, asked, most=6)
    swings = moves(found)
    return [
        {"line": lines[q.line], "ask": BY_CODE[q.ask], "question": q, "swing": swing}
        for q, swing in zip(found, swings, strict=True)
    ]


def _learned(row, lines):
    """The odds in force for each claim and family of the plan: two queries."""
    record = Record(row.supplier)
    found = {}
    for line in lines:
        found.setdefault((line.get_claim_display(), family_of(line.kind, line.form_factor)), record.odds(line))
    return [(claim, family.replace("_", "-"), learned) for (claim, family), learned in sorted(found.items())]


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
    form = BidForm(request.GET)
    if not form.is_valid():
        return render(request, "buying/_bid_wrong.html", {"form": form})
    with one_moment():
        row = get_object_or_404(BidPlan, number=number)
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
    learned = odds_for(row.plan.supplier, row)
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

    def act():
        plans.answer(request.user, row, request.POST.get("ask", ""), request.POST.get("said", ""))
        return there

    return press(request, act, there)


@require_POST
def decide(request, number, what):
    """Set our limit, leave the lot, or record that we got it."""
    row = get_object_or_404(BidPlan, number=number)
    if what not in {"limit", "bought", "leave"}:
        raise Http404
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
    """The starting odds by claim, and by kind where the owner thinks otherwise of one: before anything is known."""
    table = starting_table()
    rows = [(claim, kind) for claim in Claim for kind in ("", *LineKind.values) if not kind or (claim, kind) in table]
    asked = request.POST or request.GET
    wanted = (asked.get("claim", ""), asked.get("kind", ""))
    if wanted[0] in Claim.values and wanted[1] in LineKind.values and wanted not in rows:
        rows.append(wanted)
    said = (request.POST.get("claim", ""), request.POST.get("kind", ""))
    forms = []
    for claim, kind in sorted(rows, key=lambda row: (Claim.values.index(row[0]), row[1])):
        usual = _percents(starting_odds(table, claim, kind))
        row = table.get((claim, kind)) or StartingOdds(claim=claim, kind=kind, **usual)
        mine = request.method == "POST" and said == (claim, kind)
        form = StartingOddsForm(request.POST if mine else None, instance=row, auto_id=f"id_{claim}_{kind}_%s")
        if mine:

            def act(data, claim=claim, kind=kind):
                chosen = {outcome: data[outcome.value] for outcome in OUTCOMES}
                plans.change_starting_odds(request.user, claim, kind, data["version"], chosen)
                return reverse("buying:odds")

            if leads_to := attempt(request, form, act):
                return redirect(leads_to)
        forms.append((row, form, (claim, kind) in table))
    context = {"forms": forms, "claims": Claim.choices, "kinds": LineKind.choices}
    return render(request, "buying/odds.html", context)


def _percents(shares):
    return {outcome.value: round(Decimal(str(share)) * 100, 2) for outcome, share in zip(OUTCOMES, shares, strict=True)}

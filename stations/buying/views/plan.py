"""One bid plan: its lines, what to bid, what to find out, what was decided."""

from decimal import ROUND_DOWN, Decimal

from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.buying.odds import family_of
from core.buying.questions import ASKS, BY_CODE
from stations.buying import forecasts, plans, told
from stations.buying.details import SeenPieces
from stations.buying.drawing import distribution, limit_shape, moves, stop_line
from stations.buying.forms import BidForm, BoughtForm, PlanLineForm, QuickLineForm, ToldForm
from stations.buying.models import BidPlan, PlanLine, SourceKind
from stations.buying.record import Record, odds_for
from stations.buying.views.plans import WORDS
from stations.common.currency import priced
from stations.common.refusals import Refused
from stations.common.snapshot import one_moment
from stations.common.templatetags.figures import plain
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import press, saved


def plan(request, number):
    """One plan: what is in it, what to bid, what to find out. The form adds a line."""
    form = QuickLineForm(request.POST or None)

    def add(data):
        planned = get_object_or_404(BidPlan, number=number)
        plans.add_line(request.user, planned, SeenPieces(**data))

    if done := saved(request, form, add, reverse("buying:plan", args=[number])):
        return done
    with one_moment():
        row = get_object_or_404(BidPlan.objects.select_related("supplier", "lot"), number=number)
        return render(
            request,
            "buying/plan.html",
            {"form": form, "story": history.latest(HistoryEntry.Subject.PLAN, row.pk), **_lines_and_bid(row)},
        )


def _lines_and_bid(row):
    """The plan's lines, and what to bid for them."""
    lines = list(row.lines.prefetch_related("cases", "answers"))
    context = {"plan": row, "lines": []}
    if lines:
        drawn, targets = forecasts.forecast_of(row), forecasts.targets_of(row)
        most = drawn.most(targets)
        bid = row.bid if row.bid is not None else (most.bid or Decimal(0)).quantize(Decimal(1), rounding=ROUND_DOWN)
        adds = drawn.adds(targets)
        asks = _worth_asking(row, lines, bid) if row.is_open else []
        context |= {
            "lines": [(line, drawn.worth[i].mean(), adds[i], *_heard(line)) for i, line in enumerate(lines)],
            "unsaid": sum(not line.worth_said for line in lines),
            "asks": asks,
            "asks_pay": any(ask["question"].gain > 0 for ask in asks),
            "learned": _learned(row, lines),
            **_at(row, bid),
        }
    return context


def _heard(line):
    """The answers a piece was asked for before the sale: each with what was asked, and all of them in words."""
    asked = [(BY_CODE[a.question], a.answer) for a in line.answers.all() if a.question in BY_CODE]
    heard = [(ask, ask.answer(said).words) for ask, said in asked]
    return heard, ", ".join(words for _, words in heard)


def _worth_asking(row, lines, bid):
    """The questions best worth their minutes, with how far each would move our limit, drawn on one scale."""
    drawn, targets = forecasts.forecast_of(row), forecasts.targets_of(row)
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
    drawn, targets = forecasts.forecast_of(row), forecasts.targets_of(row)
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
            {
                "limit": limit,
                "shape": limit_shape(limit.name),
                "keeps": _kept_target(row, limit.name),
                "landed": drawn.outlay.landed(limit.bid) if limit.bid is not None else None,
            }
            for limit in limits
        ],
        "too_much": bid - most.bid if most.bid is not None else None,
        "chart": distribution(drawn, at),
        "stop": stop_line(bid, limits),
        "hours": drawn.hours,
        "goes": _where_it_goes(drawn, at),
        "known": drawn.terms.calibration,
        "tax": drawn.terms.tax,
        "bought_form": BoughtForm(),
        "range_top": int(top * Decimal("1.4")) + 10,
    }


def _where_it_goes(drawn, at):
    """The expected sales of the lot and what is taken of them, step by step down to the profit."""
    of = drawn.expected
    steps = [
        ("fees", of.fee),
        ("postage, and answering for it after", of.sending),
        ("parts", of.parts),
        ("labour", of.labour),
        ("tax", at.tax),
        ("the lot, all-in", float(at.landed)),
    ]
    return {"sales": of.sales, "taken": [(words, -amount) for words, amount in steps if abs(amount) >= 0.5]}


def _kept_target(row, name):
    """What a limit keeps, in words."""
    return {
        "margin": f"{plain(row.target_margin)} % of sales as profit",
        "loss": f"at most {plain(row.loss_limit)} in 100 for a loss",
        "hourly": f"{priced(plain(row.target_hourly))} for an hour of work",
    }[name]


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
    if done := saved(
        request,
        form,
        lambda data: plans.change_line(
            request.user, PlanLine.objects.select_related("plan").get(pk=pk), form.details, form.cases
        ),
        reverse("buying:plan", args=[number]),
    ):
        return done
    learned = odds_for(row.plan.supplier, row)
    return render(request, "buying/plan_line.html", {"form": form, "line": row, "plan": row.plan, "learned": learned})


@require_POST
def drop(request, number, pk):
    row = get_object_or_404(PlanLine.objects.select_related("plan"), pk=pk, plan__number=number)
    there = reverse("buying:plan", args=[number])

    return press(request, lambda: plans.drop_line(request.user, row), there)


@require_POST
def answer(request, number, pk):
    row = get_object_or_404(PlanLine.objects.select_related("plan"), pk=pk, plan__number=number)
    there = reverse("buying:plan", args=[number])

    return press(
        request,
        lambda: plans.answer(request.user, row, request.POST.get("ask", ""), request.POST.get("said", "")),
        there,
    )


@require_POST
def unanswer(request, number, pk):
    row = get_object_or_404(PlanLine.objects.select_related("plan", "split_from"), pk=pk, plan__number=number)
    there = reverse("buying:plan", args=[number])

    return press(request, lambda: plans.not_answered(request.user, row, request.POST.get("ask", "")), there)


def became(request, number):
    """What became of a lot that we left."""
    row = get_object_or_404(BidPlan.objects.select_related("supplier"), number=number)
    form = ToldForm(request.POST or None, plan=row)
    there = reverse("buying:plan", args=[number])
    if done := saved(
        request,
        form,
        lambda data: told.record_told(request.user, row, data["version"], data["went_for"], form.told),
        there,
    ):
        return done
    return render(request, "buying/became.html", {"form": form, "plan": row})


@require_POST
def decide(request, number, what):
    """Set our limit, leave the lot or bid for it after all, or record that we got it."""
    row = get_object_or_404(BidPlan, number=number)
    if what not in {"limit", "bought", "leave", "again"}:
        raise Http404
    there = reverse("buying:plan", args=[number])
    form = (BoughtForm if what == "bought" else BidForm)(request.POST)
    if what in {"limit", "bought"} and not form.is_valid():
        return press(request, lambda: _refuse(form), there, "bid")

    def act():
        if what == "bought":
            said = form.cleaned_data
            lot = plans.buy(request.user, row, said["bid"], SourceKind(said["source"]), said["on"])
            return reverse("buying:lot", args=[lot.number])
        if what == "leave":
            plans.leave(request.user, row)
        elif what == "again":
            plans.bid_after_all(request.user, row)
        else:
            plans.set_limit(request.user, row, form.cleaned_data["bid"])
        return there

    return press(request, act, there, "bid")


def _refuse(form):
    raise Refused(next(iter(form.errors.values()))[0])

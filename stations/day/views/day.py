"""The page of a day: the plan, what is in hand, what slipped; begin, end, pin, plan again."""

from datetime import date, timedelta

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from stations.common import clock
from stations.common.paging import first_of
from stations.day import calendar, planning, services
from stations.day.drawing import drawn, drawn_down
from stations.day.forms import ArrivalForm, DayForm, HoursForm, OneDayForm, PromiseForm, WishForm
from stations.day.gather import workers_of
from stations.day.models import (
    Arrival,
    CalendarAddress,
    HoursOfDay,
    PlannedTask,
    Promise,
    Record,
    Wish,
    WorkingHours,
)
from stations.day.selectors import DayView, Row, day_view, slips
from stations.people.screens import press, saved, sent

# Days with hours of their own.
SHOWN = 30


def today(request):
    """The day asked for, else today."""
    return redirect("day:day", DayForm(request.GET).chosen)


def day(request, day: date):
    return _page(request, day)


def _page(request, day: date, **given):
    view = day_view(day)
    context = {
        "view": view,
        "drawn": drawn(view),
        "down": drawn_down(view),
        "before": day - timedelta(days=1),
        "after": day + timedelta(days=1),
        "is_today": day == clock.today(),
        "over": day < clock.today(),
        "mine": next((r for r in view.rows if r.record and r.record.person_id == request.user.pk and r.is_going), None),
        "promise_form": PromiseForm(day=day),
        "arrival_form": ArrivalForm(),
        **given,
    }
    context["tasks"] = [(row, _wish_form(row, view, given.get("wrong_wish"))) for row in view.rows]
    return render(request, "day/day.html", context)


def _wish_form(row: Row, view: DayView, wrong: WishForm | None) -> WishForm | None:
    """What is wished of a task that is still to come; `wrong`, the one that was sent and refused, in its own place."""
    if row.planned is None or not row.waits:
        return None
    if wrong and wrong.task == row.planned:
        return wrong
    return WishForm(task=row.planned, who=[person for person, _ in view.people], wish=view.wishes.get(row.code))


@never_cache
def progress(request, day: date):
    """Asked for again and again while a plan is being made: once it is there, the page is fetched anew."""
    asked = planning.being_planned(day)
    if asked is None:
        answer = HttpResponse()
        answer["HX-Refresh"] = "true"
        return answer
    return render(request, "day/_progress.html", {"asked": asked, "day": day})


@require_POST
def plan_again(request, day: date):
    return press(request, lambda: planning.ask(request.user, day) and None, _at(day))


@require_POST
def begin(request, pk):
    task = get_object_or_404(PlannedTask.objects.select_related("plan", "unit"), pk=pk)
    return press(request, lambda: services.begin(request.user, task) and None, _at(task.plan.day))


@require_POST
def end(request, pk):
    record = get_object_or_404(Record.objects.select_related("unit"), pk=pk)
    return press(request, lambda: services.end(request.user, record, sent(request, "why")), _at(record.day), "why")


@require_POST
def not_so(request, pk, what):
    """A task was begun, or ended, by a slip."""
    record = get_object_or_404(Record.objects.select_related("unit", "person"), pk=pk)
    act = {"begun": services.not_begun, "ended": services.not_ended}.get(what)
    if act is None:
        raise Http404
    return press(request, lambda: act(request.user, record), _at(record.day))


@require_POST
def wish(request, pk):
    """Pinned, or kept off the day; and the day is planned again."""
    task = get_object_or_404(PlannedTask.objects.select_related("plan", "unit"), pk=pk)
    form = WishForm(request.POST, task=task, who=[person for person, _ in workers_of(task.plan.day).values()])

    def save(data):
        services.wish(request.user, task, data["who"], data["at"], data["off"])
        planning.ask(request.user, task.plan.day)

    there = _at(task.plan.day)
    return saved(request, form, save, there) or _page(request, task.plan.day, wrong_wish=form)


@require_POST
def wish_no_more(request, pk):
    row = get_object_or_404(Wish, pk=pk)

    def act():
        services.take_back_wish(request.user, row)
        planning.ask(request.user, row.day)

    return press(request, act, _at(row.day))


@require_POST
def promise(request, day: date):
    form = PromiseForm(request.POST, day=day)

    def save(data):
        services.promise(request.user, data["unit"], form.moment, data["what"], data["price"])

    return saved(request, form, save, _at(day)) or _page(request, day, promise_form=form)


@require_POST
def settle(request, pk, what):
    row = get_object_or_404(Promise, pk=pk)
    if what == "none":
        return press(request, lambda: services.take_back_promise(request.user, row), _at(row.day))
    if what == "open":
        return press(request, lambda: services.not_settled(request.user, row), _at(row.day))
    if what not in {"kept", "broken"}:
        raise Http404
    return press(request, lambda: services.settle_promise(request.user, row, what == "kept"), _at(row.day))


@require_POST
def expect(request, day: date):
    form = ArrivalForm(request.POST)

    def save(data):
        services.expect(request.user, day, data["at"], data["what"], data["unit"])

    return saved(request, form, save, _at(day)) or _page(request, day, arrival_form=form)


@require_POST
def came(request, pk):
    row = get_object_or_404(Arrival, pk=pk)
    return press(request, lambda: services.it_came(request.user, row), _at(row.day))


@require_POST
def came_not(request, pk):
    row = get_object_or_404(Arrival, pk=pk)
    return press(request, lambda: services.it_came_not(request.user, row), _at(row.day))


@require_POST
def comes_not(request, pk):
    row = get_object_or_404(Arrival, pk=pk)
    return press(request, lambda: services.expect_no_more(request.user, row), _at(row.day))


def hours(request):
    """Who works when; the calendar address of whoever looks."""
    form = HoursForm(request.POST or None, initial={"person": request.user.pk})

    def save(data):
        for weekday in data["days"]:
            services.say_hours(request.user, data["person"], int(weekday), form.hours)

    there = reverse("day:hours")
    return saved(request, form, save, there) or _hours(request, form, OneDayForm(initial={"person": request.user.pk}))


def _hours(request, form, one):
    rows: dict = {}
    for row in WorkingHours.objects.filter(person__is_active=True).select_related("person"):
        rows.setdefault(row.person, [None] * 7)[row.weekday] = row
    context = {
        "form": form,
        "one": one,
        "said": first_of(HoursOfDay.objects.filter(day__gte=clock.today()).select_related("person"), SHOWN),
        "rows": rows.items(),
        "address": CalendarAddress.objects.filter(person=request.user).first(),
        "slips": slips(clock.now() - timedelta(days=90)),
    }
    return render(request, "day/hours.html", context)


@require_POST
def one_day(request):
    form = OneDayForm(request.POST)

    def save(data):
        services.say_day(request.user, data["person"], data["on"], form.hours)

    return saved(request, form, save, reverse("day:hours")) or _hours(
        request, HoursForm(initial={"person": request.user.pk}), form
    )


@require_POST
def as_usual(request, pk):
    row = get_object_or_404(HoursOfDay.objects.select_related("person"), pk=pk)
    return press(request, lambda: services.as_usual(request.user, row), reverse("day:hours"))


@require_POST
def new_address(request):
    """Made anew; said once, as only its digest is kept."""

    def act():
        secret = calendar.new_address(request.user)
        address = request.build_absolute_uri(reverse("day:feed", args=[secret]))
        messages.success(request, f"Your calendar’s address, shown this once: {address}")

    return press(request, act, reverse("day:hours"))


@require_POST
def no_address(request):
    return press(request, lambda: calendar.no_address(request.user), reverse("day:hours"))


def calendar_file(request, day: date):
    return _ics(calendar.of_day(day), f"day-{day}.ics")


@never_cache
@login_not_required
def feed(request, secret):
    """The one page that is read without signing in besides the shop: whoever knows the secret reads one plan."""
    person = calendar.whose(secret)
    if person is None:
        raise Http404
    return _ics(calendar.feed(person), "plan.ics")


def _ics(written: bytes, name: str) -> HttpResponse:
    answer = HttpResponse(written, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def sheet(request, day: date):
    """The day on paper."""
    return render(request, "day/sheet.html", {"view": day_view(day)})


def _at(day: date) -> str:
    return reverse("day:day", args=[day])

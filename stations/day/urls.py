from datetime import date

from django.urls import path, register_converter

from stations.day.views import bells, day


class DayConverter:
    """A day in an address: 2026-11-25."""

    regex = r"\d{4}-\d{2}-\d{2}"

    def to_python(self, value: str) -> date:
        return date.fromisoformat(value)

    def to_url(self, value: date) -> str:
        return value.isoformat()


register_converter(DayConverter, "day")

app_name = "day"
urlpatterns = [
    path("", day.today, name="today"),
    path("bells/", bells.ring, name="bells"),
    path("hours/", day.hours, name="hours"),
    path("hours/one-day/", day.one_day, name="one-day"),
    path("hours/one-day/<int:pk>/as-usual/", day.as_usual, name="as-usual"),
    path("address/new/", day.new_address, name="new-address"),
    path("address/none/", day.no_address, name="no-address"),
    path("calendar/<str:secret>.ics", day.feed, name="feed"),
    path("tasks/<int:pk>/begin/", day.begin, name="begin"),
    path("tasks/<int:pk>/wish/", day.wish, name="wish"),
    path("wishes/<int:pk>/back/", day.wish_no_more, name="wish-no-more"),
    path("records/<int:pk>/end/", day.end, name="end"),
    path("records/<int:pk>/not-<slug:what>/", day.not_so, name="not-so"),
    path("promises/<int:pk>/<slug:what>/", day.settle, name="settle"),
    path("parcels/<int:pk>/came/", day.came, name="came"),
    path("parcels/<int:pk>/came-not/", day.came_not, name="came-not"),
    path("parcels/<int:pk>/comes-not/", day.comes_not, name="comes-not"),
    path("<day:day>/", day.day, name="day"),
    path("<day:day>/progress/", day.progress, name="progress"),
    path("<day:day>/plan/", day.plan_again, name="plan"),
    path("<day:day>/promise/", day.promise, name="promise"),
    path("<day:day>/parcel/", day.expect, name="expect"),
    path("<day:day>/plan.ics", day.calendar_file, name="calendar-file"),
    path("<day:day>/sheet/", day.sheet, name="sheet"),
]

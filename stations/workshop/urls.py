from django.urls import path

from stations.workshop.views import job, labour, table, take_apart, unit

app_name = "workshop"
urlpatterns = [
    path("", table.workshop, name="workshop"),
    path("W-<int:number>/", unit.unit, name="unit"),
    path("W-<int:number>/take-apart/", take_apart.take_apart, name="take-apart"),
    path("jobs/<int:pk>/", job.job, name="job"),
    path("jobs/<int:pk>/change/", job.change, name="change"),
    path("jobs/<int:pk>/parts/", job.issue, name="issue"),
    path("jobs/<int:pk>/minutes/", labour.minutes, name="minutes"),
    path("jobs/<int:pk>/done/", job.done, name="done"),
    path("jobs/<int:pk>/made-good/", job.make_good, name="make-good"),
    path("jobs/<int:pk>/clock/<slug:what>/", labour.clock, name="clock"),
    path("labour/<int:pk>/", labour.labour, name="labour"),
    path("parts/<int:pk>/back/", job.return_part, name="return-part"),
]

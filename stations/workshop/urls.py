from django.urls import path

from stations.workshop import views

app_name = "workshop"
urlpatterns = [
    path("", views.workshop, name="workshop"),
    path("W-<int:number>/", views.unit, name="unit"),
    path("W-<int:number>/take-apart/", views.take_apart, name="take-apart"),
    path("jobs/<int:pk>/", views.job, name="job"),
    path("jobs/<int:pk>/change/", views.change, name="change"),
    path("jobs/<int:pk>/parts/", views.issue, name="issue"),
    path("jobs/<int:pk>/minutes/", views.minutes, name="minutes"),
    path("jobs/<int:pk>/done/", views.done, name="done"),
    path("jobs/<int:pk>/made-good/", views.make_good, name="make-good"),
    path("jobs/<int:pk>/clock/<slug:what>/", views.clock, name="clock"),
    path("labour/<int:pk>/", views.labour, name="labour"),
    path("parts/<int:pk>/back/", views.return_part, name="return-part"),
]

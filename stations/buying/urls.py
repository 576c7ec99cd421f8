from django.urls import path

from stations.buying import views

app_name = "buying"
urlpatterns = [
    path("", views.lots, name="lots"),
    path("new/", views.record, name="record"),
    path("landed/", views.landed, name="landed"),
    path("L-<int:number>/", views.lot, name="lot"),
    path("L-<int:number>/correct/", views.correct, name="correct"),
]

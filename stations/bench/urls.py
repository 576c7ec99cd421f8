from django.urls import path

from stations.bench import views

app_name = "bench"
urlpatterns = [
    path("", views.bench, name="bench"),
    path("W-<int:number>/", views.unit, name="unit"),
    path("W-<int:number>/band/<slug:code>/", views.band, name="band"),
    path("W-<int:number>/start/", views.start, name="start"),
    path("W-<int:number>/end/", views.end, name="end"),
]

from django.urls import path

from stations.intake import views

app_name = "intake"
urlpatterns = [
    path("", views.table, name="table"),
    path("units/", views.units, name="units"),
    path("models/", views.models, name="models"),
    path("W-<int:number>/", views.unit, name="unit"),
    path("W-<int:number>/identify/", views.identify, name="identify"),
    path("W-<int:number>/contents/", views.contents, name="contents"),
    path("W-<int:number>/findings/", views.add_finding, name="add-finding"),
    path("W-<int:number>/approach/", views.approach, name="approach"),
    path("W-<int:number>/photos/", views.add_photos, name="add-photos"),
    path("W-<int:number>/finish/", views.finish, name="finish"),
    path("W-<int:number>/label/", views.label, name="label"),
    path("W-<int:number>/<slug:what>/", views.decide, name="decide"),
    path("findings/<int:pk>/", views.settle_finding, name="settle-finding"),
    path("photos/<int:pk>/<slug:size>/", views.photo, name="photo"),
]

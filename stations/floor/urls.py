from django.urls import path

from stations.floor.views import find, floor, unit

app_name = "floor"
urlpatterns = [
    path("", floor.floor, name="floor"),
    path("find/", find.find, name="find"),
    path("keys/", find.keys, name="keys"),
    path("W-<int:number>/", unit.unit, name="unit"),
]

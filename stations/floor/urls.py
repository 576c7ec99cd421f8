from django.urls import path

from stations.floor.views import find, floor, next_at, unit

app_name = "floor"
urlpatterns = [
    path("", floor.floor, name="floor"),
    path("find/", find.find, name="find"),
    path("next/<slug:station>/", next_at.next_at, name="next-at"),
    path("keys/", find.keys, name="keys"),
    path("W-<int:number>/", unit.unit, name="unit"),
]

from django.urls import path

from stations.floor.views import away, find, floor, judgement, next_at, unit

app_name = "floor"
urlpatterns = [
    path("", floor.floor, name="floor"),
    path("away/", away.away, name="away"),
    path("away.js", away.worker, name="worker"),
    path("manifest.webmanifest", away.manifest, name="manifest"),
    path("find/", find.find, name="find"),
    path("next/<slug:station>/", next_at.next_at, name="next-at"),
    path("judgement/", judgement.judgement, name="judgement"),
    path("judgement/<slug:name>.svg", judgement.picture, name="judgement-picture"),
    path("keys/", find.keys, name="keys"),
    path("W-<int:number>/", unit.unit, name="unit"),
]

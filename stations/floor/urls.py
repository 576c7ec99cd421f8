from django.urls import path

from stations.floor import views

app_name = "floor"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("find/", views.find, name="find"),
    path("keys/", views.keys, name="keys"),
    path("W-<int:number>/", views.unit, name="unit"),
]

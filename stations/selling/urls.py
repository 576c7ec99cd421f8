from django.urls import path

from stations.selling import views

app_name = "selling"
urlpatterns = [
    path("", views.selling, name="selling"),
    path("comparables/", views.comparables, name="comparables"),
    path("channels/", views.channels, name="channels"),
    path("W-<int:number>/", views.unit, name="unit"),
    path("W-<int:number>/price/", views.price, name="price"),
    path("W-<int:number>/text/", views.text, name="text"),
    path("W-<int:number>/sale/", views.sale, name="sale"),
    path("W-<int:number>/<slug:what>/", views.do, name="do"),
]

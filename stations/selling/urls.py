from django.urls import path

from stations.selling.views import channels, comparables, table, unit

app_name = "selling"
urlpatterns = [
    path("", table.selling, name="selling"),
    path("comparables/", comparables.comparables, name="comparables"),
    path("channels/", channels.channels, name="channels"),
    path("W-<int:number>/", unit.unit, name="unit"),
    path("W-<int:number>/price/", unit.price, name="price"),
    path("W-<int:number>/text/", unit.text, name="text"),
    path("W-<int:number>/sale/", unit.sale, name="sale"),
    path("W-<int:number>/<slug:what>/", unit.one_press, name="do"),
]

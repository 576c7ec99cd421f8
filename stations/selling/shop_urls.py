"""The pages anybody may see."""

from django.urls import path

from stations.selling.views import shop

app_name = "shop"
urlpatterns = [
    path("", shop.shop_front, name="front"),
    path("W-<int:number>/", shop.shop_unit, name="unit"),
]

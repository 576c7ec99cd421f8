"""The pages anybody may see."""

from django.urls import path

from stations.selling.views import pictures, shop

app_name = "shop"
urlpatterns = [
    path("", shop.shop_front, name="front"),
    path("pictures/<int:pk>/<slug:size>/", pictures.picture, name="picture"),
    path("W-<int:number>/", shop.shop_unit, name="unit"),
]

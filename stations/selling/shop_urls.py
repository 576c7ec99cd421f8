"""The pages anybody may see."""

from django.urls import path

from stations.selling import views

app_name = "shop"
urlpatterns = [
    path("", views.shop_front, name="front"),
    path("W-<int:number>/", views.shop_unit, name="unit"),
]

from django.urls import path

from stations.stock import views

app_name = "stock"
urlpatterns = [
    path("workshop/stock/", views.parts, name="parts"),
    path("bench/known-good/", views.known_good, name="known-good"),
    path("bench/known-good/<int:pk>/verify/", views.verify, name="verify"),
]

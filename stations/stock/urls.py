from django.urls import path

from stations.stock.views import known_good, parts

app_name = "stock"
urlpatterns = [
    path("workshop/stock/", parts.parts, name="parts"),
    path("bench/known-good/", known_good.known_good, name="known-good"),
    path("bench/known-good/<int:pk>/verify/", known_good.verify, name="verify"),
]

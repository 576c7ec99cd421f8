from django.urls import path

from stations.books import views

app_name = "books"
urlpatterns = [
    path("", views.books, name="books"),
    path("L-<int:number>/", views.lot, name="lot"),
    path("W-<int:number>/", views.unit, name="unit"),
]

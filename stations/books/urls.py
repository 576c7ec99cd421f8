from django.urls import path

from stations.books.views import books, lot, unit

app_name = "books"
urlpatterns = [
    path("", books.books, name="books"),
    path("L-<int:number>/", lot.lot, name="lot"),
    path("W-<int:number>/", unit.unit, name="unit"),
]

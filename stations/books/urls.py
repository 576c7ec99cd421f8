from django.urls import path

from stations.books.views import books, forecasts, hours, lessons, lot, period, stock, tax, unit, what_pays

app_name = "books"
urlpatterns = [
    path("", books.books, name="books"),
    path("forecasts/", forecasts.held, name="forecasts"),
    path("learned/", lessons.learned, name="learned"),
    path("what-pays/", what_pays.what_pays, name="what-pays"),
    path("time/", hours.time, name="time"),
    path("stock/", stock.stock, name="stock"),
    path("period/", period.period, name="period"),
    path("period/stock.csv", period.stock_csv, name="stock-csv"),
    path("period/journal.beancount", period.journal_text, name="journal"),
    path("period/entries/", period.entries, name="entries"),
    path("period/entries.csv", period.entries_csv, name="entries-csv"),
    path("tax/", tax.tax, name="tax"),
    path("tax/out/", tax.take_out, name="take-out"),
    path("tax/<int:year>-<int:month>-<int:day>/close/", tax.close, name="close-period"),
    path("L-<int:number>/", lot.lot, name="lot"),
    path("W-<int:number>/", unit.unit, name="unit"),
]

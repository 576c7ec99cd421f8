from django.urls import path

from stations.stock.views import known_good, orders, parts, sellers

app_name = "stock"
urlpatterns = [
    path("workshop/stock/", parts.parts, name="parts"),
    path("workshop/stock/found/", parts.found, name="found"),
    path("workshop/stock.csv", parts.stock_csv, name="csv"),
    path("workshop/stock/import/", parts.take_in, name="import"),
    path("workshop/stock/<int:pk>/", parts.item, name="item"),
    path("workshop/stock/<int:pk>/change/", parts.change, name="change"),
    path("workshop/stock/<int:pk>/count/", parts.count, name="count"),
    path("workshop/stock/<int:pk>/not-bought/", parts.not_bought, name="not-bought"),
    path("workshop/stock/<int:pk>/not-counted/", parts.not_counted, name="not-counted"),
    path("workshop/stock/<int:pk>/condition/", parts.condition, name="condition"),
    path("workshop/stock/<int:pk>/design/", parts.design, name="design"),
    path("workshop/sellers/", sellers.all_sellers, name="sellers"),
    path("workshop/sellers/<int:pk>/", sellers.seller, name="seller"),
    path("workshop/orders/", orders.all_orders, name="orders"),
    path("workshop/orders/O-<int:number>/", orders.order, name="order"),
    path("workshop/orders/O-<int:number>/line/", orders.add_line, name="order-line"),
    path("workshop/orders/O-<int:number>/terms/", orders.terms, name="order-terms"),
    path("workshop/orders/O-<int:number>/call-off/", orders.call_off, name="call-off"),
    path("workshop/orders/O-<int:number>/comes-after-all/", orders.comes_after_all, name="comes-after-all"),
    path("workshop/orders/O-<int:number>/not-come/", orders.not_come, name="not-come"),
    path("workshop/orders/O-<int:number>/take-in/", orders.take_in, name="take-in"),
    path("workshop/order-lines/<int:pk>/drop/", orders.drop_line, name="drop-line"),
    path("bench/known-good/", known_good.known_good, name="known-good"),
    path("bench/known-good/<int:pk>/", known_good.one, name="known-good-one"),
    path("bench/known-good/<int:pk>/bad/", known_good.found_bad, name="found-bad"),
    path("bench/known-good/<int:pk>/verify/", known_good.verify, name="verify"),
]

from django.apps import AppConfig


class StockConfig(AppConfig):
    name = "stations.stock"
    label = "stock"

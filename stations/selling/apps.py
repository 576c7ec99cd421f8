from django.apps import AppConfig


class SellingConfig(AppConfig):
    name = "stations.selling"
    label = "selling"

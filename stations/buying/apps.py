from django.apps import AppConfig


class BuyingConfig(AppConfig):
    name = "stations.buying"
    label = "buying"

from django.apps import AppConfig


class UnitsConfig(AppConfig):
    name = "stations.units"
    label = "units"

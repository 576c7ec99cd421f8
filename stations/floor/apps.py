from django.apps import AppConfig


class FloorConfig(AppConfig):
    name = "stations.floor"
    label = "floor"

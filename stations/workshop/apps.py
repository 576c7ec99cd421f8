from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    name = "stations.workshop"
    label = "workshop"

from django.apps import AppConfig


class DispatchConfig(AppConfig):
    name = "stations.dispatch"
    label = "dispatch"

from django.apps import AppConfig


class ApiConfig(AppConfig):
    name = "stations.api"
    verbose_name = "what other programs read"

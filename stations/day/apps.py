from django.apps import AppConfig


class DayConfig(AppConfig):
    name = "stations.day"
    verbose_name = "the plan of a day"

from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "stations.intake"
    label = "intake"

from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "stations.intake"
    label = "intake"

    def ready(self):
        from stations.intake import services  # noqa: F401 - listens for lots that are shared

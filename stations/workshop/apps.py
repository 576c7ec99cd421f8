from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    name = "stations.workshop"
    label = "workshop"

    def ready(self):
        from stations.workshop import services  # noqa: F401 - registers the facts that stages rest on

from django.apps import AppConfig


class UnitsConfig(AppConfig):
    name = "stations.units"
    label = "units"

    def ready(self):
        from stations.units import costs  # noqa: F401 - listens for lots that are shared

from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "stations.bench"
    label = "bench"

    def ready(self):
        from stations.bench import faults, fixes, services, stops  # noqa: F401 - register the facts that stages rest on

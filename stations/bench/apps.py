from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "stations.bench"
    label = "bench"

    def ready(self):
        from stations.bench import services  # noqa: F401 - registers the facts that stages rest on

from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "stations.bench"
    label = "bench"

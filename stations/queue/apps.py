from django.apps import AppConfig


class QueueConfig(AppConfig):
    name = "stations.queue"
    verbose_name = "work outside of requests"

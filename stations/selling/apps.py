from django.apps import AppConfig


class SellingConfig(AppConfig):
    name = "stations.selling"
    label = "selling"

    def ready(self):
        from stations.selling import services  # noqa: F401 - registers the facts that stages rest on

from django.apps import AppConfig


class CatalogueConfig(AppConfig):
    name = "stations.catalogue"
    label = "catalogue"

from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "stations.people"
    label = "people"

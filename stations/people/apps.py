from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules


class PeopleConfig(AppConfig):
    name = "stations.people"
    label = "people"

    def ready(self):
        # What each room answers for and posts, so that earlier rooms hear of later ones.
        autodiscover_modules("facts", "documents", "tasks", "work", "checks")

from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules

from stations.common.wrong import in_our_words


class PeopleConfig(AppConfig):
    name = "stations.people"
    label = "people"

    def ready(self):
        in_our_words()
        # What each room answers for and posts, so that earlier rooms hear of later ones.
        autodiscover_modules("facts", "documents", "tasks", "work", "checks")

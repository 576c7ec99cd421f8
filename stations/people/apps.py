from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in
from django.utils.module_loading import autodiscover_modules

from stations.common.wrong import in_our_words


class PeopleConfig(AppConfig):
    name = "stations.people"
    label = "people"

    def ready(self):
        in_our_words()
        from stations.people import signed_in  # it needs the models, which are not there before

        user_logged_in.connect(signed_in.note, dispatch_uid="signed in")
        # What each room answers for and posts, so that earlier rooms hear of later ones.
        autodiscover_modules("facts", "documents", "tasks", "work", "checks")

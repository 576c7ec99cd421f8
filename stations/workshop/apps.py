from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_out


class WorkshopConfig(AppConfig):
    name = "stations.workshop"
    label = "workshop"

    def ready(self) -> None:
        user_logged_out.connect(_signed_out, dispatch_uid="workshop clocks at sign-out")


def _signed_out(sender: object, user: object, **rest: object) -> None:
    """A clock that runs on while its person is gone is asked about when they are back."""
    from stations.common import clock  # models are not there yet when this module is read
    from stations.people.models import Person
    from stations.workshop.models import LabourEntry

    if isinstance(user, Person):
        LabourEntry.objects.filter(running_for=user).update(signed_out_at=clock.now())

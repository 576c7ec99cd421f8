"""What of a unit is otherwise than its model says, for what fits into it."""

from django.db import models

from stations.common.models import Versioned
from stations.units.models.unit import Unit


class UnitFit(Versioned):
    """`whole`: somebody said that all that is in it is written down. `offers`: groups that are this unit’s own, in the
    place of its model’s; `stretched`: sockets, in small letters, in which a board with thicker pins has sat."""

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="fit")
    whole = models.BooleanField(default=False)
    offers = models.JSONField(default=dict)
    stretched = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"what {self.unit} offers"

"""How the photos of a unit are shown to buyers."""

from django.db import models
from django.db.models import F, Q

from stations.common.models import Versioned
from stations.units.models import Finding, Photo


class ShownPhoto(Versioned):
    """A photo as buyers see it: in which place, straightened and cut how, or not at all. A photo without a row is shown
    whole, in the order of what it shows. `sha256` is the picture that came of the cut; empty where it is whole."""

    photo = models.OneToOneField(Photo, on_delete=models.CASCADE, related_name="shown")
    place = models.PositiveSmallIntegerField(default=0)
    hidden = models.BooleanField("not shown", default=False)
    left = models.FloatField(default=0.0)
    top = models.FloatField(default=0.0)
    width = models.FloatField(default=1.0)
    height = models.FloatField(default=1.0)
    turn = models.FloatField("straighten, degrees", default=0.0)
    sha256 = models.CharField(max_length=64, blank=True, editable=False)

    class Meta:
        ordering = ["place", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(left__gte=0, top__gte=0, width__gt=0, height__gt=0)
                & Q(left__lte=1.0000001 - F("width"), top__lte=1.0000001 - F("height")),
                name="a_cut_lies_in_its_picture",
            ),
            models.CheckConstraint(condition=Q(turn__range=(-15, 15)), name="a_picture_is_straightened_a_little"),
        ]

    def __str__(self) -> str:
        return f"{self.photo} as shown"


class PhotoMark(models.Model):
    """Where a finding is seen on a photo: x and y from 0 to 1 of the photo as it was taken in."""

    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="marks")
    finding = models.ForeignKey(Finding, on_delete=models.CASCADE, related_name="marks")
    x = models.FloatField()
    y = models.FloatField()

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(x__range=(0, 1), y__range=(0, 1)), name="a_mark_lies_on_its_photo"),
            models.UniqueConstraint(fields=["photo", "finding"], name="a_finding_is_marked_once_a_photo"),
        ]

    def __str__(self) -> str:
        return f"{self.finding} on {self.photo}"

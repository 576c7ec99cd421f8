"""A file that is named by its content, let go by one while another is about to tell of it: it stays with what tells."""

from django.db import transaction

from stations.backup.lost import lost
from stations.units import photos, picture_files, slips
from stations.units.models import Photo, Unit
from tests.hands import a_picture
from tests.stations.base import AtOnce


class OneDropsWhatAnotherBrings(AtOnce):
    def setUp(self):
        super().setUp()
        self.one, self.other = self.receive(2)

    def drop(self, unit: Unit) -> None:
        slips.take_off(self.owner, unit, f"photo:{unit.photos.get().pk}", "the wrong machine")

    def bring(self, unit: Unit) -> None:
        self.assertEqual(photos.add_photos(self.owner, unit, [a_picture("front.png")])[1], [])

    def test_before_the_row_that_tells_of_it_stands(self):
        self.bring(self.one)
        with transaction.atomic():
            self.bring(self.other)
            self.together(lambda: self.drop(self.one))
        both = list(picture_files.both_of([Photo.objects.get().sha256]))
        self.assertEqual([path.exists() for path in both], [True, True])
        self.drop(self.other)
        self.assertEqual([path.exists() for path in both], [False, False])

    def test_at_the_same_moment(self):
        here, there = self.one, self.other
        self.bring(here)
        for _ in range(20):
            self.together(lambda: self.drop(here), lambda: self.bring(there))  # noqa: B023
            self.assertEqual((Photo.objects.get().unit, lost()), (there, []))
            here, there = there, here

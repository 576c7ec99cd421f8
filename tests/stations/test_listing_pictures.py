"""The pictures of a listing through their page: order, left out, straightened and cut, defects marked."""

from pathlib import Path

from PIL import Image

from stations.common.refusals import NotAllowed, Refused
from stations.selling import pictures
from stations.selling.models import PhotoMark, ShownPhoto
from stations.units import picture_files
from tests.stations.test_through_the_pages import Through


class Pictures(Through):
    def scene(self) -> None:
        super().scene()
        self.unit = self.listed()
        hand = self.hand()
        hand.photograph(self.unit, 4)
        for photo, shot in zip(self.unit.photos.all(), ("back", "front", "", "defect"), strict=False):
            type(photo).objects.filter(pk=photo.pk).update(shot=shot)
        self.crack = hand.find(self.unit, "front", "crack", 2, "hairline by the badge")

    def shown(self, **more) -> list:
        return pictures.pictures_of(self.unit, **more)

    def order(self) -> list[str]:
        return [one.photo.shot for one in self.shown(hidden=True)]

    def cut(self, photo, **typed):
        row = ShownPhoto.objects.filter(photo=photo).first()
        usual = {"turn": "0", "off_left": "0", "off_right": "0", "off_top": "0", "off_bottom": "0"}
        return self.post("selling:cut", [photo.pk], version=row.version if row else 1, **usual | typed)

    def test_by_worth_until_somebody_puts_them_in_another_order(self):
        self.assertEqual(self.order()[:3], ["front", "defect", "back"])
        back = self.unit.photos.get(shot="back")
        self.done(self.post("selling:picture-do", [back.pk, "earlier"]))
        self.assertEqual(self.order()[:3], ["front", "back", "defect"])
        self.done(self.post("selling:picture-do", [back.pk, "first"]))
        self.done(self.post("selling:picture-do", [back.pk, "later"]))
        self.assertEqual(self.order()[:3], ["front", "back", "defect"])

    def test_what_is_left_out_nobody_outside_gets(self):
        front = self.unit.photos.get(shot="front")
        self.done(self.post("selling:picture-do", [front.pk, "hide"]))
        page = self.client.get(f"/selling/W-{self.unit.number}/pictures/")
        self.assertContains(page, "left out")
        self.client.logout()
        self.assertEqual(self.client.get(f"/shop/pictures/{front.pk}/full/").status_code, 404)
        self.assertNotContains(self.client.get(f"/shop/W-{self.unit.number}/"), f"/shop/pictures/{front.pk}/")
        back = self.unit.photos.get(shot="back")
        self.assertEqual(self.client.get(f"/shop/pictures/{back.pk}/small/").status_code, 200)
        self.sign_in(self.owner)
        self.done(self.post("selling:picture-do", [front.pk, "show"]))
        self.assertEqual(len(self.shown()), len(self.shown(hidden=True)))

    def test_straightened_and_cut_for_buyers_and_kept_as_taken(self):
        front = self.unit.photos.get(shot="front")
        self.done(self.cut(front, turn="4", off_left="10", off_bottom="20"))
        row = ShownPhoto.objects.get(photo=front)
        picture = next(one for one in self.shown() if one.photo == front)
        with Image.open(picture_files.path_of(row.sha256)) as kept:
            self.assertAlmostEqual(kept.width, picture.width, delta=1)
            self.assertAlmostEqual(kept.height, picture.height, delta=1)
        self.assertTrue(Path(picture_files.path_of(front.sha256)).exists())
        self.done(self.cut(front))
        self.assertEqual(ShownPhoto.objects.get(photo=front).sha256, "")

    def test_nonsense_is_refused_at_the_field_and_kept(self):
        front = self.unit.photos.get(shot="front")
        for typed, words in (
            ({"turn": "40"}, "15 degrees at most"),
            ({"off_left": "60", "off_right": "30"}, "Less than a fifth"),
            ({"off_top": "x"}, "Type a share"),
        ):
            self.says(self.cut(front, **typed), words, next(iter(typed.values())))
        self.done(self.cut(front, turn="1"))
        stale = self.post(
            "selling:cut", [front.pk], version=1, turn="2", off_left="0", off_right="0", off_top="0", off_bottom="0"
        )
        self.assertContains(stale, "Somebody else saved this", status_code=stale.status_code)

    def test_a_defect_is_marked_where_it_is_seen(self):
        front = self.unit.photos.get(shot="front")
        typed = {"x": "50", "y": "50", "finding": str(self.crack.pk)}
        self.done(self.post("selling:mark", [front.pk], **typed))
        (mark,) = next(one for one in self.shown() if one.photo == front).marks
        self.assertEqual((mark.number, round(mark.x), round(mark.y)), (1, front.width // 2, front.height // 2))
        self.done(self.post("selling:mark", [front.pk], **typed | {"x": "5"}))
        self.assertEqual(PhotoMark.objects.get().x, 0.05)
        # Where that side is cut away nothing is marked.
        self.done(self.cut(front, off_left="20"))
        self.assertEqual(next(one for one in self.shown() if one.photo == front).marks, ())
        self.says(self.post("selling:mark", [front.pk], **typed | {"y": "140"}), "From 0 to 100")
        self.done(self.post("selling:picture-do", [front.pk, "unmark"], finding=str(self.crack.pk)))
        self.assertFalse(PhotoMark.objects.exists())

    def test_a_mark_goes_with_its_finding(self):
        front = self.unit.photos.get(shot="front")
        pictures.mark(self.owner, front, self.crack, 0.4, 0.4)
        self.unit.findings.update(status="resolved", settled_words="glued")
        self.assertEqual(next(one for one in self.shown() if one.photo == front).marks, ())

    def test_who_may_not_is_told(self):
        front = self.unit.photos.get(shot="front")
        with self.assertRaises(NotAllowed):
            pictures.hide(self.viewer, front, True)
        other = self.listed()
        with self.assertRaisesRegex(Refused, "another unit"):
            pictures.mark(self.owner, other.photos.first(), self.crack, 0.5, 0.5)

    def test_queries_do_not_grow_with_pictures(self):
        pictures.mark(self.owner, self.unit.photos.first(), self.crack, 0.4, 0.4)
        with self.assertNumQueries(4):
            self.shown()
        self.hand().photograph(self.unit, 9)
        with self.assertNumQueries(4):
            self.shown()

import io
from dataclasses import replace
from decimal import Decimal

import pillow_heif
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from PIL import Image, ImageFile

from core.machine.approach import Approach
from stations.buying import services as buying
from stations.common.details import as_kept
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.intake import services as intake
from stations.intake import settling
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.units import findings, photos, picture_files
from stations.units.models import Finding, Photo
from tests.stations.base import ShopTest, line_data, lot_data


def picture(name="front.jpg", colour=(200, 190, 160), size=(320, 240), exif=False) -> SimpleUploadedFile:
    out = io.BytesIO()
    image = Image.new("RGB", size, colour)
    data = Image.Exif()
    if exif:
        data[0x010F] = "somebody's camera"
        data[0x0112] = 6
    image.save(out, "JPEG", exif=data)
    return SimpleUploadedFile(name, out.getvalue(), "image/jpeg")


class Receiving(ShopTest):
    def test_units_get_the_next_tags_and_their_model(self):
        one, two = self.receive(2)
        self.assertEqual([u.number for u in (one, two)], [101, 102])
        self.assertEqual((one.stage, one.supply, one.picture_tube), ("received", "linear", True))
        self.assertEqual([c.name for c in one.contents.all()], ["keyboard", "mouse"])

    def test_never_more_than_were_bought(self):
        self.receive(2)
        with self.assertRaisesRegex(Refused, "1 of 3 are still to be received"):
            self.receive(2)

    def test_shares_of_a_line_sum_to_the_cent(self):
        units = self.receive(3)
        self.assertEqual(sum(balance(Account.UNIT, u.pk) for u in units), Decimal("118.18"))
        self.assertEqual(balance(Account.LINE, self.line.pk), 0)

    def test_custody_carries_its_owner_over(self):
        lot = buying.record_lot(
            self.owner,
            lot_data(source_kind="custody", owner_name="Museum", price=None, premium_percent=None, freight=None),
            [line_data()],
        )
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1)
        self.assertEqual(unit.owner_name, "Museum")
        with self.assertRaisesRegex(Refused, "only conserving work"):
            intake.choose_approach(self.owner, unit, Approach.ENHANCED, "")


class Capturing(ShopTest):
    def test_intake_is_finished_only_when_all_is_recorded(self):
        (unit,) = self.receive()
        with self.assertRaisesRegex(Refused, "what it is, completeness, its looks, approach"):
            intake.finish_intake(self.owner, unit)
        unit = self.hand().assess(unit)
        self.assertEqual((unit.stage, unit.station), ("assessed", "bench"))

    def test_an_open_leak_holds_the_unit_until_resolved(self):
        (unit,) = self.receive()
        finding = self.hand().find(unit, "front", "leak", 4, "crust under the battery")
        self.assertEqual(self.again(unit).state, "hold")
        with self.assertRaisesRegex(Refused, "never patina"):
            findings.settle_finding(self.owner, finding, "patina")
        with self.assertRaisesRegex(Refused, "what was done"):
            findings.settle_finding(self.owner, finding, "resolved")
        with self.assertRaisesRegex(Refused, "Nothing on record"):
            findings.settle_finding(self.owner, finding, "resolved", "washed with vinegar")
        photos.add_photos(self.owner, unit, [picture()])
        findings.settle_finding(self.owner, finding, "resolved", "washed with vinegar")
        self.assertEqual(self.again(unit).state, "move")
        self.assertEqual(Finding.objects.get().status, "resolved")

    def test_a_stale_identity_is_told_so(self):
        (unit,) = self.receive()
        seen = self.again(unit)
        self.identify(seen, title="Halden M2", serial="A1", model=self.model)
        with self.assertRaises(StaleEdit):
            said = replace(as_kept(intake.Identity, self.again(unit)), title="Halden M1", serial="")
            intake.identify(self.owner, self.again(unit), 1, said)
        self.assertEqual(self.again(unit).serial, "A1")

    def test_a_late_change_of_approach_wants_a_reason(self):
        unit = self.assessed()
        with self.assertRaisesRegex(Refused, "say why"):
            intake.choose_approach(self.owner, unit, Approach.DONOR, "")
        intake.choose_approach(self.owner, unit, Approach.DONOR, "board broken")
        self.assertEqual(self.again(unit).stage, "donor")

    def test_the_same_thing_twice_on_the_list_is_refused(self):
        (unit,) = self.receive()
        with self.assertRaisesRegex(Refused, "on the list already"):
            intake.tick_contents(self.owner, unit, {}, extra="mouse")

    def test_viewers_only_look(self):
        (unit,) = self.receive()
        with self.assertRaises(NotAllowed):
            findings.add_finding(self.viewer, unit, findings.Observation("front", "crack", 0.5, 0.5, severity=2))

    def test_the_database_refuses_a_finding_off_its_face(self):
        (unit,) = self.receive()
        finding = self.hand().find(unit, "front", "crack", 2, "corner")
        with self.assertRaises(IntegrityError), transaction.atomic():
            Finding.objects.filter(pk=finding.pk).update(x=1.2)


class Photographs(ShopTest):
    def test_good_ones_are_kept_and_bad_ones_named(self):
        (unit,) = self.receive()
        good = picture()
        files = [
            good,
            SimpleUploadedFile("notes.jpg", b"not a picture at all"),
            SimpleUploadedFile("cut.jpg", picture("x", (1, 2, 3)).read()[:400]),
            picture("again.jpg"),
        ]
        kept, complaints = photos.add_photos(self.owner, unit, files)
        self.assertEqual(kept, 1)
        self.assertEqual(
            complaints,
            [
                "notes.jpg was not taken: not a picture",
                "cut.jpg was not taken: cut short or damaged",
                "again.jpg was not taken: the same picture is here already",
            ],
        )

    def test_a_damaged_picture_is_refused_whatever_a_library_switched_on(self):
        (unit,) = self.receive()
        before = ImageFile.LOAD_TRUNCATED_IMAGES
        self.addCleanup(setattr, ImageFile, "LOAD_TRUNCATED_IMAGES", before)
        ImageFile.LOAD_TRUNCATED_IMAGES = True  # as making a PDF does, for the whole process
        cut = SimpleUploadedFile("cut.jpg", picture("x", (1, 2, 3)).read()[:400])
        kept, complaints = photos.add_photos(self.owner, unit, [cut])
        self.assertEqual((kept, complaints), (0, ["cut.jpg was not taken: cut short or damaged"]))

    def test_nothing_but_the_pixels_is_kept_and_the_picture_stands_upright(self):
        (unit,) = self.receive()
        photos.add_photos(self.owner, unit, [picture(exif=True)])
        photo = Photo.objects.get()
        self.assertEqual((photo.width, photo.height), (240, 320))
        with Image.open(picture_files.path_of(photo.sha256)) as stored:
            self.assertEqual(len(stored.getexif()), 0)

    def test_too_many_pixels_are_refused(self):
        (unit,) = self.receive()
        huge = io.BytesIO()
        Image.new("1", (7000, 6000)).save(huge, "PNG")
        _, complaints = photos.add_photos(self.owner, unit, [SimpleUploadedFile("huge.png", huge.getvalue())])
        self.assertEqual(complaints, ["huge.png was not taken: more than 40 megapixels"])

    def test_heic_from_a_phone_is_taken(self):
        (unit,) = self.receive()
        out = io.BytesIO()
        pillow_heif.from_pillow(Image.new("RGB", (300, 200), (200, 190, 160))).save(out, quality=80)
        kept, complaints = photos.add_photos(self.owner, unit, [SimpleUploadedFile("back.heic", out.getvalue())])
        self.assertEqual((kept, complaints, Photo.objects.get().shot), (1, [], "back"))

    def test_the_same_picture_saved_again_is_noticed_and_another_is_not(self):
        (unit,) = self.receive()
        face = Image.radial_gradient("L").resize((320, 240)).convert("RGB")
        files = []
        other = face.rotate(90, expand=True).crop((0, 0, 200, 120))
        for name, image, quality in (
            ("a.jpg", face, 95),
            ("b.jpg", face.resize((640, 480)), 60),
            ("c.jpg", other, 90),
        ):
            out = io.BytesIO()
            image.save(out, "JPEG", quality=quality)
            files.append(SimpleUploadedFile(name, out.getvalue()))
        kept, complaints = photos.add_photos(self.owner, unit, files)
        self.assertEqual((kept, complaints), (3, ["b.jpg was kept, but looks like a.jpg"]))

    def test_required_shots_are_ticked_off_by_name_or_by_hand(self):
        (unit,) = self.receive()
        photos.add_photos(self.owner, unit, [picture("front.jpg"), picture("odd.jpg", (9, 9, 200))])
        odd = Photo.objects.get(original_name="odd.jpg")
        there = dict(photos.shots_of(unit))
        self.assertEqual((there["front"], there["screen"]), (True, False))
        photos.say_what_it_shows(self.owner, odd, "screen")
        self.assertTrue(dict(photos.shots_of(unit))["screen"])
        with self.assertRaisesRegex(Refused, "what the picture shows"):
            photos.say_what_it_shows(self.owner, odd, "sideways")

    def test_a_picture_shows_a_finding_of_its_own_unit_only(self):
        one, two = self.receive(2)
        finding = self.hand().find(one, "front", "crack", 2, "corner")
        photos.add_photos(self.owner, two, [picture()])
        with self.assertRaisesRegex(Refused, "another unit"):
            photos.show_finding(self.owner, finding, Photo.objects.get())
        photos.add_photos(self.owner, one, [picture()])
        photos.show_finding(self.owner, finding, one.photos.get())
        self.assertEqual((self.again(finding).photo.shot, self.again(finding).photo.unit), ("front", one))


class LeavingTheLine(ShopTest):
    def test_a_write_off_is_a_loss_of_the_lot(self):
        (unit,) = self.receive()
        with self.assertRaises(NotAllowed):
            settling.write_off(self.technician, unit, "rust")
        settling.write_off(self.owner, unit, "rust")
        self.assertEqual(balance(Account.UNIT, unit.pk), 0)
        self.assertEqual(balance(Account.LOSS, unit.pk), Decimal("39.40"))
        with self.assertRaisesRegex(Refused, "can’t be done now"):
            settling.write_off(self.owner, unit, "rust")

    def test_parked_and_taken_up_again(self):
        unit = self.assessed()
        settling.park(self.owner, unit, "no room")
        self.assertEqual(self.again(unit).state, "wait")
        settling.take_up(self.owner, unit)
        self.assertEqual(self.again(unit).stage, "assessed")

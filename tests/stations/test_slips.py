"""What was recorded by a slip is taken off again, with why; what something else rests on stays."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from stations.common.refusals import NotAllowed, Refused
from stations.intake import services as intake
from stations.people.models import HistoryEntry
from stations.units import findings, photos, picture_files, slips, sounds
from stations.units.models import Content, Finding, Photo, Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.hands import a_picture, a_tone
from tests.stations.base import person
from tests.stations.test_pages import PageTest


class Slips(PageTest):
    def scene(self):
        super().scene()
        self.unit = self.assessed()
        self.there = reverse("intake:slips", args=[self.unit.number])

    def press(self, mark: str, why: str = "wrong key"):
        return self.client.post(self.there, {"mark": mark, "why": why, "write_key": ""})

    def scratch(self) -> Finding:
        return findings.add_finding(self.owner, self.unit, findings.Observation("top", "scratch", 0.5, 0.5))

    def test_a_finding_that_was_none(self):
        row = self.scratch()
        self.assertContains(self.client.get(self.there), str(row))
        self.assertEqual(self.press(f"finding:{row.pk}").status_code, 302)
        self.assertFalse(Finding.objects.exists())
        said = HistoryEntry.objects.filter(action="units.take_off").get()
        self.assertIn("scratch, top, open; wrong key", said.words)
        self.assertEqual(said.data["why"], "wrong key")
        # Pressed by somebody else who has the page open still.
        self.assertContains(self.press(f"finding:{row.pk}"), "Choose what it is", status_code=200)

    def test_a_leak_that_was_none_holds_it_no_more(self):
        row = self.hand().find(self.unit, "front", "leak", 4, "")
        self.assertEqual(self.again(self.unit).state, "hold")
        slips.take_off(self.owner, self.unit, f"finding:{row.pk}", "a reflection")
        self.assertNotEqual(self.again(self.unit).state, "hold")

    def test_why_is_asked_and_a_choice_too(self):
        row = self.scratch()
        page = self.press(f"finding:{row.pk}", "")
        self.assertContains(page, "Say why")
        self.assertContains(page, "checked")
        self.assertContains(self.press("", "wrong key"), "Choose what it is.")
        for nonsense in ("finding:999999", "photo:x", "content", "unit:1"):
            self.assertContains(self.press(nonsense), "Choose what it is.")
        self.assertEqual(Finding.objects.count(), 1)

    def test_what_a_job_answers_to_stays(self):
        row = self.scratch()
        content = Content.objects.filter(unit=self.unit).first()
        workshop.open_job(self.owner, self.unit, NewJob("Polish it", finding=row))
        workshop.open_job(self.owner, self.unit, NewJob("Find one", source=f"content:{content.pk}"))
        for mark, job in ((f"finding:{row.pk}", "Polish it"), (f"content:{content.pk}", "Find one")):
            with self.assertRaisesRegex(Refused, f"It stays: the job “{job}” answers to it"):
                slips.take_off(self.owner, self.unit, mark, "wrong key")
        self.assertContains(self.client.get(self.there), "answers to it")

    def test_what_never_belonged_with_it_counts_no_more(self):
        intake.tick_contents(self.owner, self.unit, {}, missing="moouse")
        row = Content.objects.get(unit=self.unit, name="moouse")
        self.press(f"content:{row.pk}")
        self.assertFalse(Content.objects.filter(name="moouse").exists())
        self.assertNotContains(self.client.get("/intake/wanted/"), "moouse")

    def test_a_look_that_was_none(self):
        self.assertIsNotNone(self.unit.looked_over_at)
        self.press("looked-over", "only the front")
        self.assertIsNone(self.again(self.unit).looked_over_at)
        self.assertContains(self.client.get(reverse("intake:unit", args=[self.unit.number])), "not looked all over yet")

    def test_a_wrong_picture_goes_with_its_file_unless_it_is_elsewhere_too(self):
        other = self.receive()[0]
        for unit, names in ((self.unit, ("a.png", "b.png")), (other, ("b.png",))):
            photos.add_photos(self.owner, unit, [a_picture(name, 90 + 50 * (name == "b.png")) for name in names])
        for row, stays in zip(self.unit.photos.order_by("id"), (False, True), strict=True):
            path = picture_files.path_of(row.sha256)
            self.assertTrue(path.exists())
            with self.captureOnCommitCallbacks(execute=True):
                self.press(f"photo:{row.pk}", "somebody’s face")
            self.assertEqual((Photo.objects.filter(pk=row.pk).exists(), path.exists()), (False, stays))

    def test_a_picture_that_proves_something_stays(self):
        leak = self.hand().find(self.unit, "front", "leak", 4, "")
        Finding.objects.filter(pk=leak.pk).update(seen_at=timezone.now() - timedelta(hours=2))
        photos.add_photos(self.owner, self.unit, [a_picture("clean.png")])
        findings.settle_finding(self.owner, self.again(leak), "resolved", "washed with vinegar")
        row = self.unit.photos.get()
        with self.assertRaisesRegex(Refused, "was dealt with"):
            slips.take_off(self.owner, self.unit, f"photo:{row.pk}", "blurred")

    def test_a_noise_goes_with_what_was_heard(self):
        clip = sounds.add_heard(self.owner, self.unit, a_tone(), "a rattle")
        path = sounds.path_of(clip.sha256, clip.kind)
        with self.captureOnCommitCallbacks(execute=True):
            self.press(f"finding:{clip.finding_id}", "it was the street")
        self.assertEqual((self.unit.clips.count(), path.exists()), (0, False))

    def test_who_may_not_record_it_may_not_take_it_off(self):
        row = self.scratch()
        with self.assertRaises(NotAllowed):
            slips.take_off(self.viewer, self.unit, f"finding:{row.pk}", "wrong key")
        with self.assertRaises(NotAllowed):
            slips.take_off(person("sue", "seller"), self.unit, "looked-over", "wrong key")

    def test_what_left_the_house_stays_as_it_is(self):
        Unit.objects.filter(pk=self.unit.pk).update(stage="sold")
        with self.assertRaisesRegex(Refused, "its record stays as it is"):
            slips.take_off(self.owner, self.unit, "looked-over", "wrong key")
        self.assertContains(self.client.get(self.there), "Not any more")

"""What was set or shown by the record holds while the record gives it still: grades, and pictures."""

from django.urls import reverse

from core.machine.approach import Approach
from stations.common import clock
from stations.intake import services as intake
from stations.selling import pictures, selectors
from stations.selling import services as selling
from stations.selling.models import UnitGrade
from stations.units import findings, photos
from stations.units.findings import Observation
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.hands import a_picture
from tests.stations.test_proof import ProofTest


class Grades(ProofTest):
    def setUp(self):
        super().setUp()
        self.unit = self.listed()
        self.assertEqual(self.words(self.unit), "")

    def outdated(self, words: str) -> None:
        """Nobody is told a grade that the record does not give, until it is given again."""
        self.assertRegex(self.words(self.unit), f"The grade is older than what happened since: .*{words}")
        page, availability = self.shop_page(self.unit)
        self.assertEqual(availability, "OutOfStock")
        self.assertNotContains(page, "Grade A")
        here = reverse("selling:unit", args=[self.unit.number])
        self.assertContains(self.client.get(here), "The grade is older than what happened since")
        self.client.post(reverse("selling:do", args=[self.unit.number, "grade"]))
        self.assertNotIn("The grade is older", self.words(self.unit))

    def tick(self, presence: str, *names: str) -> None:
        ticks = {row.pk: presence for row in self.unit.contents.all() if row.name in names or not names}
        intake.tick_contents(self.owner, self.again(self.unit), ticks)

    def test_what_is_found_to_be_missing(self):
        self.tick("missing", "keyboard")
        self.outdated(r"completeness: \d+ %, was 100 %; it would be [BC] now")

    def test_a_finding_that_is_worse_than_it_was_said(self):
        said = {"face": "front", "kind": "scratch", "x": 0.5, "y": 0.5, "words": "", "extent_mm": None}
        found = findings.add_finding(self.owner, self.unit, Observation(**said, severity=1, extent_percent=1))
        selling.grade_unit(self.owner, self.again(self.unit))
        self.assertEqual(self.words(self.unit), "")
        worse = Observation(**said, severity=3, extent_percent=100)
        findings.change_finding(self.owner, found, worse)
        for face in ("top", "left", "right", "back"):
            found = findings.add_finding(
                self.owner, self.unit, Observation(**said | {"face": face}, severity=3, extent_percent=100)
            )
        self.assertIn("was found on", self.words(self.unit))
        UnitGrade.objects.filter(unit=self.unit).update(when=found.seen_at)
        self.outdated(r"its looks: \d+ of 100, was 9\d of 100; it would be [BC] now")

    def test_a_temporary_fix(self):
        unit = self.proven()
        self.hand().offer(unit, "160", pictures=1, publish=False)
        why = {"temporary_reason": "the right one is ordered", "made_good_by": "fit it", "made_good_due": clock.today()}
        job = workshop.open_job(self.owner, unit, NewJob("Loader", "software", 5, temporary=True, **why))
        workshop.finish_job(self.owner, job, JobResult("done"))
        self.assertIn("temporary fixes open: 1, was 0; it would be C now", self.words(unit))

    def test_what_is_better_than_it_was_said_to_be_stays_on_offer_as_it_was_graded(self):
        self.tick("missing", "keyboard")
        selling.grade_unit(self.owner, self.again(self.unit))
        selling.write_from_facts(self.owner, self.again(self.unit))
        given = self.again(self.unit).listing.grade
        self.assertNotEqual(given, "A")
        self.tick("present")
        self.assertEqual((self.words(self.unit), self.grade(self.unit)), ("", "A"))
        page, availability = self.shop_page(self.unit)
        self.assertEqual(availability, "InStock")
        self.assertContains(page, f"Grade {given}")
        self.assertNotContains(page, "Grade A")

    def test_a_donor(self):
        intake.choose_approach(self.owner, self.again(self.unit), Approach.DONOR, "worth more in parts")
        self.outdated("it would be for parts now")

    def test_what_changes_no_grade_asks_for_none(self):
        self.tick("not_original")
        self.assertEqual(selectors.graded_now(self.again(self.unit)).grade.value, "A")
        self.assertEqual(self.words(self.unit), "")

    def test_of_the_oldest_nobody_knows_what_it_rested_on(self):
        UnitGrade.objects.filter(unit=self.unit).update(evidence={})
        self.tick("missing", "mouse")
        self.assertNotIn("The grade is older", self.words(self.unit))


class Pictures(ProofTest):
    def setUp(self):
        super().setUp()
        self.unit = self.listed()

    def test_those_that_buyers_do_not_see_are_missing(self):
        for photo in self.unit.photos.all():
            self.client.post(reverse("selling:picture-do", args=[photo.pk, "hide"]))
        self.assertRegex(self.words(self.unit), r"\d photos? missing")
        self.assertEqual(self.again(self.unit).state, "stuck")
        self.assertEqual(self.shop_page(self.unit)[1], "OutOfStock")

    def test_those_from_before_it_was_whitened_come_after_those_since_and_say_so(self):
        (old, *_) = self.unit.photos.all()
        type(old).objects.filter(pk=old.pk).update(shot="front")
        selling.end_listing(self.owner, self.again(self.unit), "to whiten it")
        white = NewJob(title="Case", kind="whiten", estimate_minutes=5)
        with self.after(1):
            workshop.finish_job(
                self.owner, workshop.open_job(self.owner, self.again(self.unit), white), JobResult("done")
            )
        with self.after(2):
            photos.add_photos(self.owner, self.unit, [a_picture(f"since-{shade}.png", shade) for shade in (90, 210)])
        shown = pictures.pictures_of(self.again(self.unit))
        self.assertEqual([one.before for one in shown], sorted(one.before for one in shown))
        self.assertEqual({one.before for one in shown}, {"", "whitened"})
        self.assertEqual(pictures.first_pictures([self.unit.pk])[self.unit.pk], shown[0].photo.pk)
        pictures.move(self.owner, old, -20)
        self.assertEqual(pictures.first_pictures([self.unit.pk])[self.unit.pk], old.pk)
        selling.publish(self.owner, self.again(self.unit))
        self.assertContains(self.shop_page(self.unit)[0], "Before it was whitened")
        page = self.client.get(reverse("selling:pictures", args=[self.unit.number]))
        self.assertContains(page, "From before it was whitened")

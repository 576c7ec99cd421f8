"""Care through the pages: a plan made a job, a whitening measured and stopped, held by a marking, coats in time."""

from datetime import timedelta
from decimal import Decimal as D

from django.urls import reverse
from django.utils import timezone

from core.machine.casing import Face
from core.workshop.care import plans
from core.workshop.care.coats import read_coats
from core.workshop.care.region import Region
from core.workshop.care.strength import Basis, percent_wv
from stations.common import clock
from stations.common.refusals import Refused
from stations.selling.as_recorded import listing_facts
from stations.units import photos
from stations.units.models import Photo
from stations.workshop import care, care_planning, recipe_run, services
from stations.workshop.care_planning import Planned
from stations.workshop.models import Job, JobStep
from tests.stations.test_intake import picture
from tests.stations.test_through_the_pages import Through

WHITEN = {
    "part": "top case",
    "face": "",
    "area": "1180",
    "school": "gel",
    "bottle": "40",
    "basis": "volumes",
    "wanted": "6",
    "tub": "",
    "displaced": "",
    "rounds": "4",
    "minutes": "120",
}
COATS = "primer: from 20 min; to 24 h; 35 µm; can 1.8 m²\ncolour: from 6 h; to 2 d; can 1.8 m²"


class Care(Through):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed("enhanced")
        self.now = timezone.now()

    def look(self, what: str, **asked):
        return self.client.get(f"/workshop/W-{self.unit.number}/care/{what}/", asked)

    def make(self, what: str, **asked) -> Job:
        self.done(self.post("workshop:care-make", [self.unit.number, what], **asked))
        return Job.objects.order_by("-pk").first()

    def step(self, job: Job, index: int, typed: str = "", note: str = "", file=None, at=None) -> None:
        with clock.at(at or self.now):
            recipe_run.do_step(self.owner, self.again(job), index, typed, note, file)

    def start(self, job: Job, index: int, note: str = "", at=None, air: str = "21 50") -> None:
        with clock.at(at or self.now):
            recipe_run.start_alone(self.owner, self.again(job), index, note, air)

    def pass_on(self, **span) -> None:
        self.now += timedelta(**span)


class Plans(Care):
    def test_a_whitening_is_worked_out_and_made_a_job(self):
        page = self.look("whiten", **WHITEN)
        for words in ("146 ml", "149 ml", "295 ml", "12.1 %", "Never close the vessel", "Leave it"):
            self.assertContains(page, words)
        job = self.make("whiten", **WHITEN)
        self.assertEqual((job.kind, job.title), ("whiten", "Whiten top case, gel under film"))
        self.assertEqual(len(job.steps), 2 + 2 + 2 * 4 + 2)
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "Measure it before the first round")

    def test_the_area_of_a_face_comes_from_the_model(self):
        self.model.width_mm, self.model.depth_mm = 400, 250
        self.model.save()
        # Its height is not known yet, so no face is reckoned with.
        self.assertIsNone(care_planning.size_of(self.again(self.unit)))
        self.model.height_mm = 90
        self.model.save()
        unit = self.again(self.unit)
        self.assertEqual(Region(Face.TOP).area(care_planning.size_of(unit)), 1000)
        self.assertContains(self.look("whiten", **WHITEN | {"area": "", "face": "top"}), "250 ml")

    def test_what_is_wrong_is_said_at_its_field_and_kept(self):
        for change, words in (
            ({"basis": ""}, "w/v and w/w are not the same"),
            ({"basis": "w/v"}, "40 volumes are 12.1 % w/v"),
            ({"wanted": "20"}, "never stronger"),
            ({"area": "-5"}, "may not be below 0"),
            ({"area": "0"}, "above 0"),
            ({"area": ""}, "Say how large it is"),
            ({"part": ""}, "Say of what"),
            ({"rounds": "90"}, "From 1 to 12"),
            ({"minutes": "2"}, "5 minutes"),
            ({"school": "bath"}, "how much the tub holds"),
            ({"school": "bath", "tub": "100", "displaced": "200"}, "less than the tub"),
        ):
            page = self.look("whiten", **WHITEN | change)
            self.assertContains(page, words, msg_prefix=str(change))
            self.assertNotContains(page, "Make it a job")
        page = self.post("workshop:care-make", [self.unit.number, "whiten"], **WHITEN | {"wanted": "20"})
        self.assertEqual(page.status_code, 422)
        self.assertFalse(Job.objects.exists())

    def test_a_cleaning_rinses_between_what_must_not_meet(self):
        asked = {"surface": "moulded plastic", "first": "isopropanol", "second": "peroxide", "third": ""}
        self.assertContains(self.look("clean", **asked), "Rinse it with clear water")
        page = self.look("clean", **asked | {"surface": "label or print"})
        self.assertContains(page, "Never isopropanol on label or print")
        self.assertEqual(self.make("clean", **asked).kind, "clean")

    def test_two_component_paint_is_left_to_others(self):
        asked = {"part": "front", "area": "620", "face": "", "coats": COATS, "cure": "7"}
        self.assertContains(self.look("repaint", **asked), "primer 1 can")
        page = self.look("repaint", **asked | {"coats": COATS + "\nclear: from 1 h; two-component"})
        self.assertContains(page, "air-fed breathing")
        self.assertContains(self.look("repaint", **asked | {"coats": "primer"}), "a colon")

    def test_conserving_leaves_it(self):
        self.unit.approach = "conserve"
        self.unit.save()
        page = self.look("whiten", **WHITEN)
        self.assertContains(page, "Conserve: leave it")
        self.assertNotContains(page, "Make it a job")
        self.post("workshop:care-make", [self.unit.number, "whiten"], **WHITEN)
        self.assertFalse(Job.objects.exists())

    def test_what_bears_what(self):
        page = self.client.get("/workshop/agents/")
        for words in ("Must not meet", "textured paint", "A leaked cell", "Lead-acid"):
            self.assertContains(page, words)
        page = self.client.get("/workshop/agents/", {"agent": ["peroxide", "vinegar"]})
        self.assertContains(page, "Peroxide and vinegar must not meet")
        self.assertContains(
            self.client.get("/workshop/agents/?agent=water&agent=vinegar"), "Water and vinegar may meet"
        )
        self.assertEqual(self.client.get("/workshop/agents/?agent=x&agent=vinegar").status_code, 200)
        self.assertEqual(self.client.get(f"/workshop/W-{self.unit.number}/care/gild/").status_code, 404)


class Rounds(Care):
    def whitening(self, rounds: int = 4) -> Job:
        gel = plans.school_of("gel")
        mixture = plans.mixture_for(gel, percent_wv(D(40), Basis.VOLUMES), D(6), D(295))
        recipe = plans.whiten(gel, mixture, "top case", rounds, 120)
        return care_planning.plan(self.owner, self.unit, Planned(recipe, "top case", Region(Face.TOP)))

    def until_mixed(self, job: Job, first: str = "7.9 8.3") -> None:
        self.step(job, 0, file=picture())
        self.step(job, 1, first)
        self.start(job, 2)
        self.pass_on(hours=1)
        self.step(job, 2)
        self.step(job, 3)

    def round(self, job: Job, index: int, read: str) -> None:
        self.start(job, index)
        self.pass_on(hours=2)
        self.step(job, index)
        self.step(job, index + 1, read)

    def said(self, job: Job):
        return care.whitening_of(self.again(job), recipe_run.steps_of_job(self.again(job)))

    def test_rounds_are_measured_until_it_says_stop(self):
        job = self.whitening()
        self.until_mixed(job)
        self.assertEqual(self.said(job).readings[0].spots, (7.9, 8.3))
        self.round(job, 4, "5.8 6.0")
        self.round(job, 6, "4.1 4.3")
        said = self.said(job)
        self.assertEqual([one.hours for one in said.readings], [0, 2, 4])
        self.assertFalse(said.advice.stop)
        self.assertIsNotNone(said.advice.fall)
        self.round(job, 8, "1.8 1.9")
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "Stop: it reads 1.9, under 2.0 nobody sees it")
        self.assertContains(page, "leave out the\n        1 round left")
        self.done(self.post("workshop:stop-whitening", [job.pk], why="it reads 1.9"))
        left = JobStep.objects.filter(job=job).exclude(left_out="")
        self.assertEqual(left.count(), 2)
        # What is left is to rinse it and take the picture.
        self.assertIn("Rinse", recipe_run.in_hand(recipe_run.steps_of_job(self.again(job))).step.instruction)
        with self.assertRaisesRegex(Refused, "No round is in hand"):
            care.stop_whitening(self.owner, self.again(job), "again")

    def test_before_and_after_stand_side_by_side_and_the_buyer_is_told(self):
        job = self.whitening(rounds=1)
        self.until_mixed(job)
        self.round(job, 4, "1.8 1.9")
        self.start(job, 6)
        self.pass_on(hours=1)
        self.step(job, 6)
        self.step(job, 7, file=picture(colour=(220, 220, 210)))
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, 'Before</b> <span class="mono">8.1</span>')
        self.assertContains(page, 'After</b> <span class="mono">1.9</span>')
        with clock.at(self.now):
            services.finish_job(self.owner, self.again(job), services.JobResult("", worked=True))
        self.assertEqual(listing_facts(self.again(self.unit)).finish, ["whitened: whiten top case, gel under film"])

    def test_figures_are_read_as_typed_and_bad_ones_refused(self):
        job = self.whitening()
        self.step(job, 0, file=picture())
        for typed, words in (("", "Type it"), ("white", "no number"), ("3 -1", "from 0"), ("1 " * 13, "12 spots")):
            with self.assertRaises(Refused, msg=typed) as caught:
                self.step(job, 1, typed)
            self.assertIn(words, caught.exception.message)
            self.assertEqual(caught.exception.field, "typed")
        self.step(job, 1, "7,9; 8.3 7.5")
        row = JobStep.objects.get(job=job, index=1)
        self.assertEqual((row.value, [D(one) for one in row.figures]), (D("7.900"), [D("7.9"), D("8.3"), D("7.5")]))

    def test_a_round_that_runs_is_not_stopped_under_it(self):
        job = self.whitening()
        self.until_mixed(job)
        self.start(job, 4)
        with clock.at(self.now), self.assertRaisesRegex(Refused, "runs by itself"):
            care.stop_whitening(self.owner, self.again(job), "now")

    def test_a_marking_nobody_photographed_holds_what_could_wipe_it(self):
        marking = self.hand().find(self.unit, "back", "sticker", 1, "chalk number 14")
        job = self.whitening()
        self.step(job, 0, file=picture())
        self.step(job, 1, "7.9")
        with self.assertRaisesRegex(Refused, "chalk number 14"):
            self.start(job, 2)
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "Take a picture first of what this could wipe away")
        self.assertContains(self.look("whiten"), "Not photographed yet")
        photos.add_photos(self.owner, self.unit, [picture(colour=(200, 20, 20))])
        marking.photo = Photo.objects.order_by("-pk").first()
        marking.save()
        self.start(job, 2)

    def test_other_jobs_have_no_whitening(self):
        job = self.make("clean", surface="moulded plastic", first="water", second="", third="")
        self.assertIsNone(care.whitening_of(job, recipe_run.steps_of_job(job)))


class InTime(Care):
    def painting(self) -> Job:
        recipe = plans.repaint(D(620), read_coats(COATS), "front", 0)
        job = care_planning.plan(self.owner, self.unit, Planned(recipe, "foot rail"))
        self.step(job, 0, file=picture())
        self.step(job, 1)
        self.step(job, 2)
        self.start(job, 3)
        self.pass_on(minutes=30)
        self.step(job, 3)
        self.start(job, 4)
        return job

    def test_never_under_a_window(self):
        job = self.painting()
        self.pass_on(minutes=19)
        with self.assertRaisesRegex(Refused, "runs by itself"):
            self.step(job, 4)
        self.pass_on(minutes=1)
        self.step(job, 4)
        self.start(job, 5)

    def test_a_coat_before_the_one_under_it_is_refused(self):
        with self.assertRaisesRegex(Refused, "Step 5 comes first"):
            self.start(self.painting(), 5)

    def test_a_coat_after_its_window_says_what_to_do_and_takes_what_was_done(self):
        job = self.painting()
        self.pass_on(hours=25)
        self.step(job, 4)
        with self.assertRaises(Refused) as caught:
            self.start(job, 5)
        self.assertIn("sand it matt", caught.exception.message)
        with clock.at(self.now):
            page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "Its window closed")
        with clock.at(self.now):
            self.post("workshop:step-begin", [job.pk], at="5", note="cured two days, sanded with 800", air="21 50")
        row = JobStep.objects.get(job=job, index=5)
        self.assertEqual(row.note, "cured two days, sanded with 800")
        self.assertIsNotNone(row.alone_from)

    def test_the_coats_are_drawn_with_their_windows(self):
        job = self.painting()
        self.pass_on(minutes=21)
        with clock.at(self.now):
            found = care.painting_of(self.again(job), recipe_run.steps_of_job(self.again(job)))
            page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertEqual(
            [(one.name, one.laid, one.is_next) for one in found.coats],
            [("primer, 35 µm", 0.0, False), ("colour", None, True)],
        )
        self.assertAlmostEqual(found.coats[1].opens, 1 / 3, places=3)
        self.assertEqual(found.coats[1].closes, 24)
        self.assertContains(page, "colour: from 20 min to 24 h")
        self.pass_on(hours=24)
        with clock.at(self.now):
            self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "too late, see what to do")
        self.assertIsNone(
            care.painting_of(self.make("clean", surface="moulded plastic", first="water", second="", third=""), [])
        )

    def test_the_page_says_until_when(self):
        job = self.painting()
        self.pass_on(minutes=21)
        self.step(job, 4)
        with clock.at(self.now):
            self.assertContains(self.client.get(reverse("workshop:job", args=[job.pk])), "It has to be begun by")

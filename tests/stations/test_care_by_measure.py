"""Care through the pages: feet and labels by measure, assemblies, glue, what buyers are told, schools side by side."""

from datetime import timedelta
from decimal import Decimal as D

from core.catalogue.recipes import Proof
from core.machine.casing import Face
from core.workshop.care import plans, recondition
from core.workshop.care.placing import Placed, Stuck
from core.workshop.care.recondition import Mended
from stations.common import clock
from stations.common.refusals import Refused
from stations.selling.as_recorded import listing_facts
from stations.units.models import UnitFact
from stations.workshop import care_planning, glue, placing, recipe_run, services, table
from stations.workshop.care_planning import Planned
from stations.workshop.models import CarePlan, GlueWatch, Placement
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.stations.test_care import WHITEN
from tests.stations.test_care_on_the_case import OnTheCase
from tests.stations.test_intake import picture


class Told(OnTheCase):
    def test_a_reproduction_is_told(self):
        self.sized()
        placing.measure(self.owner, self.unit, Placed(Stuck.LABEL, Face.BACK, D(20), D(20), D(60), D(30)))
        job = self.make("stick", part="type label", face="back", surface="moulded plastic", reproduction="on")
        for index, step in enumerate(recipe_run.steps_of_job(job)):
            self.step(job, index, file=picture() if step.step.proof is Proof.PHOTO else None)
        services.finish_job(self.owner, job, JobResult("on", True))
        self.assertIn("reproduction: type label", listing_facts(self.again(self.unit)).finish)

    def test_an_original_finish_is_told_only_where_somebody_looked_and_nothing_was_done_since(self):
        self.assertEqual(list(listing_facts(self.unit).finish), [])
        page = self.post("workshop:say-finish", [self.unit.number], which="original", seen="")
        self.says(page, "Say where it shows")
        self.says(self.post("workshop:say-finish", [self.unit.number], which="", seen="lid"), "Say which")
        self.done(self.post("workshop:say-finish", [self.unit.number], which="original", seen="inside of the lid"))
        self.assertEqual(list(listing_facts(self.unit).finish), ["original finish, by inside of the lid"])
        self.assertEqual(UnitFact.objects.get(kind="finish").who, self.owner)
        job = services.open_job(self.owner, self.unit, NewJob(kind="refinish", title="Paint the lid"))
        services.finish_job(self.owner, job, JobResult("painted", True))
        self.assertEqual(list(listing_facts(self.unit).finish), ["repainted or refinished: paint the lid"])
        with self.assertRaises(Refused):
            care_planning.say_finish(self.owner, self.unit, "chromed", "lid")


class Places(OnTheCase):
    STICK = {"part": "feet", "face": "underside", "surface": "moulded plastic", "residue": "on"}
    FOOT = {"what": "foot", "face": "underside", "left": "18", "top": "18", "wide": "14", "high": "14"}

    def keep(self, **change):
        return self.post("workshop:measure-place", [self.unit.number], **self.FOOT | change)

    def test_a_foot_is_measured_kept_with_the_model_and_planned(self):
        self.sized()
        self.done(self.keep())
        self.done(self.keep(left="360"))
        page = self.look("stick")
        self.assertContains(page, "18 mm from the left, 26 from the right. Measure again.")
        page = self.look("stick", **self.STICK)
        self.assertContains(page, "Foot 2 of 2 on the underside: 26 mm from the right edge")
        (other,) = self.receive(1)
        other.model = self.model
        other.save()
        self.assertContains(self.client.get(f"/workshop/W-{other.number}/care/stick/"), "18")

    def test_what_is_wrong_is_said_at_its_field(self):
        self.sized()
        for change, words in (
            ({"left": "390"}, "stand over the edge"),
            ({"wide": "0"}, "More than 0 mm"),
            ({"left": ""}, "Measure it"),
            ({"top": "-1"}, "may not be below 0"),
        ):
            self.says(self.keep(**change), words, self.FOOT["high"])
        self.done(self.keep())
        self.says(self.keep(), "measured right there already", "18")
        self.assertEqual(Placement.objects.count(), 1)

    def test_one_measured_wrong_is_dropped(self):
        self.sized()
        self.done(self.keep())
        row = Placement.objects.get()
        self.post("workshop:drop-place", [self.unit.number, row.pk])
        self.assertFalse(Placement.objects.exists())
        with self.assertRaises(Refused):
            placing.drop(self.owner, self.unit, row.pk)

    def test_without_a_model_nothing_is_kept(self):
        self.unit.model = None
        self.unit.save()
        self.assertEqual(placing.kept(self.unit), [])
        with self.assertRaises(Refused):
            placing.measure(self.owner, self.unit, Placed(Stuck.FOOT, Face.UNDERSIDE, D(1), D(1), D(1), D(1)))
        self.assertContains(self.look("stick"), "no model: say which it is")
        self.assertContains(self.look("stick", part="feet", surface="moulded plastic"), "Nothing is measured yet")

    def test_a_viewer_measures_nothing(self):
        self.sized()
        self.sign_in(self.viewer)
        self.keep()
        self.assertFalse(Placement.objects.exists())


class Reconditioned(OnTheCase):
    def test_what_each_asks_for_is_said_at_its_field(self):
        for asked, words in (
            ({"kind": "bearings and rails"}, "Choose what it is"),
            ({"kind": "belts and rollers", "drive": "12", "driven": "60"}, "Measure it and type it here"),
            ({"kind": "belts and rollers", "drive": "60", "driven": "60", "apart": "50"}, "would touch"),
            ({"kind": "thermal paste", "area": "900"}, "to 400 cm²"),
            ({"kind": "capacitors", "capacitors": "C1: 220 µF 16 V"}, "measure its diameter"),
            ({"kind": "battery"}, "Choose what it is"),
            ({"kind": "mechanism", "mended": "glued"}, "Say what broke"),
            ({"kind": "fans", "part": ""}, "Say on what"),
        ):
            page = self.look("recondition", **{"part": "drive"} | asked)
            self.assertContains(page, words, msg_prefix=str(asked))
            self.assertNotContains(page, "Make it a job")

    def test_each_is_planned_and_made_a_job(self):
        for asked, words in (
            ({"kind": "bearings and rails", "runs": "a sintered bushing"}, "turbine oil"),
            ({"kind": "belts and rollers", "drive": "12", "driven": "60", "apart": "80"}, "261 mm all round"),
            ({"kind": "thermal paste", "area": "16"}, "0.2 ml of thermal paste"),
            ({"kind": "capacitors", "capacitors": "C1, C2: 220 µF 16 V ⌀8 pitch 3.5"}, "Change 2 one at a time"),
            ({"kind": "battery", "chemistry": "lithium", "leaked": "yes"}, "Neither acid nor bicarbonate"),
            ({"kind": "fans"}, "one drop of light oil"),
        ):
            with self.subTest(asked):
                asked = {"part": "drive"} | asked
                self.assertContains(self.look("recondition", **asked), words)
                self.assertEqual(self.make("recondition", **asked).kind, "recondition")
        self.assertEqual(CarePlan.objects.count(), 6)


class Glued(OnTheCase):
    def glued(self) -> GlueWatch:
        recipe = recondition.mechanism("lid", "latch", Mended.GLUED)
        job = care_planning.plan(self.owner, self.unit, Planned(recipe, "lid"))
        for index, step in enumerate(recipe.steps):
            if step.alone_minutes:
                self.start(job, index)
                self.pass_on(minutes=step.alone_minutes)
            self.step(
                job, index, "0" if step.proof.is_typed else "", file=picture() if step.proof is Proof.PHOTO else None
            )
        with clock.at(self.now):
            services.finish_job(self.owner, self.again(job), JobResult("holds", True))
        return GlueWatch.objects.get(job=job)

    def test_it_is_due_after_its_days_and_then_looked_at(self):
        watch = self.glued()
        self.assertEqual((watch.due_on - watch.glued_on).days, recondition.WATCHED_DAYS)
        with clock.at(self.now + timedelta(days=13)):
            self.assertEqual(list(glue.due()), [])
        with clock.at(self.now + timedelta(days=14)):
            self.assertEqual(list(glue.due()), [watch])
            self.assertContains(self.client.get("/workshop/"), "Glue to look at again")
            self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/"), "It came off again")
            self.post("workshop:look-at-glue", [watch.pk], held="yes")
            self.assertEqual(list(glue.due()), [])
        self.assertEqual(glue.record(), "Glue held 1 of 1 times here when it was looked at again.")
        with self.assertRaisesMessage(Refused, "looked at it already"):
            glue.look(self.owner, watch, False)
        self.assertIn("glued: mechanism: lid", listing_facts(self.unit).finish)

    def test_what_came_off_again_did_not_work(self):
        watch = self.glued()
        self.post("workshop:look-at-glue", [watch.pk], off="yes")
        self.assertFalse(self.again(watch.job).worked)
        self.assertEqual(list(listing_facts(self.unit).finish), [])
        self.assertContains(self.look("recondition"), "Glue held 0 of 1 times")
        self.assertEqual(table.can_go_on().count(), 0)

    def test_what_was_said_of_it_by_a_slip_is_open_again(self):
        watch = self.glued()
        for said, worked in (("off", None), ("held", None)):
            self.post("workshop:look-at-glue", [watch.pk], **{said: "yes"})
            self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/"), "Not so")
            self.post("workshop:look-at-glue", [watch.pk], **{"not": "yes"})
            watch = self.again(watch)
            self.assertEqual((watch.held, watch.looked_by, watch.job.worked), (None, None, worked))
        with self.assertRaisesMessage(Refused, "Nobody looked at it yet"):
            glue.not_looked(self.owner, watch)

    def test_a_viewer_says_nothing_of_it(self):
        watch = self.glued()
        self.sign_in(self.viewer)
        self.post("workshop:look-at-glue", [watch.pk], held="yes")
        self.assertIsNone(self.again(watch).held)


class NoSpark(OnTheCase):
    def test_no_solvent_while_something_of_it_has_power(self):
        sun = plans.whiten(plans.school_of("bath"), None, "keys", 1, 60)
        lamp = care_planning.plan(self.owner, self.unit, Planned(sun, "keys"))
        self.step(lamp, 0, file=picture())
        self.step(lamp, 1, "6")
        self.start(lamp, 2)
        job = self.make("clean", part="lid", surface="moulded plastic", first="isopropanol", second="", third="")
        self.step(job, 0, file=picture())
        with self.assertRaisesMessage(Refused, "Power off first"):
            self.step(job, 1)
        with clock.at(self.now):
            page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "no spark near solvent or spray: Whiten keys")
        self.pass_on(hours=2)
        self.step(job, 1)


class Schools(OnTheCase):
    def test_they_stand_side_by_side_with_what_they_take(self):
        self.drawer("Peroxide 40 volumes", "1000", paid="20")
        found = {one.school.code: one for one in self.look("whiten", **WHITEN).context["schools"]}
        # Four rounds; 146 ml at 2 cents.
        self.assertEqual((found["gel"].hands, found["gel"].alone), (48, 480))
        self.assertEqual(found["gel"].cost, D("2.92"))
        self.assertIsNone(found["bath"].cost)
        self.assertEqual(found["sun"].cost, 0)
        self.unit.approach = "conserve"
        self.unit.save()
        self.assertTrue(all(one.refused for one in self.look("whiten").context["schools"]))

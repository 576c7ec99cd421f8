"""Care through the pages: a region of the case, the air and the sun, colours compared, drawers, what comes of it."""

from datetime import UTC, datetime
from decimal import Decimal as D

from django.urls import reverse

from core.catalogue.recipes import Proof
from core.machine.casing import Face
from core.workshop.care import plans
from core.workshop.care.region import Region
from stations.common import clock
from stations.common.refusals import Refused
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.stock.services import Sort
from stations.units import colours, photos
from stations.units.models import Finding, Photo
from stations.workshop import care_planning, care_results, consumables, services
from stations.workshop.care_planning import Planned
from stations.workshop.models import Job
from stations.workshop.services import JobResult
from tests.stations.test_care import COATS, WHITEN, Care
from tests.stations.test_intake import picture

TOP_LEFT = {"face": "top", "left": "0", "top": "0", "wide": "50", "high": "50", "area": ""}
NOVEMBER, JUNE = datetime(2026, 11, 27, 12, tzinfo=UTC), datetime(2026, 6, 21, 12, tzinfo=UTC)


class OnTheCase(Care):
    def finding(self, kind: str = "yellowing", face: str = "top", x: float = 0.25, y: float = 0.25, **more) -> Finding:
        return Finding.objects.create(
            unit=self.unit, face=face, kind=kind, x=x, y=y, seen_at=self.now, seen_by=self.owner, **more
        )

    def drawer(self, name: str, amount: str, measure: str = "ml", paid: str = "10") -> StockItem:
        stock.stock_part(self.owner, Sort(name, "new", "C1", measure), amount, D(paid))
        return StockItem.objects.get(name=name)

    def sized(self, width: int = 400, depth: int = 300, height: int = 150) -> None:
        self.model.width_mm, self.model.depth_mm, self.model.height_mm = width, depth, height
        self.model.save()


class Regions(OnTheCase):
    def test_the_area_is_that_of_the_region_less_what_is_open(self):
        self.sized()
        # A quarter of 1,200 cm², less 20: 280 cm² at 0.25 ml.
        page = self.look("whiten", **WHITEN | TOP_LEFT | {"openings": "20"})
        self.assertContains(page, "280 cm²")
        self.assertContains(page, "70 ml")
        job = self.make("whiten", **WHITEN | TOP_LEFT | {"openings": "20"})
        kept = job.care
        self.assertEqual((kept.face, kept.wide, kept.high, kept.area_cm2), ("top", D("0.5"), D("0.5"), 280))

    def test_what_runs_over_the_edge_is_said_at_its_field(self):
        self.sized()
        for change, words in (
            ({"left": "60"}, "40 % are left there"),
            ({"wide": "0"}, "More than 0 %"),
            ({"left": "100"}, "It begins on the face"),
            ({"wide": "101"}, "100 % of the face at most"),
            ({"openings": "5000"}, "it is cut out of"),
            ({"high": "half"}, "Type a number"),
        ):
            page = self.look("whiten", **WHITEN | TOP_LEFT | change)
            self.assertContains(page, words, msg_prefix=str(change))
            self.assertNotContains(page, "Make it a job")

    def test_a_finding_says_where_and_its_job_is_for_it(self):
        found = self.finding(extent_percent=25)
        page = self.client.get(f"/workshop/W-{self.unit.number}/care/whiten/", {"finding": found.pk})
        self.assertContains(page, 'value="50.0"')
        self.assertNotContains(page, "Not saved")
        job = self.make("whiten", **WHITEN | {"finding": str(found.pk)})
        self.assertEqual(job.finding, found)

    def test_a_finding_of_another_machine_is_not_taken(self):
        (other,) = self.receive(1)
        found = Finding.objects.create(
            unit=other, face="top", kind="yellowing", x=0, y=0, seen_at=self.now, seen_by=self.owner
        )
        self.assertIsNone(self.make("whiten", **WHITEN | {"finding": str(found.pk)}).finding)
        planned = Planned(plans.whiten(plans.school_of("sun"), None, "x", 1, 60), "x")
        with self.assertRaises(Refused):
            care_planning.plan(self.owner, self.unit, planned, found)
        for typed in ("999999", "x", "-1"):
            self.assertEqual(
                self.client.get(f"/workshop/W-{self.unit.number}/care/whiten/", {"finding": typed}).status_code, 200
            )

    def test_the_shops_own_gel_is_reckoned_with(self):
        ShopSettings.objects.filter(pk=shop_settings.settings().pk).update(gel_ml_cm2=D("0.5"))
        self.assertContains(self.look("whiten", **WHITEN), "590 ml")

    def test_one_that_leaked_is_planned_as_a_battery(self):
        found = self.finding("leak", "inside")
        page = self.client.get(f"/workshop/W-{self.unit.number}/care/recondition/", {"finding": found.pk})
        self.assertContains(page, '<option value="battery" selected>')

    def test_a_plan_costs_as_many_queries_with_much_care_before(self):
        self.look("whiten", **WHITEN)

        def count() -> int:
            with self.assertNumQueries_at_most(60) as seen:
                self.look("whiten", **WHITEN | TOP_LEFT)
            return len(seen)

        few = count()
        for number in range(6):
            self.make("clean", part=f"part {number}", surface="moulded plastic", first="water", second="", third="")
        self.assertEqual(count(), few)

    def assertNumQueries_at_most(self, most):
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        return CaptureQueriesContext(connection)


class Sun(OnTheCase):
    def scene(self) -> None:
        super().scene()
        shop = shop_settings.settings()
        ShopSettings.objects.filter(pk=shop.pk).update(latitude=D("54.5"), longitude=D("3"))

    def at(self, moment, **changes):
        with clock.at(moment):
            return self.look(
                "whiten", **WHITEN | {"school": "sun", "bottle": "", "wanted": "", "minutes": ""} | changes
            )

    def test_in_november_the_sun_is_refused_and_says_from_when_on(self):
        page = self.at(NOVEMBER)
        self.assertContains(page, "nothing whitens. It does on")
        self.assertNotContains(page, "Make it a job")

    def test_in_june_it_is_planned_with_its_hours(self):
        page = self.at(JUNE)
        self.assertContains(page, "The sun stands high enough for 9.")
        self.assertContains(page, "Make it a job")

    def test_where_nobody_said_where_the_shop_stands_it_is_not_reckoned(self):
        ShopSettings.objects.update(latitude=None, longitude=None)
        self.assertContains(self.at(NOVEMBER), "How high the sun stands is not reckoned")

    def test_settings_are_saved_as_their_page_shows_them(self):
        page = self.client.get(reverse("people:settings"))
        form = page.context["form"]
        shown = {name: form[name].value() for name in form.fields}
        for name in shown:
            self.assertContains(page, f'name="{name}"')
        shown = {name: "" if value is None else value for name, value in shown.items()} | {"gel_ml_cm2": "0.4"}
        self.done(self.client.post(reverse("people:settings"), shown | {"write_key": "k1"}))
        self.assertEqual(shop_settings.settings().gel_ml_cm2, D("0.4"))
        answer = self.client.post(
            reverse("people:settings"), shown | {"longitude": "", "version": "2", "write_key": "k2"}
        )
        self.assertContains(answer, "A place has both")


class Air(OnTheCase):
    def scene(self) -> None:
        super().scene()
        self.job = self.make("repaint", part="front", area="620", face="", coats=COATS, cure="7", candidates="")
        self.step(self.job, 0, file=picture())
        for index in (1, 2):
            self.step(self.job, index)
        self.start(self.job, 3)
        self.pass_on(minutes=30)
        self.step(self.job, 3)

    def begin(self, air: str, note: str = ""):
        with clock.at(self.now):
            return self.post("workshop:step-begin", [self.job.pk], at="4", air=air, note=note)

    def test_a_coat_asks_for_the_air_and_keeps_it(self):
        self.assertContains(self.client.get(f"/workshop/jobs/{self.job.pk}/"), "15 to 30 °C, 65 % at most")
        for air, words in (
            ("", "Two figures"),
            ("21", "Two figures"),
            ("warm dry", "It wants 15 to 30"),
            ("9 50", "too cold"),
            ("21 90", "turns dull"),
            ("21 °C 0 %", "0 % humidity"),
        ):
            answer = self.begin(air)
            self.assertContains(answer, words, msg_prefix=air)
            self.assertContains(answer, f'value="{air}"')
        self.done(self.begin("19,5 °C, 55 %"))
        self.assertEqual(self.again(self.job).step_rows.get(index=4).figures, ["19.5", "55"])

    def test_bad_air_is_laid_in_with_a_note_only(self):
        self.done(self.begin("9 50", "under a heat lamp, part at 22"))
        row = self.again(self.job).step_rows.get(index=4)
        self.assertEqual((row.figures, row.note), (["9", "50"], "under a heat lamp, part at 22"))


class Colours(OnTheCase):
    ASKED = {"part": "front", "area": "620", "face": "", "coats": COATS, "cure": "7"}

    def measured(self) -> None:
        photos.add_photos(self.owner, self.unit, [picture()])
        photo = Photo.objects.get(unit=self.unit)
        grey, shelter, lit = [0.1, 0.1, 200, 200, 200], [0.5, 0.5, 201, 194, 176], [0.6, 0.6, 190, 170, 120]
        colours.keep_sample(self.owner, photo, "front", "found", grey, shelter, [lit, lit])

    def test_colours_are_compared_only_with_a_case_that_was_measured(self):
        asked = self.ASKED | {"candidates": "harbour grey: #c9c2b0"}
        self.assertContains(self.look("repaint", **asked), "Measure the colour of the case first")
        self.measured()
        page = self.look("repaint", **asked | {"candidates": "harbour grey: #c9c2b0\nfar: #f4f0e8"})
        self.assertContains(page, "close enough to be bought")
        self.assertContains(page, "too light by")
        job = self.make("repaint", **asked)
        self.assertIn("harbour grey is 0.0 off: buy that.", str(job.steps))

    def test_the_best_that_is_far_off_is_bought_as_a_sample_first(self):
        self.measured()
        self.assertContains(self.look("repaint", **self.ASKED | {"candidates": "far: #f4f0e8"}), "Buy a sample first")
        self.assertContains(self.look("repaint", **self.ASKED), "Measure before you buy")


class Drawers(OnTheCase):
    def scene(self) -> None:
        super().scene()
        self.peroxide = self.drawer("Peroxide 40 volumes", "1000")
        self.water = self.drawer("Deionised water", "100")
        self.job = self.make("whiten", **WHITEN)

    def left(self, item: StockItem) -> tuple[D, D]:
        item = self.again(item)
        return item.quantity, item.reserved

    def to_the_mixing(self) -> None:
        self.step(self.job, 0, file=picture())
        self.step(self.job, 1, "7.9")
        self.start(self.job, 2)
        self.pass_on(hours=2)
        self.step(self.job, 2)

    def take(self, at: str = "3"):
        return self.post("workshop:step-take", [self.job.pk], at=at)

    def test_a_plan_names_its_drawers_and_holds_what_is_there(self):
        page = self.look("whiten", **WHITEN)
        self.assertContains(page, "Peroxide 40 volumes")
        self.assertContains(page, "short")
        # 146 ml of 1,000; all 100 ml of the water, of which 149 are wanted.
        self.assertEqual(self.left(self.peroxide), (1000, 146))
        self.assertEqual(self.left(self.water), (100, 100))

    def test_the_step_takes_them_once_and_all_or_none(self):
        self.to_the_mixing()
        self.assertContains(self.client.get(f"/workshop/jobs/{self.job.pk}/"), "49 ml short")
        self.take()
        self.assertEqual(self.left(self.peroxide), (1000, 146))
        stock.stock_part(self.owner, Sort("Deionised water", "new", "C1", "ml"), "500", D(1))
        self.take()
        self.assertEqual(self.left(self.peroxide), (854, 0))
        self.assertEqual(self.left(self.water), (451, 0))
        self.assertEqual(
            {(one.item.name, one.quantity) for one in self.job.issues.all()},
            {("Peroxide 40 volumes", D(146)), ("Deionised water", D(149))},
        )
        self.take()
        self.assertEqual(self.left(self.peroxide), (854, 0))
        with clock.at(self.now), self.assertRaisesMessage(Refused, "taken already"):
            consumables.take(self.owner, self.again(self.job), 3)

    def test_another_step_is_in_hand(self):
        with self.assertRaisesMessage(Refused, "Another step"):
            consumables.take(self.owner, self.job, 3)
        self.take(at="x")
        self.assertFalse(self.job.issues.exists())

    def test_the_plainest_name_that_has_enough_is_taken_and_other_names_are_known(self):
        self.drawer("Isopropyl alcohol, 99 %", "2000")
        self.drawer("Isopropanol wipes, box", "3", "piece")
        recipe = plans.clean(plans.Surface.PLASTIC, [plans.Agent.ISOPROPANOL], "lid")
        (one,) = consumables.wanted(recipe)
        self.assertEqual((one.item.name, one.amount, one.short), ("Isopropyl alcohol, 99 %", 10, 0))
        self.assertGreater(one.cost, 0)
        vinegar = plans.clean(plans.Surface.BOARD, [plans.Agent.VINEGAR], "board")
        missing = next(one for one in consumables.wanted(vinegar) if one.need.name == "vinegar")
        self.assertIsNone(missing.item)
        self.assertEqual((missing.words, missing.cost), ("11 ml", None))

    def test_what_is_faulty_is_not_taken(self):
        StockItem.objects.filter(pk=self.peroxide.pk).update(condition="faulty", reserved=0)
        recipe = plans.whiten(
            plans.school_of("gel"), plans.mixture_for(plans.school_of("gel"), D("12.1"), D(6), D(100)), "x", 1, 60
        )
        self.assertIsNone(next(one for one in consumables.wanted(recipe) if one.need.name == "peroxide").item)


class Results(OnTheCase):
    def whitened(self, *readings: str, finding: Finding | None = None) -> Job:
        """A whitening without anything mixed, read before and after each of its rounds."""
        recipe = plans.whiten(plans.school_of("sun"), None, "top", len(readings) - 1, 60)
        job = care_planning.plan(self.owner, self.unit, Planned(recipe, "top", Region(Face.TOP)), finding)
        left = list(readings)
        for index, step in enumerate(recipe.steps):
            if step.alone_minutes:
                self.start(job, index)
                self.pass_on(minutes=step.alone_minutes + 1)
            photo = picture(colour=(200 + index, 190, 160)) if step.proof is Proof.PHOTO else None
            self.step(job, index, left.pop(0) if step.proof is Proof.COLOUR else "", file=photo)
        return self.again(job)

    def finish(self, job: Job, **more) -> None:
        services.finish_job(self.owner, job, JobResult("done", True, **more))

    def test_what_nobody_sees_any_more_is_resolved(self):
        found = self.finding(severity=3)
        self.finish(self.whitened("7.9 8.1", "1.6 1.9", finding=found))
        found = self.again(found)
        self.assertEqual(found.status, "resolved")
        self.assertIn("ΔE00 8.0 to 1.8 in 1 h, 0.3 apart", found.settled_words)

    def test_what_is_still_seen_stays_on_the_map_as_slight_as_it_reads(self):
        found = self.finding(severity=3, words="evenly")
        self.finish(self.whitened("7.9", "4.0", finding=found))
        found = self.again(found)
        self.assertEqual((found.status, found.severity), ("open", 2))
        self.assertEqual(found.words, "evenly; ΔE00 7.9 to 4.0 in 1 h")

    def test_or_is_accepted(self):
        found = self.finding()
        job = self.whitened("7.9", "4.0", finding=found)
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "accepted as patina")
        self.finish(job, accepted=True)
        self.assertEqual(self.again(found).status, "patina")

    def test_what_else_lies_there_is_offered_and_settled_where_chosen(self):
        here, other = self.finding(), self.finding(x=0.9, face="front")
        crack = self.finding("crack")
        job = self.whitened("7.9", "1.5")
        self.assertEqual(care_results.seen_there(job), [here])
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "It also settles")
        self.done(self.post("workshop:done", [job.pk], worked="true", result="white", also=[str(here.pk)]))
        self.assertEqual([self.again(one).status for one in (here, other, crack)], ["resolved", "open", "open"])

    def test_only_what_is_offered_can_be_settled(self):
        crack = self.finding("crack")
        job = self.whitened("7.9", "1.5")
        page = self.post("workshop:done", [job.pk], worked="true", result="white", also=[str(crack.pk)])
        self.assertContains(page, "not among the choices")
        self.finish(job, also=(crack.pk,))
        self.assertEqual(self.again(crack).status, "open")

    def test_what_did_not_work_settles_nothing(self):
        found = self.finding()
        services.finish_job(self.owner, self.whitened("7.9", "1.5", finding=found), JobResult("no", False))
        self.assertEqual(self.again(found).status, "open")

    def test_photos_are_laid_on_one_another_with_what_was_read(self):
        job = self.whitened("8.2", "2.6")
        first, last = Photo.objects.filter(unit=self.unit)
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        pair = page.context["pair"]
        self.assertEqual((pair.pictures.first, pair.pictures.second), (first, last))
        for words in ("Before and after", f"/intake/photos/{last.pk}/small/", "8.2", "2.6"):
            self.assertContains(page, words)

    def test_a_round_takes_a_photo_and_its_figures_from_a_photo(self):
        recipe = plans.whiten(plans.school_of("sun"), None, "top", 1, 60)
        job = care_planning.plan(self.owner, self.unit, Planned(recipe, "top"))
        self.step(job, 0, file=picture())
        photo = Photo.objects.get(unit=self.unit)
        spots = [[0.6, 0.6, 190, 170, 120], [0.7, 0.6, 192, 176, 140]]
        self.pass_on(minutes=5)
        with clock.at(self.now):
            colours.keep_sample(self.owner, photo, "top", "found", None, [0.5, 0.5, 201, 194, 176], spots)
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, 'name="from_photo"')
        typed = page.context["on_photo"].typed
        self.assertEqual(len(typed.split()), 2)
        with clock.at(self.now):
            self.done(self.post("workshop:step-done", [job.pk], at="1", typed="", from_photo=typed, photo=picture()))
        row = self.again(job).step_rows.get(index=1)
        self.assertEqual(row.figures, [f"{D(one):.3f}" for one in typed.split()])
        self.assertIsNotNone(row.photo)

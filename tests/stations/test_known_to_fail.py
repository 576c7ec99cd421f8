"""What is known to fail: at the bench, among the proposed jobs, at a part."""

from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet
from stations.bench import faults
from stations.bench import services as bench
from stations.bench.tasks import bench_tasks
from stations.catalogue import fit_sheets
from stations.catalogue.models import Weakness
from stations.units.models import Unit
from tests.stations.test_parts import Parts


class Weaknesses(Parts):
    KEEP = {
        "model": "",
        "part_words": "",
        "what": "the transformer cracks",
        "look_at": "the transformer",
        "version": "1",
        "factor": "4",
        "minutes": "5",
        "suspect": "",
    }

    def test_it_is_of_something_and_proposes_a_look(self):
        self.says(self.post("catalogue:weaknesses", **self.KEEP), "Of which model")
        self.done(self.post("catalogue:weaknesses", **self.KEEP | {"model": self.model.pk}))
        self.assertContains(self.client.get(f"/workshop/W-{self.patient.number}/worth/"), "Look at: the transformer")
        self.done(self.post("catalogue:drop-weakness", [Weakness.objects.get().pk]))
        self.assertNotContains(self.client.get(f"/workshop/W-{self.patient.number}/worth/"), "Look at: the transformer")

    def test_it_raises_the_odds_of_a_cause_where_it_surely_concerns(self):
        batch = self.KEEP | {
            "model": self.model.pk,
            "suspect": "supplycaps",
            "serial_from": "H100",
            "serial_to": "H199",
        }
        self.done(self.post("catalogue:weaknesses", **batch))
        Unit.objects.filter(pk=self.patient.pk).update(serial="H150")
        one = faults.open_case(self.owner, self.again(self.patient), "dead")
        other = faults.open_case(self.owner, self.donor, "dead")
        odds = [
            dict(zip((code for code, _ in case.suspects), case.now, strict=True))["supplycaps"] for case in (one, other)
        ]
        self.assertGreater(odds[0], odds[1])
        self.assertIn("known to fail: the transformer cracks", one.known)

    def test_it_is_a_step_of_the_plan(self):
        row = Weakness.objects.create(
            model=self.model, what="the transformer cracks", look_at="the transformer", told_by="seen here"
        )
        fit_sheets.keep_offers(self.owner, self.model, read_sheet(Offers, "rails\n +5: amps 3\n -12: amps 0.3"))
        patient = self.again(self.patient)
        shown = self.client.get(f"/bench/W-{patient.number}/").context["plan"]
        (planned,) = bench_tasks([patient]).values()
        run = bench.start_run(self.owner, patient)
        # What is shown before, and planned for a day, is what is begun.
        codes = [check.code for check in shown]
        self.assertEqual(codes, [check.code for check in bench.plan_of(run)])
        self.assertLessEqual({"supply-minus12", f"known-{row.pk}"}, set(codes))
        self.assertEqual(sum(task.minutes for task in planned), sum(max(1, check.minutes) for check in shown))
        check = next(check for check in bench.plan_of(run) if check.code == f"known-{row.pk}")
        self.assertEqual((check.group, check.title), ("look", "Known to fail: the transformer cracks"))
        self.assertIn("seen here", check.why)
        Weakness.objects.all().delete()
        self.assertIn(check, bench.plan_of(self.again(run)))
        other = self.assessed()
        self.assertFalse([c for c in bench.plan_of(bench.start_run(self.owner, other)) if c.code[:5] == "known"])

    def test_of_a_part_by_its_name(self):
        Weakness.objects.create(part_words="logic board", what="a via lifts", look_at="the via at U3")
        part = self.found()
        self.assertContains(self.client.get(f"/workshop/P-{part.number}/"), "a via lifts")
        self.assertContains(self.client.get(f"/workshop/W-{self.donor.number}/worth/"), "the via at U3")

"""A job that was closed by a slip is open again, and with it what it settled."""

from datetime import timedelta

from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.selling import services as selling
from stations.units.models import Finding, Unit
from stations.workshop import glue, issuing, reopening
from stations.workshop import services as workshop
from stations.workshop.models import GlueWatch, Job
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.stations.test_through_the_pages import Through


class Jobs(Through):
    def open(self, unit: Unit, **said) -> Job:
        return workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5, **said))


class OpenAgain(Jobs):
    def job(self, unit, came_of_it: JobResult, **said) -> Job:
        job = self.open(unit, **said)
        workshop.finish_job(self.technician, job, came_of_it)
        return self.again(job)

    def test_with_what_it_settled_its_minutes_and_its_parts(self):
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "residue", 2, "glue")
        job = self.open(unit, finding=finding)
        workshop.log_labour(self.technician, job, 20)
        issuing.issue_part(self.technician, job, self.part, 1)
        workshop.finish_job(self.technician, job, JobResult("off", worked=True, workaround="press twice"))
        page = self.client.get(f"/workshop/jobs/{job.pk}/")
        self.assertContains(page, "It is not done")
        self.post("workshop:not-done", [job.pk])
        self.assertFalse(self.again(job).is_open, "why is asked")
        self.done(self.post("workshop:not-done", [job.pk], why="the other job"))
        job = self.again(job)
        self.assertEqual((job.is_open, job.worked, job.result, job.workaround), (True, None, "", ""))
        self.assertEqual(self.again(finding).status, Finding.Status.OPEN)
        self.assertEqual((job.labour.get().minutes, job.issues.count()), (20, 1))
        self.assertContains(self.client.get(f"/W-{unit.number}/"), "the other job")
        with self.assertRaisesMessage(Refused, "It is open."):
            reopening.not_done(self.technician, job, "twice")
        workshop.finish_job(self.technician, job, JobResult("off", worked=True))
        self.assertEqual(self.again(finding).status, Finding.Status.RESOLVED)
        self.balanced()

    def test_what_another_job_resolved_since_stays_resolved(self):
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "residue", 2, "glue")
        first = self.job(unit, JobResult("tried", worked=False), finding=finding)
        self.job(unit, JobResult("off", worked=True), finding=finding)
        reopening.not_done(self.technician, first, "to be tried again")
        self.assertEqual(self.again(finding).status, Finding.Status.RESOLVED)

    def test_what_it_was_to_fit_is_missing(self):
        unit = self.assessed(missing=("mouse",))
        mouse = unit.contents.get(name="mouse")
        job = self.job(unit, JobResult("in", worked=True, fitted_original=True), source=f"content:{mouse.pk}")
        reopening.not_done(self.technician, job, "it was the other machine")
        self.assertEqual(self.again(mouse).presence, "missing")

    def test_what_happened_since_keeps_it_done(self):
        unit = self.assessed()
        fix = self.job(
            unit,
            JobResult("taped"),
            temporary=True,
            temporary_reason="for now",
            made_good_by="a foot",
            made_good_due=clock.today(),
        )
        workshop.resolve_temporary_fix(self.technician, fix, "glued")
        with self.assertRaisesMessage(Refused, "It was made good since"):
            reopening.not_done(self.technician, self.again(fix), "wrong job")
        glued = self.job(unit, JobResult("holds", worked=True))
        glue.watch(glued)
        glue.look(self.technician, GlueWatch.objects.get(), held=True)
        with self.assertRaisesMessage(Refused, "Somebody looked at the glue since"):
            reopening.not_done(self.technician, glued, "wrong job")
        with self.assertRaises(NotAllowed):
            reopening.not_done(self.viewer, glued, "wrong job")


class Sold(Jobs):
    def test_what_is_on_offer_or_left_the_house_is_done(self):
        unit = self.proven()
        with clock.at(clock.now() - timedelta(days=4)):
            job = self.open(unit)
            workshop.finish_job(self.technician, job, JobResult("done", worked=True))
        self.hand().offer(unit, "150", pictures=1)
        with self.assertRaisesMessage(Refused, "no work is done on it now"):
            reopening.not_done(self.technician, self.again(job), "wrong job")
        self.assertNotContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "It is not done")
        selling.sell(self.seller, self.again(unit), 150, "a reader", 9)
        with self.assertRaisesMessage(Refused, "no work is done on it now"):
            reopening.not_done(self.technician, self.again(job), "wrong job")
        self.assertNotContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "It is not done")

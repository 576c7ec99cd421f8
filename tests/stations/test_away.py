"""What was recorded where there is no connection counts from when it was recorded, and undoes nothing later."""

import json
from datetime import timedelta
from urllib.parse import unquote

from django.conf import settings
from django.contrib.staticfiles.finders import find
from django.http import HttpResponse
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from core.bench.plan import Outcome
from stations.bench import services as bench
from stations.common import clock
from stations.floor.away import LONGEST
from stations.intake import services as intake
from stations.people.models import HistoryEntry
from stations.units.models import Unit
from tests.stations.base import ShopTest

HOUR = 3600
CRACK = {
    "face": "front",
    "x": "0.5",
    "y": "0.5",
    "kind": "crack",
    "severity": "2",
    "extent_percent": "1",
    "words": "at the hinge",
}


class Away(ShopTest):
    def setUp(self):
        self.client.force_login(self.technician)

    def late(self, room: str, unit: Unit, sent: dict, *more: str, ago: object = 3 * HOUR) -> HttpResponse:
        address = reverse(room, args=[unit.number, *more])
        headers = {"X-Saving": "yes", "X-Recorded-Ago": str(ago), "X-Recorded-By": str(self.technician.pk)}
        return self.client.post(address, sent, headers=headers)

    def told(self, unit: Unit, action: str) -> HistoryEntry:
        return HistoryEntry.objects.filter(subject="unit", subject_id=unit.pk, action=action).latest("pk")


class AtTheTable(Away):
    def scene(self):
        (self.unit,) = self.receive()

    def test_it_counts_from_when_it_was_recorded_and_the_log_tells_when_it_came(self):
        now = timezone.now()
        answer = self.late("intake:add-finding", self.unit, CRACK)
        self.assertEqual(answer.status_code, 204)
        told = self.told(self.unit, "units.add_finding")
        self.assertAlmostEqual(told.when, now - timedelta(hours=3), delta=timedelta(minutes=1))
        self.assertAlmostEqual(told.sent, now, delta=timedelta(minutes=1))
        for page in (reverse("people:log"), reverse("floor:unit", args=[self.unit.number])):
            self.assertContains(self.client.get(page), f"sent {timezone.localtime(told.sent):%-d %b %H:%M}")

    def test_what_was_late_only_by_seconds_is_of_now(self):
        self.late("intake:add-finding", self.unit, CRACK, ago=20)
        told = self.told(self.unit, "units.add_finding")
        self.assertIsNone(told.sent)
        self.assertAlmostEqual(told.when, timezone.now(), delta=timedelta(seconds=15))

    def test_who_signed_in_there_meanwhile_sends_nothing_of_somebody_else(self):
        self.client.force_login(self.owner)
        self.assertEqual(self.late("intake:add-finding", self.unit, CRACK).status_code, 401)
        self.assertEqual(self.unit.findings.count(), 0)

    def test_of_what_nobody_can_tell_when_nothing_is_recorded(self):
        too_long = int(LONGEST.total_seconds()) + 1
        for ago in ("", "soon", "-60", "1e3", "9" * 400, too_long):
            with self.subTest(ago):
                answer = self.late("intake:add-finding", self.unit, CRACK, ago=ago)
                self.assertContains(answer, "longer ago than 28 days", status_code=400)
        self.assertEqual(self.unit.findings.count(), 0)

    def test_what_moves_stock_is_of_when_the_shop_hears_of_it(self):
        self.client.force_login(self.owner)
        address = reverse("stock:known-good")
        sent = {"name": "Green screen", "place": "shelf K", "stands_in": "monitor"}
        self.client.post(address, sent, headers={"X-Recorded-Ago": str(3 * HOUR)})
        told = HistoryEntry.objects.latest("pk")
        self.assertIsNone(told.sent)
        self.assertAlmostEqual(told.when, timezone.now(), delta=timedelta(minutes=1))

    def test_a_later_word_of_somebody_else_holds(self):
        approach = {"approach": "conserve", "reason": ""}
        with clock.at(timezone.now() - timedelta(hours=1)):
            intake.choose_approach(self.owner, self.unit, intake.Approach.DONOR, "no case left")
        answer = self.late("intake:approach", self.unit, approach)
        self.assertNotIn("X-Leads-To", answer)
        self.assertContains(answer, "Olga recorded another after this")
        self.assertEqual(self.again(self.unit).approach, "donor")
        # Of one that was there before it says nothing.
        self.assertIn("X-Leads-To", self.late("intake:approach", self.unit, approach, ago=HOUR // 2))
        self.assertEqual(self.again(self.unit).approach, "conserve")

    def test_sent_again_since_only_the_answer_was_lost_it_is_taken(self):
        page = self.client.get(reverse("intake:unit", args=[self.unit.number])).context
        as_shown = {
            name: "" if value is None else value for name, value in page["form"].initial.items() if name != "version"
        }
        serial = as_shown | {"serial": "HM-77", "version": self.unit.version}
        for _ in range(2):
            self.assertIn("X-Leads-To", self.late("intake:identify", self.unit, serial))
        self.assertEqual(self.again(self.unit).serial, "HM-77")
        # Another word meanwhile is no lost answer.
        answer = self.late("intake:identify", self.unit, serial | {"serial": "HM-78"})
        self.assertContains(answer, "HM-77")
        self.assertEqual(self.again(self.unit).serial, "HM-77")

    def test_a_press_that_was_refused_is_told(self):
        answer = self.late("intake:finish", self.unit, {})
        self.assertEqual(answer.status_code, 204)
        self.assertIn("approach", unquote(answer["X-Not-Done"]))
        self.assertIsNone(self.again(self.unit).assessed_at)


class AtTheBench(Away):
    STANDS = "assessed"

    def setUp(self):
        super().setUp()
        self.unit = self.assessed()

    def begin(self, **ago: float) -> bench.TestRun:
        with clock.at(timezone.now() - timedelta(**ago)):
            return bench.start_run(self.technician, self.unit)

    def test_a_step_is_of_when_it_was_done(self):
        run = self.begin(hours=5)
        code = bench.plan_of(run)[0].code
        said = {"code": code, "outcome": "skip", "reason": "not to be reached"}
        self.assertIn("X-Leads-To", self.late("bench:unit", self.unit, said))
        when = run.results.get().when
        self.assertAlmostEqual(when, timezone.now() - timedelta(hours=3), delta=timedelta(minutes=1))

    def test_what_was_seen_in_one_run_does_not_go_into_the_next(self):
        before = self.begin(hours=5)
        code = bench.plan_of(before)[0].code
        bench.end_run(self.technician, before)
        run = self.begin(hours=1)
        answer = self.late("bench:unit", self.unit, {"code": code, "outcome": "skip", "reason": "not reached"})
        self.assertContains(answer, "The run that is open began", status_code=422)
        noted = self.late("bench:note", self.unit, {"words": "hums"}, code)
        self.assertIn("The run that is open began", unquote(noted["X-Not-Done"]))
        self.assertEqual((run.results.count(), run.notes.count()), (0, 0))
        # What is done now goes in.
        bench.record_result(self.technician, run, code, Outcome.SKIP, reason="not reached")
        self.assertEqual(run.results.count(), 1)

    def test_a_note_is_kept_with_its_time(self):
        run = self.begin(hours=5)
        code = bench.plan_of(run)[0].code
        self.assertIn("X-Leads-To", self.late("bench:note", self.unit, {"words": "hums"}, code))
        (note,) = run.notes.all()
        self.assertAlmostEqual(note.when, timezone.now() - timedelta(hours=3), delta=timedelta(minutes=1))


class AmongTheProgramsOfADevice(ShopTest):
    def test_the_manifest_has_what_it_takes(self):
        # W3C, Web Application Manifest: its members; icons of 192 and 512 are what browsers ask for (common practice).
        answer = self.client.get("/manifest.webmanifest")
        self.assertEqual(answer["Content-Type"], "application/manifest+json")
        told = json.loads(answer.content)
        self.assertLessEqual({"name", "start_url", "scope", "display", "icons"}, set(told))
        for icon in told["icons"]:
            with Image.open(find(icon["src"].removeprefix(settings.STATIC_URL))) as picture:
                self.assertEqual(icon["sizes"], "{}x{}".format(*picture.size))
        self.assertIn("manifest-src 'self'", answer["Content-Security-Policy"])

    def test_the_script_between_is_asked_for_anew_and_names_what_is_there(self):
        answer = self.client.get("/away.js")
        self.assertEqual(answer["Content-Type"], "text/javascript")
        self.assertIn("no-cache", answer["Cache-Control"])
        for name in answer.content.decode().split('"')[1::2]:
            if name.startswith(settings.STATIC_URL) and name.endswith(".js"):
                self.assertIsNotNone(find(name.removeprefix(settings.STATIC_URL)), name)

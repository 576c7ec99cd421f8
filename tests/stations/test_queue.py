"""Work outside of requests: claimed with a lease, tried again, given up, seen by the owner; several workers at once."""

from datetime import timedelta

from django.core.management import call_command
from django.utils import timezone

from stations.common import clock
from stations.common.refusals import Refused
from stations.queue import services
from stations.queue.models import QueuedWork
from tests.stations.base import AtOnce
from tests.stations.test_through_the_pages import Through

done: list[dict] = []


@services.kinds.add("test work")
def _work(about: dict) -> None:
    if about.get("fails"):
        raise Refused("No ink.")
    done.append(about)


class Queue(Through):
    def setUp(self):
        super().setUp()
        done.clear()
        self.now = timezone.now()

    def put(self, once: str | None = None, **about) -> QueuedWork:
        with clock.at(self.now):
            return services.put("test work", about, self.owner, once)

    def work(self, worker: str = "w") -> QueuedWork | None:
        with clock.at(self.now):
            return services.work_once(worker)

    def test_what_is_put_in_is_done_once_in_turn(self):
        first, second = self.put(number=1), self.put(number=2)
        self.assertEqual([self.work(), self.work()], [first, second])
        self.assertIsNone(self.work())
        self.assertEqual([one["number"] for one in done], [1, 2])
        self.assertEqual({row.state for row in QueuedWork.objects.all()}, {"done"})

    def test_asked_for_twice_it_waits_once_and_again_when_it_ended(self):
        first = self.put(once="day")
        self.assertEqual(self.put(once="day"), first)
        self.work()
        self.assertNotEqual(self.put(once="day"), first)

    def test_what_fails_is_tried_again_after_a_longer_pause_and_given_up(self):
        row = self.put(fails=True)
        pauses = []
        for turn in range(1, services.MOST_TRIES + 1):
            self.assertEqual(self.work().tries, turn)  # type: ignore[union-attr]
            row = self.again(row)
            self.assertEqual(row.error, "No ink.")
            if turn < services.MOST_TRIES:
                self.assertIsNone(self.work(), "before its pause is over")
                pauses.append(row.due_at - self.now)
                self.now = row.due_at
        self.assertEqual(pauses, [services.FIRST_PAUSE * 2**turn for turn in range(services.MOST_TRIES - 1)])
        self.assertTrue(row.given_up)
        page = self.client.get("/queue/")
        self.assertContains(page, "No ink.")
        self.done(self.post("queue:again", [row.pk]))
        self.assertEqual(self.again(row).state, "waiting")
        self.assertEqual(self.post("queue:again", [row.pk]).status_code, 302)

    def test_what_a_worker_that_died_had_claimed_is_done_by_another(self):
        row = self.put(number=1)
        with clock.at(self.now):
            services.claim("first")
            self.assertIsNone(services.claim("second"))
        self.now += services.LEASE + timedelta(seconds=1)
        self.assertEqual(self.work("second"), row)
        self.assertEqual(len(done), 1)

    def test_one_that_comes_back_late_does_not_end_what_another_has(self):
        self.put(fails=True)
        with clock.at(self.now):
            late = services.claim("first")
        self.now += services.LEASE + timedelta(seconds=1)
        with clock.at(self.now):
            services.claim("second")
            services._ended(late, services.State.DONE)  # type: ignore[arg-type]
        self.assertEqual(QueuedWork.objects.get().claimed_by, "second")

    def test_a_worker_works_until_nothing_is_due(self):
        self.put(number=1)
        self.put(number=2)
        call_command("work", "--until-empty")
        self.assertEqual(len(done), 2)

    def test_only_an_owner_tries_again_and_an_unknown_kind_is_an_error(self):
        row = self.put(fails=True)
        QueuedWork.objects.update(state="failed", ended_at=self.now)
        self.sign_in(self.viewer)
        self.assertNotContains(self.client.get("/queue/"), "Try it again")
        self.post("queue:again", [row.pk])
        self.assertTrue(self.again(row).given_up)
        with self.assertRaises(KeyError):
            services.put("nobody’s", {})

    def test_what_is_done_is_forgotten_in_the_end(self):
        self.put(number=1)
        self.work()
        with clock.at(self.now + services.KEEP_ENDED + timedelta(days=1)):
            services.forget_old()
        self.assertFalse(QueuedWork.objects.exists())


class ManyWorkers(AtOnce):
    def test_two_workers_never_have_the_same_thing(self):
        done.clear()
        for number in range(6):
            services.put("test work", {"number": number})
        ends = self.together(*(lambda: [services.work_once("one"), services.work_once("two")] for _ in range(4)))
        taken = [row.pk for both in ends for row in both if row is not None]
        self.assertEqual(len(taken), len(set(taken)))
        while services.work_once("rest"):
            pass
        self.assertEqual(sorted(one["number"] for one in done), list(range(6)))

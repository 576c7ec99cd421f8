"""What is ticked as there and said to be gone as well is asked about, and no buyer is told that it is there."""

from django.urls import reverse
from django.utils import timezone

from core.intake.completeness import Presence
from stations.bench import services as bench
from stations.selling import selectors
from stations.selling.as_recorded import listing_facts
from stations.units.models import Content, Finding, Unit
from stations.units.selectors import with_doubts
from tests.core.listings import write_listing
from tests.stations.test_through_the_pages import Through


class ThereAndGone(Through):
    STANDS = "assessed"

    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()
        Content.objects.filter(unit=self.unit).delete()
        self.keys = Content.objects.create(unit=self.unit, name="all keycaps", weight=3, presence="present")
        self.lead = Content.objects.create(unit=self.unit, name="television lead", weight=1, presence="present")

    def gone(self, words: str, **said) -> Finding:
        said = {
            "face": "top",
            "kind": "missing",
            "severity": 3,
            "x": 0.5,
            "y": 0.5,
            "seen_at": timezone.now(),
            "seen_by": self.owner,
        } | said
        return Finding.objects.create(unit=self.unit, words=words, **said)

    def pages(self) -> list[str]:
        self.sign_in(self.owner)
        number = self.unit.number
        return [f"/W-{number}/", f"/intake/W-{number}/", f"/selling/W-{number}/"]

    def facts(self):
        return listing_facts(Unit.objects.get(pk=self.unit.pk))

    def test_it_is_asked_about_until_one_of_them_is_put_right(self):
        finding = self.gone("two keycaps gone")
        for page in self.pages():
            with self.subTest(page):
                self.assertContains(self.client.get(page), "“two keycaps gone” is on record as missing")
        self.keys.presence = Presence.MISSING
        self.keys.save()
        for page in self.pages():
            with self.subTest(page):
                self.assertNotContains(self.client.get(page), "Which is it?")
        self.keys.presence = Presence.PRESENT
        self.keys.save()
        Finding.objects.filter(pk=finding.pk).update(status="resolved")
        self.assertNotContains(self.client.get(self.pages()[0]), "Which is it?")

    def test_a_tick_that_settles_it_is_seen_at_once(self):
        self.gone("two keycaps gone")
        (_, intake, _) = self.pages()
        self.assertContains(self.client.get(intake), "<b>100 % complete.</b>")
        there = reverse("intake:contents", args=[self.unit.number])
        typed = {f"content-{self.keys.pk}": "missing", f"content-{self.lead.pk}": "present"}
        answer = self.client.post(there, typed, headers={"HX-Request": "true"})
        self.assertContains(answer, "<b>25 % complete.</b>")
        self.assertContains(answer, 'id="complete"')
        self.assertNotContains(answer, "Which is it?")

    def test_no_listing_says_that_it_is_there_or_that_it_is_complete(self):
        self.assertEqual(
            (list(self.facts().in_the_box), self.facts().gaps), (["all keycaps", "television lead"], False)
        )
        self.gone("two keycaps gone")
        facts = self.facts()
        self.assertEqual((list(facts.in_the_box), facts.gaps), (["television lead"], True))
        title, text = write_listing(facts)
        self.assertNotIn("complete", title)
        self.assertNotIn("all keycaps", text)
        self.assertIn("two keycaps gone", text)

    def test_what_says_complete_and_is_on_offer_is_stopped(self):
        self.gone("one keycap")
        facts = selectors.offer_facts([self.unit])[self.unit.pk]
        self.assertTrue(facts.gaps)

    def test_other_things_are_left_alone(self):
        for words, said in (
            ("power lead", {}),
            ("all keycaps are yellow", {"kind": "yellowing"}),
            ("two keycaps", {"status": "resolved"}),
            ("", {}),
        ):
            with self.subTest(words):
                self.gone(words, **said)
                self.assertFalse(self.facts().gaps)

    def test_of_a_list_two_queries_tell_it(self):
        self.gone("two keycaps gone")
        other = self.assessed()
        with self.assertNumQueries(2):
            self.assertEqual(with_doubts([self.unit, other]), {self.unit.pk})


class CautionsLeftOut(Through):
    """What takes a caution away is asked about wherever somebody is about to reach in."""

    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()

    def asked(self) -> list[bool]:
        self.sign_in(self.owner)
        number = self.unit.number
        pages = (f"/W-{number}/", f"/intake/W-{number}/", f"/bench/W-{number}/")
        return ["nobody is asked to discharge it" in self.client.get(page).content.decode() for page in pages]

    def test_a_tube_that_its_model_has_and_it_has_not(self):
        self.assertEqual(self.asked(), [False, False, False])
        self.identify(self.unit, picture_tube=False)
        self.assertEqual(self.asked(), [True, True, True])
        bench.start_run(self.owner, self.again(self.unit))
        self.assertEqual(self.asked(), [True, True, True])
        # Gone by both records: then there is nothing to ask.
        Content.objects.create(unit=self.unit, name="picture tube", weight=9, presence="missing")
        self.assertEqual(self.asked(), [False, False, False])

    def test_at_intake_it_is_asked_as_soon_as_it_is_chosen(self):
        self.sign_in(self.owner)
        form = self.client.get(f"/intake/W-{self.unit.number}/").context["form"]
        sent = {f.html_name: f.value() for f in form if f.value() not in (None, "", False)} | {"picture_tube": "false"}
        there = reverse("intake:identify", args=[self.unit.number])
        answer = self.client.post(there, sent, headers={"HX-Request": "true"})
        self.assertContains(answer, "nobody is asked to discharge it")

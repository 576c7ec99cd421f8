"""What a form showed and somebody else changed meanwhile is not written over unseen, at every form that edits."""

import html
import json
import re
from decimal import Decimal

from django.forms import BaseForm
from django.urls import reverse

from stations.buying import plans
from stations.buying import services as buying
from stations.buying.models import LotLine
from stations.buying.sharing import Basis, current_sharing, share_lot
from stations.common.forms import SeenForm
from stations.intake.forms import ContentsForm
from stations.people.models import HistoryEntry
from stations.selling import services as selling
from stations.selling.shop_pages import page_of, word_page
from stations.units import findings
from stations.units.models import Content, Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import line_data, lot_data
from tests.stations.test_pages import PageTest
from tests.stations.test_plans import LINE, TERMS

D = Decimal
AT_ONCE = {"HTTP_HX_REQUEST": "true"}


def as_shown(form: BaseForm) -> dict[str, object]:
    """What a browser sends of a form that nobody touched."""
    sent = {f.html_name: f.value() for f in form if f.value() is not None and f.value() is not False}
    if isinstance(form, SeenForm):
        sent[form.add_prefix("seen")] = html.unescape(re.search(r'value="([^"]*)"', form.seen)[1])
    return sent


class ChangedMeanwhile(PageTest):
    def opened(self, address: str, name: str = "form") -> SeenForm:
        """A form as a page shows it, its mark with it."""
        page = self.client.get(address)
        form = page.context[name]
        self.assertContains(page, form.seen, msg_prefix="the page carries what its form showed")
        return form

    def refused_then_saved(self, form, address: str, theirs: str, name: str = "form", **typed) -> None:
        """Sent with what I typed it says what they said; what I typed stands there, and sent again it is saved."""
        sent = as_shown(form) | typed
        late = self.client.post(address, sent)
        self.assertEqual(late.status_code, 200)
        self.assertEqual({k: v for k, v in late.context[name].errors.items() if k != "__all__"}, {})
        self.assertContains(late, "Somebody else saved this while you were typing")
        shown = late.context[name]
        self.assertIn(theirs, [row["theirs"] for row in shown.stale])
        for field, value in typed.items():
            self.assertEqual(shown[field].value(), value)
        self.assertContains(late, shown.seen)
        saved = self.client.post(address, as_shown(shown))
        self.assertEqual(
            saved.status_code, 302, shown.errors if saved.status_code == 302 else saved.context[name].errors
        )

    def test_a_finding(self):
        unit = self.assessed()
        seen = findings.Observation("top", "scratch", 0.5, 0.5, words="long")
        row = findings.add_finding(self.owner, unit, seen)
        address = reverse("intake:change-finding", args=[row.pk])
        form = self.opened(address)
        findings.change_finding(self.owner, row, findings.Observation("top", "crack", 0.5, 0.5, 4, words="through"))
        self.refused_then_saved(form, address, "through", words="a long one")
        self.assertEqual((self.again(row).kind, self.again(row).words), ("scratch", "a long one"))

    def test_what_is_moved_or_settled_elsewhere_is_no_difference_of_words(self):
        """Settling is not what this form says: it saves all the same."""
        unit = self.assessed()
        row = findings.add_finding(self.owner, unit, findings.Observation("top", "scratch", 0.5, 0.5))
        address = reverse("intake:change-finding", args=[row.pk])
        form = self.opened(address)
        findings.settle_finding(self.owner, row, "patina")
        self.assertEqual(self.client.post(address, as_shown(form) | {"words": "worn"}).status_code, 302)
        self.assertEqual((self.again(row).words, self.again(row).status), ("worn", "patina"))

    def test_a_line_of_a_plan(self):
        plan = plans.plan_bid(self.owner, TERMS)
        line = plans.add_line(self.owner, plan, LINE)
        address = reverse("buying:plan-line", args=[plan.number, line.pk])
        form = self.opened(address)
        line.cases.filter(outcome="works").update(likely=D(199))
        self.refused_then_saved(form, address, "199.00", rho="20")
        self.assertEqual(line.cases.get(outcome="works").likely, D(240))

    def test_a_line_of_a_lot(self):
        address = reverse("buying:line", args=[self.lot.number, self.line.pk])
        form = self.opened(address)
        self.post("buying:line", [self.lot.number, self.line.pk], **{**as_shown(form), "claim_words": "dead"})
        self.refused_then_saved(form, address, "dead", claim_words="it hums")
        self.assertEqual(self.again(self.line).claim_words, "it hums")

    def whole_lot(self) -> dict:
        """What the page of the whole lot sends as it is."""
        page = self.client.get(reverse("buying:correct", args=[self.lot.number]))
        sent = as_shown(page.context["form"])
        for forms in (page.context["charges"], page.context["lines"]):
            sent |= as_shown(forms.management_form)
            for form in forms.forms:
                sent |= as_shown(form)
        return sent

    def test_a_whole_lot_of_which_what_was_paid_was_corrected(self):
        """Nobody takes out what somebody else has put in without seeing it."""
        address = reverse("buying:correct", args=[self.lot.number])
        sent = self.whole_lot()
        buying.correct_lot(self.owner, self.lot, self.lot_again().version, lot_data(freight=D("30.50")), None)
        late = self.client.post(address, sent)
        said = {row["label"]: (row["yours"], row["theirs"]) for row in late.context["form"].stale}
        self.assertEqual(said, {"Freight": ("12.00", "30.50")})
        self.assertContains(late, "30.50")
        self.client.post(address, sent | {"version": self.lot_again().version})
        self.assertEqual(self.lot.charges.get(replaced_at=None, kind="freight").amount, D(12))

    def test_a_whole_lot_of_which_a_line_was_corrected_or_added(self):
        address = reverse("buying:correct", args=[self.lot.number])
        sent = self.whole_lot()
        buying.correct_line(self.owner, self.line, line_data("Halden M2 plus", 3))
        LotLine.objects.create(lot=self.lot, position=9, **line_data("Crate of cables").values)
        late = self.client.post(address, sent)
        self.assertContains(late, "Somebody else saved this while you were typing")
        said = {row["label"]: (row["yours"], row["theirs"]) for row in late.context["form"].stale}
        self.assertEqual(said["Line 1 What is it"], ("Halden M2", "Halden M2 plus"))
        self.assertEqual(said["Line 9"], ("no such line", "Crate of cables"))
        self.assertEqual(self.again(self.line).description, "Halden M2 plus")
        self.client.post(address, sent | {"version": self.lot_again().version})
        self.assertEqual([line.description for line in self.lot.lines.all()], ["Halden M2", "Tessaly 48"])

    def test_how_a_lot_is_shared(self):
        address = reverse("buying:lot", args=[self.lot.number])
        form = self.opened(address)
        share_lot(self.owner, self.lot, Basis.COUNT, {self.line.pk: D(50)})
        self.refused_then_saved(form, address, "50.00", **{f"fixed_{self.line.pk}": "60"})
        self.assertEqual(self.again(self.line).fixed_share, D(60))
        self.assertEqual(current_sharing(self.lot).basis, "value")

    def test_a_model(self):
        address = reverse("catalogue:model", args=[self.model.pk])
        form = self.opened(address)
        self.model.expected.filter(name="mouse").delete()
        self.model.year_from = 1986
        self.model.save()
        self.refused_then_saved(form, address, "1986", hazards="a CRT")
        self.assertEqual((self.again(self.model).hazards, self.again(self.model).year_from), ("a CRT", None))
        self.assertEqual(self.model.expected.count(), 2)

    def test_a_page_of_the_shop(self):
        address = reverse("selling:pages") + "?page=returns"
        form = self.opened(address)
        word_page(self.owner, "returns", "Returns", "Ask first.")
        self.refused_then_saved(form, address, "Ask first.", text="Send it back.")
        self.assertEqual(page_of("returns").text, "Send it back.")

    def test_minutes_of_work(self):
        job = workshop.open_job(self.owner, self.assessed(), NewJob("Clean it"))
        entry = workshop.log_labour(self.owner, job, 30)
        address = reverse("workshop:labour", args=[entry.pk])
        form = self.opened(address)
        workshop.say_minutes(self.owner, entry, 45, "the clock stood")
        self.refused_then_saved(form, address, "45", minutes="20", why="lunch")
        self.assertEqual(self.again(entry).minutes, 20)


class AtTheIntakeTable(PageTest):
    """Sections that save themselves while one types."""

    def scene(self):
        super().scene()
        (self.unit,) = self.receive()
        self.address = reverse("intake:unit", args=[self.unit.number])

    def section(self, name: str, what: str, sent: dict, at_once: bool = True):
        return self.client.post(reverse(f"intake:{what}", args=[self.unit.number]), sent, **AT_ONCE if at_once else {})

    def opened(self, name: str) -> SeenForm:
        page = self.client.get(self.address)
        self.assertContains(page, page.context[name].seen)
        return page.context[name]

    def went_on(self, answer, sent: dict) -> dict:
        """What the page sends next: the mark that came back is in the place of the other."""
        mark = re.search(r'name="seen" value="([^"]*)" id="[^"]*" hx-swap-oob="true"', answer.content.decode())
        return sent | {"seen": html.unescape(mark[1])}

    def test_whose_it_is(self):
        form = self.opened("holding")
        mine = as_shown(form)
        theirs = {**mine, "holding": "consigned", "owner_name": "Ines Falk", "commission_percent": "20"}
        self.assertContains(self.section("holding", "hold", theirs), "saved")
        late = self.section("holding", "hold", mine | {"holding": "custody", "owner_name": "the school"})
        self.assertContains(late, "Somebody else saved this meanwhile")
        self.assertEqual(self.again(self.unit).owner_name, "Ines Falk")
        both = self.section("holding", "hold", mine | {"holding": "custody", "owner_name": "the school"}, at_once=False)
        theirs = [row["theirs"] for row in both.context["holding"].stale]
        self.assertEqual(theirs, [Unit.Holding.CONSIGNED.label, "Ines Falk", "20.00"])
        self.section("holding", "hold", as_shown(both.context["holding"]), at_once=False)
        self.assertEqual(self.again(self.unit).owner_name, "the school")

    def test_my_own_saving_is_not_somebody_elses(self):
        form = self.opened("data")
        sent = as_shown(form) | {"data_on_board": "true"}
        for words in ("names of pupils", "and their marks", "and no more"):
            answer = self.section("data", "data", sent | {"data_note": words})
            self.assertContains(answer, "saved")
            sent = self.went_on(answer, sent)
        self.assertEqual(self.again(self.unit).data_note, "and no more")

    def test_two_tick_off_at_once_and_nothing_is_lost(self):
        """Each one's page shows what it showed; only what is chosen on it is said."""
        keyboard, mouse = (Content.objects.get(unit=self.unit, name=name) for name in ("keyboard", "mouse"))
        first = second = as_shown(self.opened("ticks"))
        first = first | {f"content-{keyboard.pk}": "present"}
        answer = self.section("ticks", "contents", first)
        self.assertContains(answer, "saved")
        second = second | {f"content-{mouse.pk}": "missing"}
        self.assertContains(self.section("ticks", "contents", second), "saved")
        self.assertEqual((self.again(keyboard).presence, self.again(mouse).presence), ("present", "missing"))
        # The first one goes on: what the second said of the mouse stays too.
        first = self.went_on(answer, first) | {f"content-{keyboard.pk}": "wrong"}
        self.assertContains(self.section("ticks", "contents", first), "saved")
        self.assertEqual((self.again(keyboard).presence, self.again(mouse).presence), ("wrong", "missing"))

    def test_of_the_same_thing_two_say_something_else(self):
        keyboard, mouse = (Content.objects.get(unit=self.unit, name=name) for name in ("keyboard", "mouse"))
        mine = as_shown(self.opened("ticks")) | {f"content-{keyboard.pk}": "missing"}
        Content.objects.filter(pk=keyboard.pk).update(presence="present")
        Content.objects.filter(pk=mouse.pk).update(presence="wrong")
        self.assertContains(self.section("ticks", "contents", mine), "Somebody else saved this meanwhile")
        self.assertEqual(self.again(keyboard).presence, "present")
        both = self.section("ticks", "contents", mine, at_once=False).context["ticks"]
        self.assertEqual([row["yours"] for row in both.stale], ["missing"])
        self.assertEqual(both[f"content-{mouse.pk}"].value(), "wrong", "what I did not touch is theirs")
        self.section("ticks", "contents", as_shown(both), at_once=False)
        self.assertEqual((self.again(keyboard).presence, self.again(mouse).presence), ("missing", "wrong"))

    def test_nonsense_for_what_was_seen(self):
        sent = as_shown(self.opened("ticks"))
        for nonsense in ("", "x", "[1]", "7", '{"content-1": [3]}', json.dumps({"content-1": {}})):
            answer = self.section("ticks", "contents", sent | {"seen": nonsense}, at_once=False)
            self.assertIn(answer.status_code, (200, 302))
        form = ContentsForm({"seen": "[]"}, unit=self.unit, contents=self.unit.contents.all())
        self.assertTrue(form.is_valid())
        self.assertEqual(form.presences, {})

    def test_what_shall_become_of_it(self):
        unit = self.assessed()
        self.unit, self.address = unit, reverse("intake:unit", args=[unit.number])
        form = self.opened("path")
        Unit.objects.filter(pk=unit.pk).update(path="scrap", path_reason="rust")
        late = self.section("path", "choose-path", as_shown(form) | {"path": "keep"}, at_once=False)
        self.assertEqual(self.again(unit).path, "scrap")
        self.assertTrue(late.context["path"].errors)


class WantedByTwo(PageTest):
    def test_an_estimate_and_doing_without_do_not_undo_each_other(self):
        unit = self.assessed()
        Content.objects.filter(unit=unit, name="mouse").update(presence="missing")
        mouse = Content.objects.get(unit=unit, name="mouse")
        self.post("units:estimate", [mouse.pk], estimate="40", was="0")
        late = self.post("units:estimate", [mouse.pk], estimate="12", was="0")
        self.assertEqual(self.again(mouse).estimate, D(40))
        self.assertContains(self.client.get(late["Location"]), "You had typed: 12")
        self.post("units:estimate", [mouse.pk], estimate="40", was="40", done_without="yes")
        self.post("units:estimate", [mouse.pk], estimate="41", was="40")
        self.assertTrue(self.again(mouse).done_without)
        self.assertContains(self.client.get("/intake/wanted/"), "1 done without")
        self.post("units:want-after-all", [mouse.pk])
        self.assertFalse(self.again(mouse).done_without)
        said = HistoryEntry.objects.filter(subject_id=unit.pk).values_list("words", flat=True)
        self.assertTrue({"Does without: mouse", "Wanted after all: mouse"} <= set(said))


class APressDoesWhatWasSeen(PageTest):
    """A button that needs no form does what stood on the page, or says that something else stands there by now."""

    def press(self, unit: Unit, what: str, seen: object) -> str:
        answer = self.client.post(reverse("selling:do", args=[unit.number, what]), {"seen": seen}, follow=True)
        return answer.content.decode()

    def seen_on(self, unit: Unit, what: str) -> str:
        page = self.client.get(reverse("selling:unit", args=[unit.number])).content.decode()
        form = page.partition(f'action="{reverse("selling:do", args=[unit.number, what])}"')[2].partition("</form>")[0]
        return re.search(r'name="seen" value="([^"]*)"', form)[1]

    def test_the_grade_that_it_names(self):
        unit = self.proven()
        seen = self.seen_on(unit, "grade")
        unit.contents.filter(name="keyboard").update(presence="missing")
        self.assertIn("The record gives ", self.press(unit, "grade", seen))
        self.assertFalse(unit.grades.exists())
        self.press(unit, "grade", self.seen_on(unit, "grade"))
        self.assertEqual(unit.grades.get().grade, self.seen_on(unit, "grade"))

    def test_words_and_price_that_it_shows(self):
        unit = self.proven()
        self.hand().offer(unit, "150", publish=False)
        seen = {what: self.seen_on(unit, what) for what in ("publish", "write")}
        listing = unit.listing
        selling.save_text(self.seller, unit, listing.version, "Mine", "What I wrote of it by hand.")
        for what, version in seen.items():
            self.assertIn("Somebody else changed its price or its words", self.press(unit, what, version))
        listing.refresh_from_db()
        self.assertEqual((listing.title, listing.status), ("Mine", "draft"))
        self.press(unit, "publish", self.seen_on(unit, "publish"))
        listing.refresh_from_db()
        self.assertEqual(listing.status, "live")

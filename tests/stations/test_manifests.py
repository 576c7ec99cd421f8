import csv
import io
from decimal import Decimal as D
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from core.buying.manifest import Column
from core.buying.share import Basis
from stations.buying import manifests, plans
from stations.buying import services as buying
from stations.buying.models import LotLine, Manifest
from stations.buying.sharing import share_lot
from stations.common.refusals import NotAllowed, Refused
from tests.stations.base import line_data, lot_data
from tests.stations.test_pages import PageTest
from tests.stations.test_plans import TERMS

GOOD = b"item;qty;value\nTower;3;80\nScreen;1;45,50\n"
COLUMNS = {Column.DESCRIPTION: 0, Column.QUANTITY: 1, Column.WORTH: 2}
MESSY = Path(__file__).resolve().parents[2] / "demo" / "messy-manifest.csv"


class TakingIn(PageTest):
    def scene(self) -> None:
        super().scene()
        self.bare = buying.record_lot(self.owner, lot_data(), [line_data()])

    def upload(self, data=GOOD):
        return manifests.upload(self.owner, self.bare, "list.csv", data)

    def test_nothing_is_stored_on_the_lot_until_it_is_confirmed(self):
        manifest = self.upload()
        self.assertEqual(self.bare.lines.count(), 1)
        self.assertEqual(manifests.import_manifest(self.owner, manifest, COLUMNS, finish_cost=D(12)), 2)
        self.assertEqual(
            list(self.bare.lines.values_list("description", "quantity", "worth_likely", "finish_cost"))[1:],
            [("Tower", 3, 80, 12), ("Screen", 1, D("45.50"), 12)],
        )
        with self.assertRaisesRegex(Refused, "already"):
            manifests.import_manifest(self.owner, manifest, COLUMNS)

    def test_one_bad_line_and_nothing_is_imported(self):
        manifest = self.upload(MESSY.read_bytes())
        _, columns, good, bad = manifests.preview(manifest)
        self.assertEqual([line.number for line in bad], [3, 5, 7])
        self.assertEqual(len(good), 4)
        with self.assertRaisesRegex(Refused, "3 lines are bad; nothing was imported. The first: line 3"):
            manifests.import_manifest(self.owner, manifest, columns)
        self.assertEqual(self.bare.lines.count(), 1)

    def test_the_same_file_twice_is_noticed(self):
        manifests.import_manifest(self.owner, self.upload(), COLUMNS, finish_cost=D(0))
        second = self.upload()
        with self.assertRaisesRegex(Refused, "imported into L-002"):
            manifests.import_manifest(self.owner, second, COLUMNS)
        self.assertEqual(manifests.import_manifest(self.owner, second, COLUMNS, again=True, finish_cost=D(0)), 2)

    def test_not_into_a_lot_that_is_shared_and_not_by_anybody(self):
        manifest = manifests.upload(self.owner, self.lot, "list.csv", GOOD)
        with self.assertRaisesRegex(Refused, "shared already"):
            manifests.import_manifest(self.owner, manifest, COLUMNS, finish_cost=D(0))
        with self.assertRaises(NotAllowed):
            manifests.upload(self.technician, self.bare, "list.csv", GOOD)

    def test_five_thousand_lines_by_the_page(self):
        data = b"item;qty;value\n" + b"".join(b"Tower %d;1;%d\n" % (n, n) for n in range(5000))
        manifests.import_manifest(self.owner, self.upload(data), COLUMNS, finish_cost=D(0))
        self.assertEqual(self.bare.lines.count(), 5001)
        page = self.client.get(reverse("buying:lot", args=[self.bare.number]))
        self.assertContains(page, "5001 in all")
        self.assertContains(self.client.get(reverse("buying:correct", args=[self.bare.number])), "came by a manifest")
        line = self.bare.lines.last()
        there = reverse("buying:line", args=[self.bare.number, line.pk])
        form = {f.html_name: "" if f.value() is None else f.value() for f in self.client.get(there).context["form"]}
        self.assertIn("quantity", self.client.post(there, form | {"quantity": "0"}).context["form"].errors)
        self.client.post(there, form | {"description": "Tower, dented"})
        self.assertEqual(self.again(line).description, "Tower, dented")
        sharing = share_lot(self.owner, self.bare, Basis.VALUE)
        self.assertEqual(sum(share.amount for share in sharing.shares.all()), self.bare.landed_total)

    def test_through_the_pages_with_columns_chosen_by_sight(self):
        there = reverse("buying:manifest-upload", args=[self.bare.number])
        page = self.client.post(there, {"file": SimpleUploadedFile("empty.csv", b"item;qty\n")})
        self.assertContains(page, "nothing under it")
        self.assertContains(self.client.post(there, {}), "Choose a file first")
        self.client.post(there, {"file": SimpleUploadedFile("odd.csv", b"a;b\n4;Lamp\n")})
        look = reverse("buying:manifest", args=[Manifest.objects.get().pk])
        self.assertContains(self.client.get(look), "Nothing says what it is")
        page = self.client.get(look, {"description": "1", "quantity": "0"})
        self.assertContains(page, "1 lines, all good")
        chosen = {"description": "1", "quantity": "0"}
        page = self.client.post(look, chosen | {"write_key": "m"})
        self.assertContains(page, "Say what shape it has.")
        self.assertContains(page, "Form factor of the 1 that tell none")
        page = self.client.post(look, chosen | {"write_key": "n", "shape": "luggable"})
        self.assertRedirects(page, f"/buying/L-{self.bare.number}/")
        line = LotLine.objects.get(description="Lamp")
        self.assertEqual((line.quantity, line.form_factor), (4, "luggable"))

    def test_a_column_of_shapes_stays_chosen_when_some_tell_none(self):
        kept = self.upload(b"item;qty;type\nHalden;1;laptop\nTessaly;1;\n")
        look, chosen = reverse("buying:manifest", args=[kept.pk]), {"description": "0", "quantity": "1"}
        self.client.post(look, chosen | {"form_factor": "2", "shape": "", "write_key": "a"})
        self.assertContains(self.client.get(look), "Form factor of the 1 that tell none")
        self.client.post(look, chosen | {"form_factor": "2", "shape": "keyboard", "write_key": "b"})
        self.assertEqual(
            list(self.bare.lines.order_by("position").values_list("form_factor", flat=True))[1:], ["laptop", "keyboard"]
        )

    def test_what_tells_its_shape_keeps_it_and_a_board_is_of_none(self):
        kept = self.upload(b"item;qty\nLaptop;1\nMystery box;2\nSpare part;3\nMedia, mixed;1\n")
        with self.assertRaisesRegex(Refused, "what shape"):
            manifests.import_manifest(self.owner, kept, {Column.DESCRIPTION: 0, Column.QUANTITY: 1})
        manifests.import_manifest(self.owner, kept, {Column.DESCRIPTION: 0, Column.QUANTITY: 1}, shape="terminal")
        self.assertEqual(
            list(self.bare.lines.order_by("position").values_list("form_factor", flat=True))[1:],
            ["laptop", "terminal", "board", "drive"],
        )

    def test_what_finishing_one_costs_is_asked_where_some_worth_is_said(self):
        look = reverse("buying:manifest", args=[self.upload().pk])
        columns = {column.value: str(index) for column, index in COLUMNS.items()}
        page = self.client.post(look, columns | {"write_key": "a", "finish_cost": ""})
        self.assertContains(page, "What does it cost to finish one?")
        self.assertEqual(self.bare.lines.count(), 1)
        page = self.client.post(look, columns | {"write_key": "b", "finish_cost": "12,x"})
        self.assertContains(page, 'value="12,x"')
        self.client.post(look, columns | {"write_key": "c", "finish_cost": "12,50"})
        self.assertEqual(self.bare.lines.get(description="Tower").finish_cost, D("12.50"))
        without = reverse("buying:manifest", args=[self.upload(b"item;qty\nLamp;1\n").pk])
        self.assertNotContains(self.client.get(without), "Cost to finish")

    def test_nothing_that_the_seller_wrote_is_cut_off(self):
        long = "Tower with " + "a lid, " * 20 + "and its own key"
        self.client.post(
            reverse("buying:manifest-upload", args=[self.bare.number]),
            {
                "file": SimpleUploadedFile(
                    "list.csv", f"item;condition;remarks\n{long};works, lid cracked;heavy\n".encode()
                )
            },
        )
        look = reverse("buying:manifest", args=[Manifest.objects.get().pk])
        self.assertContains(self.client.get(look), f"{long}; works, lid cracked; heavy")
        self.client.post(look, {"description": "0", "claim": "1", "claim_words": "2", "write_key": "m"})
        line = self.bare.lines.last()
        self.assertTrue(line.description.startswith("Tower with a lid, ") and line.description.endswith(" …"))
        self.assertEqual(line.claim_words, f"{long}; works, lid cracked; heavy")


class IntoAPlan(PageTest):
    def test_lines_come_with_the_usual_cases_and_not_twice(self):
        plan = plans.plan_bid(self.owner, TERMS)
        there = reverse("buying:plan-manifest", args=[plan.number])
        self.client.post(there, {"file": SimpleUploadedFile("list.csv", GOOD)})
        look = reverse("buying:manifest", args=[Manifest.objects.get().pk])
        self.assertContains(self.client.get(look), "2 lines, all good")
        columns = {column.value: str(index) for column, index in COLUMNS.items()}
        page = self.client.post(look, columns | {"write_key": "p"})
        self.assertRedirects(page, f"/buying/plans/P-{plan.number}/")
        tower, screen = plan.lines.all()
        self.assertEqual((tower.form_factor, tower.quantity, screen.kind), ("tower", 3, "peripheral"))
        self.assertEqual(tower.cases.get(outcome="works").likely, 80)
        second = manifests.upload(self.owner, plan, "list.csv", GOOD)
        with self.assertRaisesRegex(Refused, "imported into B-001"):
            manifests.import_manifest(self.owner, second, COLUMNS)
        # What was planned from a file may be imported into the lot once it is bought.
        bare = buying.record_lot(self.owner, lot_data(), [line_data()])
        again = manifests.upload(self.owner, bare, "list.csv", GOOD)
        self.assertEqual(manifests.import_manifest(self.owner, again, COLUMNS, finish_cost=D(0)), 2)

    def test_a_plan_holds_two_hundred_lines(self):
        plan = plans.plan_bid(self.owner, TERMS)
        data = b"item;qty;value\n" + b"Tower;1;5\n" * 201
        with self.assertRaisesRegex(Refused, "200 lines at most"):
            manifests.import_manifest(self.owner, manifests.upload(self.owner, plan, "long.csv", data), COLUMNS)
        self.assertFalse(plan.lines.exists())
        many = manifests.upload(self.owner, plan, "many.csv", b"item;qty;value\nDisk;1;5\nTower;900;5\n")
        with self.assertRaisesRegex(Refused, "Line 3 has 900 pieces; a line of a plan has 500 at most"):
            manifests.import_manifest(self.owner, many, COLUMNS)
        self.assertFalse(plan.lines.exists())


class Exports(PageTest):
    def rows(self, address, *args):
        text = self.client.get(reverse(address, args=args)).content.decode("utf-8-sig")
        return list(csv.DictReader(io.StringIO(text)))

    def test_lots_and_lines(self):
        (row,) = self.rows("buying:lots-csv")
        self.assertEqual((row["code"], row["landed_total"]), ("L-001", "130.00"))
        lines = self.rows("buying:lines-csv", self.lot.number)
        self.assertEqual([line["share"] for line in lines], ["118.18", "11.82"])
        data = self.client.get(reverse("buying:lines-json", args=[self.lot.number])).json()
        self.assertEqual([line["description"] for line in data["lines"]], ["Halden M2", "Tessaly 48"])
        self.assertEqual(self.client.get(reverse("buying:lots-json")).json()["lots"][0]["title"], "Attic")

    def test_a_spreadsheet_finds_no_formula(self):
        self.lot.lines.filter(position=1).update(description="=1+1", claim_words="@cmd")
        line = self.rows("buying:lines-csv", self.lot.number)[0]
        self.assertEqual((line["description"], line["claim_words"]), ("'=1+1", "'@cmd"))

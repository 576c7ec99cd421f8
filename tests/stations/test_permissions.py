"""The table of permissions: every line is asked, nothing else is, and no page offers what would be refused."""

import ast
import re
from decimal import Decimal

from django.conf import settings
from django.test import override_settings
from django.urls import reverse

from stations.common.refusals import NotAllowed
from stations.dispatch import parcels, taken_back
from stations.people.models import Role
from stations.people.permissions import PERMISSIONS, may, require, who_may
from stations.selling import payments
from stations.selling import services as selling
from stations.stock import services as stock
from stations.stock.services import Sort
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest, person

# What was closed by who closes sales is taken back by them too.
ASKS_FOR_MORE = {("stations.dispatch.taken_back", "not_sent")}
ASKED = re.compile(r"\b(?:require|may)\(\s*[\w.]+,\s*\"([^\"]+)\"\s*\)|user\|may:\"([^\"]+)\"|{% only \"([^\"]+)\"")


def asked() -> set[str]:
    """What services, views and templates ask of the table, in its own words."""
    files = [*settings.ROOT.glob("stations/**/*.py"), *settings.ROOT.glob("stations/*/templates/*/*.html")]
    files += settings.ROOT.glob("config/templates/**/*.html")
    return {"".join(words) for file in files for words in ASKED.findall(file.read_text())}


def asked_within() -> dict[tuple[str, str], tuple[set[str], set[tuple[str, str]]]]:
    """Of every function of a room, by module and name: what it asks of the table, and which functions it calls."""
    found = {}
    for file in settings.ROOT.glob("stations/**/*.py"):
        module = ".".join(file.relative_to(settings.ROOT).with_suffix("").parts)
        tree = ast.parse(file.read_text())
        imported = {
            alias.asname or alias.name: (node.module, alias.name)
            for node in ast.walk(tree)
            if isinstance(node, ast.ImportFrom) and node.module
            for alias in node.names
        }
        for function in tree.body:
            if isinstance(function, ast.FunctionDef):
                asks, calls = set(), set()
                for node in ast.walk(function):
                    match node:
                        case ast.Call(func=ast.Name("require"), args=[_, ast.Constant(value=to)]):
                            asks.add(to)
                        case ast.Call(func=ast.Name(name)):
                            calls.add(imported.get(name, (module, name)))
                        case ast.Call(func=ast.Attribute(value=ast.Name(there), attr=name)) if there in imported:
                            calls.add((".".join(imported[there]), name))
                found[module, function.name] = asks, calls
    return found


class TheTable(ShopTest):
    def test_what_is_asked_stands_in_it_and_what_stands_in_it_is_asked(self):
        self.assertEqual(asked() - set(PERMISSIONS), set())
        # An act that settles a unit asks by its title.
        by_title = {"say that sanitising does not hold"}
        self.assertEqual(set(PERMISSIONS) - asked() - by_title, set())

    def test_an_owner_may_everything_a_viewer_nothing_and_a_refusal_says_who(self):
        for to in PERMISSIONS:
            self.assertTrue(may(self.owner, to))
            self.assertFalse(may(self.viewer, to))
            with self.assertRaisesRegex(NotAllowed, rf"^Only .*an owner may {to}\. You can read everything here\.$"):
                require(self.viewer, to)

    def test_each_role_may_what_its_line_says(self):
        for role in (Role.BUYER, Role.TECHNICIAN, Role.SELLER):
            somebody = person(f"only-{role}", role)
            for to, roles in PERMISSIONS.items():
                self.assertEqual(may(somebody, to), role in roles, to)
                self.assertEqual(role.value in who_may(to), role in roles)

    def test_nothing_asks_for_more_than_what_calls_it(self):
        functions = asked_within()
        self.assertGreater(sum(bool(asks) for asks, _ in functions.values()), 200)

        def asked_behind(one: tuple[str, str], seen: set[tuple[str, str]]) -> set[str]:
            if one in seen or one not in functions:
                return set()
            seen.add(one)
            asks, calls = functions[one]
            return asks.union(*(asked_behind(called, seen) for called in calls))

        for one, (asks, _) in functions.items():
            if one in ASKS_FOR_MORE:
                continue
            may_begin = set(Role).intersection(*(PERMISSIONS[to] for to in asks))
            for to in asked_behind(one, set()) if asks else ():
                self.assertLessEqual(may_begin, PERMISSIONS[to], f"{one} asks for “{to}”")

    def test_what_nobody_thought_of_is_an_error_of_the_program(self):
        with self.assertRaises(KeyError):
            may(self.owner, "fly")


class WholeActs(ShopTest):
    """Who may do something may do all that goes with it."""

    def test_a_technician_hands_over_what_was_sold_and_says_that_it_was_not(self):
        sale = selling.sell(self.seller, self.listed(), Decimal(150), "A. Reader", Decimal(9))
        payments.take_payment(self.seller, sale, Decimal(150))
        parcel = parcels.hand_over(self.technician, sale)
        self.assertEqual(self.again(sale.unit).stage, "closed")
        taken_back.not_sent(self.technician, parcel, "the buyer did not come")
        self.assertEqual(self.again(sale.unit).stage, "sold")

    def test_a_buyer_takes_in_what_a_job_waits_for(self):
        job = workshop.open_job(
            self.technician, self.assessed(), NewJob("New belt", "repair", estimate_minutes=20, waiting_for="belt")
        )
        stock.stock_part(person("only-buys", Role.BUYER), Sort("Belt", "new"), 1, Decimal(3))
        self.assertEqual((self.again(job).waiting_for, job.reservations.get().quantity), ("", 1))


class Buttons(ShopTest):
    """Buttons that need nothing but a press are shown to those who may press them."""

    def sees(self, who, address: str, words: str) -> bool:
        self.client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")
        return words in " ".join(self.client.get(address).content.decode().split())

    @override_settings(RATES_URL="http://127.0.0.1:1/")
    def test_only_those_who_may_are_offered_them(self):
        new, unit, listed = self.receive()[0], self.assessed(), self.listed()
        ones = {role: person(f"one-{role}", role) for role in (Role.BUYER, Role.TECHNICIAN, Role.SELLER)}
        for address, words, role in (
            (reverse("bench:unit", args=[unit.number]), "Start a run", Role.TECHNICIAN),
            (reverse("bench:unit", args=[listed.number]), "Power-up OK", Role.TECHNICIAN),
            (reverse("intake:unit", args=[new.number]), "Nothing wrong on any face", Role.BUYER),
            (reverse("selling:unit", args=[listed.number]), "End the listing", Role.SELLER),
            (reverse("buying:rates"), ">Fetch the list<", Role.BUYER),
        ):
            with self.subTest(words):
                self.assertTrue(self.sees(self.owner, address, words))
                self.assertTrue(self.sees(ones[role], address, words))
                self.assertFalse(self.sees(self.viewer, address, words))

"""What was not found in time is called neither impossible nor the best."""

import unittest
from dataclasses import replace
from decimal import Decimal as D
from unittest.mock import patch

from ortools.sat.python import cp_model

from core import solving
from core.catalogue import orders
from core.catalogue.assemblies import AssemblyError
from core.catalogue.fit.answers import Answer
from core.catalogue.fit.assignment import Impossible, assign, uses_of
from core.catalogue.fit.filling import CannotFill, fill
from core.catalogue.fit.machine import Fitted
from core.catalogue.fit.needs import Needs, Use
from core.catalogue.fit.rules import resources
from core.stock import cheapest
from core.stock.cheapest import Offer, Postage, Want
from core.workshop.upgrades.best import Limits, pays_most
from core.workshop.upgrades.features import read_feature
from tests.core.fit_examples import machine
from tests.core.test_fit_properties import BOARD, sockets, sticks
from tests.core.test_stripdown import a
from tests.core.test_stripdown import machine as box
from tests.core.test_upgrades import buyer, card, part, worth


class InTime(unittest.TestCase):
    def test_none_none_in_time_and_the_best(self):
        model = cp_model.CpModel()
        most = model.new_int_var(0, 5, "most")
        model.maximize(most)
        with self.assertRaisesRegex(solving.NotInTime, "No plan was found in time. That doesn’t say there is none."):
            solving.solve(model, 0, "plan")
        found = solving.solve(model, 5)
        self.assertEqual((found.value(most), found.bound, found.proven), (5, 5, True))
        model.add(most > 5)
        with self.assertRaises(solving.NoAnswer):
            solving.solve(model, 5)

    def test_jumpers_clash_or_nobody_knows_yet(self):
        fitted = tuple(Fitted(f"card {n}", Needs(uses=(Use("J1", irq=(5,), now="5"),))) for n in range(2))
        there = machine().__class__(machine().offers, fitted)
        with self.assertRaises(Impossible):
            assign(there, uses_of(there))
        with self.assertRaises(solving.NotInTime):
            assign(there, uses_of(there), seconds=0)

    def test_a_card_that_nothing_is_free_for_is_not_refused_for_want_of_time(self):
        taken = Fitted("card", Needs(uses=(Use("J1", irq=(5, 7), now="5"),)))
        there = machine().__class__(machine().offers, (taken,))
        one = Needs(uses=(Use("J1", irq=(5,), now="5"),))
        with patch("core.catalogue.fit.rules.resources.assign", side_effect=solving.NotInTime("set of jumpers")):
            (said,) = resources.resources(there, one)
        self.assertEqual(said.answer, Answer.UNKNOWN)
        self.assertIn("doesn’t say there is none", said.so)
        (said,) = resources.resources(there, one)
        self.assertEqual((said.answer, said.does), (Answer.WITH, "card: J1 to 7"))

    def test_a_filling(self):
        with self.assertRaisesRegex(CannotFill, "No filling was found in time"):
            fill(BOARD, sockets(2, 2), sticks([(2**20, "K4")] * 2), seconds=0)
        self.assertTrue(fill(BOARD, sockets(2, 2), sticks([(2**20, "K4")] * 2)).proven)

    def test_a_way_in_and_back(self):
        strip = box(a("lid", 1, 1), a("floor", 1, 1), a("board", 1, 1, "lid", "floor"))
        with patch.object(orders, "SECONDS", 0):
            with self.assertRaisesRegex(AssemblyError, "No way was found in time"):
                orders.cheapest(strip, {"board"}, lambda name: 1)
            with self.assertRaisesRegex(AssemblyError, "No way was found in time"):
                orders.on_order(strip, {"lid", "floor", "board"})


class Baskets(unittest.TestCase):
    def test_what_is_missing_may_be_there_all_the_same(self):
        """Without the bound of the first search nobody knows whether less could be missing."""
        asked = [Want("x", 2)], [Offer("x", "A", D(3))], {"A": Postage(D(1))}
        whole = cheapest.cheapest(*asked)
        self.assertEqual((whole.missing, whole.least_missing, whole.proven), ({}, True, True))
        real = cheapest._Programme.solve

        def cut_off(self, goal, more, seconds):
            found = real(self, goal, more, seconds)
            if goal is self.lacking:
                found = replace(found, x=found.x + self.lacking, bound=float("-inf"))
            return found

        with patch.object(cheapest._Programme, "solve", cut_off):
            some = cheapest.cheapest(*asked)
        self.assertEqual((some.missing, some.least_missing, some.proven), ({"x": 1}, False, False))


class Upgrades(unittest.TestCase):
    PARTS = (part("Sound card", card(brings="sound"), "10"), part("Net card", card(brings="network"), "10"))

    def test_of_what_it_must_become_as_much_as_can_be_and_of_that_what_leaves_most(self):
        musts = [read_feature("sound"), read_feature("network")]
        best = worth(list(self.PARTS)).best(buyer("network: 10 %"), Limits(budget=D(12)), musts)
        self.assertEqual((best.keys, [one.name for one in best.unmet]), (("Net card",), ["sound"]))
        self.assertTrue(best.unmet_proven)

    def test_what_was_not_met_in_time_is_not_said_to_be_impossible(self):
        there, musts = worth(list(self.PARTS)), [read_feature("sound")]
        with patch("core.workshop.upgrades.best._Solving._meet", return_value=False):
            best = there.best(buyer("network: 10 %"), musts=musts)
        self.assertEqual([one.name for one in best.unmet], ["sound"])
        self.assertFalse(best.unmet_proven)
        self.assertFalse(there.best(buyer("sound: 10 %"), musts=musts, seconds=0).unmet_proven)

    def test_who_pays_most_is_only_proven_when_all_were_worked_out(self):
        there = worth(list(self.PARTS))
        some, cut_off = there.best(buyer("sound: 10 %")), there.best(buyer("network: 90 %"), seconds=0)
        self.assertTrue(some.proven)
        best = pays_most([some, cut_off])
        self.assertEqual(best.keys, some.keys)
        self.assertFalse(best.proven)
        self.assertEqual(best.better_by, D(180) - some.left)

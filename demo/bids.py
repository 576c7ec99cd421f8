"""Sales ahead of the Marrowick shop, and what it planned to bid."""

from datetime import datetime, timedelta
from decimal import Decimal

from demo.bank import MODELS
from demo.days import Telling
from stations.buying import plans
from stations.buying.details import PlanDetails, SeenPieces
from stations.buying.models import BidPlan
from stations.common import clock


class Bids(Telling):
    def planned_bids(self) -> None:
        """Three sales ahead: one to take, one to leave, one where everything hangs on a single line."""
        take = (
            ("Halden M2", 2, "powers_on", "chimes", "240"),
            ("Tessaly 64", 4, "untested", "", "95"),
            ("Brisk Luggable 88", 1, "faulty", "no picture", "260"),
            ("Corvane Stack 4", 3, "working", "removed working", "130"),
            ("mixed drives, one crate", 8, "none", "", "30"),
        )
        leave = (
            ("Halden View 12", 5, "dead", "no glow", "85"),
            ("Pellmark Term 220", 3, "parts", "wet cellar", "140"),
            ("loose boards", 20, "none", "", "12"),
        )
        hangs = (
            ("Pellmark prototype in a wooden case", 1, "untested", "belonged to the engineer", "1900"),
            ("Tessaly 48", 3, "working", "", "70"),
            ("box of leads and manuals", 1, "none", "", "25"),
        )
        closes = self.now + timedelta(days=2, hours=2)
        with clock.at(self.now - timedelta(hours=3)):
            for title, supplier, lines, change in (
                ("Customs shed disposal", "Quayside sale room", take, {}),
                ("Flooded cellar of the exchange", "Northferry auctions", leave, {"freight": Decimal(160)}),
                (
                    "Estate of an engineer",
                    "Saltgate clearances",
                    hangs,
                    {"freight": Decimal(20), "lot_rho": Decimal(0)},
                ),
            ):
                self.plan(title, supplier, lines, self.sale(closes, **change))

    def sale(self, closes: datetime | None, **change: Decimal) -> dict:
        """The usual terms of a sale, and what we want of it."""
        usual = {
            "premium_percent": Decimal(18),
            "freight": Decimal(45),
            "fee_percent": Decimal(8),
            "lot_rho": Decimal(5),
            "target_margin": Decimal(20),
            "loss_limit": Decimal(20),
            "target_hourly": Decimal(6),
        }
        return {"closes_at": closes, "currency": "EUR", "rate": Decimal(1)} | usual | change

    def plan(self, title: str, supplier: str, lines, terms: dict) -> BidPlan:
        """A plan with its lines: (model or words, how many, claim, words, what a working one sells for)."""
        plan = plans.plan_bid(self.runa, PlanDetails(title, supplier, **terms))
        for name, count, claim, words, worth in lines:
            model = next((m for m in MODELS if f"{m.maker} {m.name}" == name), None)
            seen = SeenPieces(
                description=name,
                quantity=count,
                form_factor=model.form_factor if model else "drive" if "drive" in name else "board",
                claim=claim,
                claim_words=words,
                worth=Decimal(worth),
            )
            plans.add_line(self.runa, plan, seen)
        return plan

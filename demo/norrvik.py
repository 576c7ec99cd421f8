"""A lot bought in kronor, two luggables and a crate, and with it the whole shop."""

from datetime import timedelta
from decimal import Decimal

from core.buying.landed import Charge, ChargeKind, read_bands
from core.buying.share import Basis
from core.machine.approach import Approach
from demo.lots import Lots
from stations.bench import stops, timers
from stations.intake import capture
from stations.intake import services as intake
from stations.units import read_off


class Shop(Lots):
    def norrvik_crate(self) -> None:
        """Bought in kronor; half unpacked."""
        lot = self.buy(
            5,
            "Two luggables and a crate",
            "Norrvik bruktsal",
            [
                ("Brisk Luggable 88", 2, "powers_on", "lyser, ingen bild", "70.00", "13"),
                ("Tessaly 64", 2, "parts", "", "22.00", "1.8"),
                ("Corvane Video 2", 6, "none", "", "8.00", "0.3"),
            ],
            more=(
                Charge(ChargeKind.PREMIUM, bands=read_bands("18 to 2500; 12")),
                Charge(
                    ChargeKind.FREIGHT, Decimal("48"), currency="EUR", rate=Decimal(1), basis=Basis.WEIGHT, name="ferry"
                ),
                Charge(
                    ChargeKind.OTHER, Decimal("15"), currency="EUR", rate=Decimal(1), basis=Basis.COUNT, name="packing"
                ),
            ),
            currency="SEK",
            rate="0.088",
            price="3900",
        )
        hand = self.hand(self.tobin, 2, "norrvik")
        l1, _, t1, t2, *boards = self.unpack(lot, hand, leave=3, place="table 2")
        l1 = hand.assess(l1, "period", missing=("drive latches",))
        hand.find(l1, "front", "crack", 3, "by the tube, 34 mm")
        hand.find(l1, "top", "yellowing", 2, "right half, sun side", 30)
        hand.find(l1, "left", "scratch", 2, "two, not through the paint")
        hand.find(l1, "front", "missing", 2, "lower drive latch")
        hand.find(l1, "back", "rust", 2, "under the ports, one square centimetre", 10)
        hand.find(l1, "underside", "crack", 1, "foot well", 2)
        hand.photograph(l1)
        for typed, on_what, repair in (("8632", "drive controller, U12", False), ("9115", "display board, Q4", False)):
            hand.do(read_off.keep_fact, l1, "date_code", typed, 0, on_what, repair)
        hand.do(read_off.keep_fact, l1, "memory", "36 x 256K x 1", 0, "main board", False)
        hand.do(read_off.keep_fact, l1, "approval", "D4X-BL88", 0, "type plate", False)
        hand.moment = self.now - timedelta(hours=4)
        hand.do(timers.start, hand.test(l1, stop_at="soak"), "soak")
        hand.measure_colour(
            l1, "top cover", "found", (236, 226, 206), ((226, 205, 158), (222, 199, 150), (230, 214, 176))
        )
        hand.measure_colour(
            l1, "top cover", "after", (236, 226, 206), ((234, 222, 198), (233, 221, 196), (235, 224, 202))
        )
        hand.find(t1, "top", "missing", 2, "three keycaps")
        t1 = hand.assess(t1, "period")
        hand.test(t1, stop_at="fn-picture")
        hand.do(stops.stop, t1, "smell", "hot varnish, near the regulator", "fn-picture")
        hand.assess(t2, "period")
        hand.do(intake.choose_approach, boards[0], Approach.DONOR, "")
        owned = capture.Ownership(
            "consigned",
            "E. Norr, Norrvik",
            "sold for her, paid at month’s end",
            refused_work="no soldering",
            commission_percent=Decimal(25),
        )
        hand.do(capture.set_ownership, boards[1], owned)

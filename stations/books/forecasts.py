"""Plans whose lots are closed, set against what came of them."""

from core.books.held import Came, held
from core.buying.calibration import LOOK_BACK
from core.money import ZERO
from stations.buying.forecasts import calibration, closed_plans
from stations.buying.models import BidPlan

# The picture of a lot: its band from LEFT to RIGHT, and as much beside it for what came outside.
LEFT, RIGHT, WIDTH = 60.0, 240.0, 300.0


def page() -> dict:
    """The newest closed lots that were planned, whether each came within its band, and what is learned of them: a
    number of queries that does not grow with them."""
    plans = (
        BidPlan.objects.filter(status=BidPlan.Status.BOUGHT, forecast_low__isnull=False)
        .select_related("lot")
        .order_by("-decided_at")[:LOOK_BACK]
    )
    rows: list[dict] = []
    came: list[Came] = []
    for closed in closed_plans(list(plans)):
        one = Came(closed.plan.forecast_low or ZERO, closed.plan.forecast_high or ZERO, closed.left.after_tax)
        came.append(one)
        rows.append({"plan": closed.plan, "came": one, "x": _across(one.place)})
    return {"rows": rows, "held": held(came), "known": calibration(), "looked_back": LOOK_BACK}


def _across(place: float) -> float:
    """Where what came is marked; what lies far outside at the edge."""
    return round(min(max(LEFT + place * (RIGHT - LEFT), 6.0), WIDTH - 6.0), 1)

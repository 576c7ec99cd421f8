"""What the intake table reads."""

from stations.buying.models import LotLine


def lines_to_receive():
    """Lot lines with pieces not yet received, oldest lot first."""
    return LotLine.objects.to_come().select_related("lot").order_by("lot__number", "position")

"""What the intake table reads."""

from django.db.models import F

from stations.buying.models import LotLine


def lines_to_receive():
    """Lot lines with pieces not yet received, oldest lot first."""
    return LotLine.objects.filter(received__lt=F("quantity")).select_related("lot").order_by("lot__number", "position")

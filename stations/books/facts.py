"""What books tells earlier rooms: which unit is taxed by itself."""

from stations.books.models import TakenOutOfGlobal
from stations.selling.services import taxed_by_item
from stations.units.models import Unit


@taxed_by_item.add("books")
def taken_out(unit: Unit) -> bool:
    return TakenOutOfGlobal.objects.filter(unit=unit).exists()

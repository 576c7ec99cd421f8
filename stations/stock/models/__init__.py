from stations.stock.models.drawers import CONDITIONS, MEASURES, Design, KnownGood, StockCount, StockItem, StockPurchase
from stations.stock.models.orders import OrderLine, PartOffer, PartOrder, PartSeller

__all__ = [
    "CONDITIONS",
    "MEASURES",
    "Design",
    "KnownGood",
    "OrderLine",
    "PartOffer",
    "PartOrder",
    "PartSeller",
    "StockCount",
    "StockItem",
    "StockPurchase",
]

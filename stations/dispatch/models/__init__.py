"""Terms, receipts, parcels with their boxes and carriers, returns, what the bank says."""

from stations.dispatch.models.bank import BankBooking, BankFile, BankLine, BankTable
from stations.dispatch.models.owners import OwnerPayment
from stations.dispatch.models.parcels import (
    BoxSize,
    Carrier,
    CarrierBand,
    Parcel,
    ParcelItem,
    ParcelPhoto,
    tariff_of,
)
from stations.dispatch.models.receipts import Receipt, ReceiptLine, ReceiptSeries
from stations.dispatch.models.returns import Refund, Return
from stations.dispatch.models.terms import SaleTerms

__all__ = [
    "BankBooking",
    "BankFile",
    "BankLine",
    "BankTable",
    "BoxSize",
    "Carrier",
    "CarrierBand",
    "OwnerPayment",
    "Parcel",
    "ParcelItem",
    "ParcelPhoto",
    "Receipt",
    "ReceiptLine",
    "ReceiptSeries",
    "Refund",
    "Return",
    "SaleTerms",
    "tariff_of",
]

"""Trades whose truth is known: how their suppliers, families and lines turn out."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Trade:
    """How far the true table lies from the one we begin with, how far families and suppliers lie apart (standard
    deviations of log odds), how alike the pieces of a line are (a correlation), and what share of suppliers say more
    than they have."""

    name: str
    table_off: float
    families: float
    suppliers: float
    line_rho: float
    liars: float = 0.0


TRADES = (
    Trade("calm", 0.3, 0.25, 0.5, 0.10),
    Trade("rough", 0.7, 0.4, 0.9, 0.25),
    Trade("a few liars", 0.4, 0.3, 0.5, 0.15, liars=0.12),
    Trade("far apart", 0.5, 0.9, 0.8, 0.15),
)
SUPPLIERS, FAMILIES = 16, 4
CLAIM = "untested"


def moved(share: float, by: float) -> float:
    odds = share / (1 - share) * np.exp(by)
    return float(odds / (1 + odds))

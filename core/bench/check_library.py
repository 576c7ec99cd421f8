"""The check library: every check the shop knows, in the order of the gates: first those without power."""

from core.bench.checks import Check
from core.bench.checks_powered import POWERED
from core.bench.checks_unpowered import UNPOWERED

LIBRARY: tuple[Check, ...] = (*UNPOWERED, *POWERED)

"""The rules: each module registers its own."""

from core.catalogue.fit.answers import Verdict
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.rules import care, drives, memory, outside, power, processors, resources, slots
from core.catalogue.fit.rules.register import RULES, Rule, rule

__all__ = ["RULES", "Rule", "judge", "rule"]
_MODULES = (slots, processors, memory, drives, power, resources, outside, care)


def judge(machine: Machine, part: Needs) -> Verdict:
    """What every rule says of a part on a machine. The part is not in it yet."""
    return Verdict(tuple(finding for one in RULES.values() for finding in one.says(machine, part)))

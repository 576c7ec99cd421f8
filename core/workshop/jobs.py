"""Which work an approach allows, and what has to be tested again after it."""

from core.catalogue.recipes import JobKind
from core.machine.approach import Approach

# After these the machine is no longer the one that was tested.
# Of a job nobody estimated. Common practice, no source.
USUAL_MINUTES = 20
NEEDS_RETEST = {JobKind.REPAIR, JobKind.RECONDITION, JobKind.UPGRADE}


def refusal(approach: Approach, kind: JobKind, reversible: bool | None, visible_modern_part: bool) -> str:
    """Why this approach does not allow the job; empty when it does. An owner may override with a reason.

    `reversible` is None while nobody has said whether it can be undone: conserving refuses what is not stated.
    """
    if approach is Approach.CONSERVE and reversible is None:
        return "Conserve: only work that can be undone. Say whether this can be."
    if approach is Approach.CONSERVE and (kind is JobKind.UPGRADE or not reversible):
        return "Conserve: only work that can be undone, and no modification."
    if approach is Approach.PERIOD and visible_modern_part:
        return "Period-correct: modern parts only out of sight."
    if approach is Approach.DONOR and kind is JobKind.UPGRADE:
        return "A donor is worth more in parts; it is not upgraded."
    return ""

"""Marks of the bench: a glyph, its class and its words for what a step, a reading or a fix has come to."""

from django import template
from django.utils.html import format_html

from core.bench.assurance import Fix
from core.bench.plan import StepState
from core.bench.verdict import Verdict
from stations.common.templatetags.shell import glyph, mark

register = template.Library()

_STEP = {
    StepState.PASSED: "pass",
    StepState.FAILED: "fail",
    StepState.SKIPPED: "skip",
    StepState.WAIVED: "skip",
    StepState.NOW: "now",
    StepState.TO_DO: "todo",
    StepState.LOCKED: "lock",
    StepState.LEFT: "todo",
}
_VERDICT = {
    Verdict.INSIDE: ("st--ok", "pass"),
    Verdict.OUTSIDE: ("st--hold", "fail"),
    Verdict.TOO_CLOSE: ("st--info", "stuck"),
}
_FIX = {Fix.FAILED: "verdict--bad", Fix.PROVISIONAL: "verdict--decide"}


@register.simple_tag
def step_mark(state: StepState):
    """Where a step of a run stands."""
    return mark(_STEP[state], state.label)


@register.simple_tag
def verdict_mark(verdict: Verdict, words: str = ""):
    """What a reading says, in the words given or the verdict's own."""
    style, sign = _VERDICT[verdict]
    return format_html('<span class="st {}">{}{}</span>', style, glyph(sign, "g--l"), words or verdict.label)


@register.filter
def fix_style(fix: Fix) -> str:
    """The class of a verdict about a fix: still wanted, failed, or none for one that holds."""
    return _FIX.get(fix, "")

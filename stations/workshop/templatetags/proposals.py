"""Marks of jobs: how a step of a recipe stands, and what a proposal adds, in words."""

from django import template
from django.utils.html import format_html

from core.catalogue.recipes import Step
from core.safety import said
from stations.common.currency import priced
from stations.common.templatetags.figures import duration, money, signed_money
from stations.common.templatetags.shell import mark
from stations.workshop.models import Job
from stations.workshop.proposals import Offered, Proposals
from stations.workshop.recipe_run import StepOfJob, steps_of_job
from stations.workshop.table import Running

register = template.Library()


@register.simple_tag
def job_step_mark(one: StepOfJob, now: StepOfJob | None):
    """How a step of a recipe stands."""
    if one.row is not None and one.row.left_out:
        return mark("skipto", "left out")
    if one.settled:
        return mark("fail", "done, outside its limits") if one.outside else mark("pass", "done")
    if one.runs:
        return mark("clock", "runs by itself")
    return mark("now", "in hand") if now is not None and one.index == now.index else mark("todo", "to do")


@register.inclusion_tag("shell/cautions.html")
def step_cautions(step: Step):
    """What can hurt at a step of a recipe: the usual cautions, and its own."""
    return {"cautions": (*said(step.hazards), *([step.caution] if step.caution else []))}


@register.simple_tag
def best_set_said(proposals: Proposals):
    """The set that leaves most, in a sentence."""
    best = proposals.best
    assert best.now is not None
    now = f"It is {_a(best.now.grade)} now, about {priced(money(best.now.likely))}{best.now.caveat}."
    if not proposals.chosen:
        none = (
            "No job leaves more than it takes."
            if best.exact
            else "No set of jobs was found that leaves more than it takes."
        )
        return format_html("<b>{}</b> {}", none, now)
    said_ = "Best set" if best.exact else "Best set found, not proven to be the best"
    adds, count = best.set_adds, len(proposals.chosen)
    leads = f"{_a(best.leads_to.grade)}" if best.leads_to else "not known"
    return format_html(
        "<b>{}: {} of {}, {}</b> after parts and {} of hands. {} Done, it is {}.",
        said_,
        count,
        len(proposals.chosen) + len(proposals.others),
        signed_money(adds.whole),
        duration(adds.minutes),
        now,
        leads,
    )


def _a(grade: str) -> str:
    return f"grade {grade}" if len(grade) == 1 else grade


@register.simple_tag
def adds_said(one: Offered, proposals: Proposals):
    """What a proposal adds by itself, term by term."""
    weighed, own = one.weighed, one.proposal
    if weighed is None or weighed.alone is None:
        if own.parts is None:
            return f"{duration(own.minutes)} of hands; what its parts cost is not known, so it is not weighed"
        return f"{duration(own.minutes)} of hands; what it changes of the price can’t be said"
    adds, now = weighed.alone, proposals.best.now
    leads = weighed.leads_to
    lifts = f"{_a(now.grade)} to {_a(leads.grade)}: " if now and leads and leads.grade != now.grade else ""
    terms = [
        f"{lifts}{signed_money(adds.gain)} expected, works {one.chance_in_100} times in 100",
        f"{priced(money(adds.parts))} of parts" if adds.parts else "",
        f"{duration(adds.minutes)} at {priced(money(proposals.hourly))} an hour"
        + (f", {adds.opening} of them the way in and back" if adds.opening else ""),
        f"{priced(money(adds.breakage))} for what may break" if adds.breakage else "",
    ]
    words = "; ".join(filter(None, terms))
    if weighed.only_with:
        return format_html("{}. <b>Only pays together with: {}</b>", words, "; ".join(weighed.only_with))
    return words


@register.simple_tag
def adds_figure(one: Offered, chosen: bool):
    """What it adds: within the best set, or by itself."""
    if one.weighed is None or one.weighed.alone is None:
        return format_html('<span class="n soft">{}</span>', "not known")
    figure = one.weighed.with_rest if chosen and one.weighed.with_rest is not None else one.weighed.alone.whole
    where = "in the set" if chosen else "by itself"
    return format_html(
        '<span class="n"><b class="mono">{}</b><br><span class="small soft">{}</span></span>',
        signed_money(figure),
        where,
    )


@register.simple_tag
def time_gone(one: Running):
    """How much of the time that runs by itself is gone: solid gone, dotted to come."""
    gone = round(160 * one.share)
    return format_html(
        '<svg class="time-gone" width="160" height="10" viewBox="0 0 160 10" role="img" '
        'aria-label="{} in 100 of its time">'
        '<path class="gone" d="M0 5h{}"/><path class="to-come" d="M{} 5H160"/></svg>',
        round(100 * one.share),
        gone,
        gone,
    )


@register.inclusion_tag("workshop/_treatment_steps.html")
def treatment_steps(job: Job):
    """Each step of a job’s recipe as it was done, or why it was not."""
    return {"steps": steps_of_job(job)}

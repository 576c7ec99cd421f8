"""Marks of upgrades: what one adds for a buyer as a bar, a set in a sentence, what an approach says."""

from decimal import Decimal

from django import template
from django.utils.html import format_html, format_html_join

from core.catalogue.fit.answers import listed
from core.workshop.upgrades.best import UpgradeSet
from stations.common.currency import priced
from stations.common.templatetags.figures import duration, money, plain, whole
from stations.workshop.upgrade_drawing import Scale
from stations.workshop.upgrades import Unmet, Why

register = template.Library()


@register.simple_tag
def adds_bar(amount: Decimal | None, words: str, scale: Scale, chosen: bool = False):
    """What an upgrade adds for one buyer, from zero on the scale of the table; in words where there is no bar."""
    said = whole(abs(amount)) if amount else words
    zero = f"{scale.zero:.1f}"
    after = scale.zero + 5
    if not amount:
        return format_html(
            '<svg class="adds" viewBox="0 0 96 22" role="img" aria-label="{}"><path d="M{} 0v22" class="adds-zero"/>'
            '<text x="{}" y="15.5" class="adds-words">{}</text></svg>',
            said,
            zero,
            f"{after:.1f}",
            said,
        )
    start, wide = scale.bar(amount)
    sign = "−" if amount < 0 else "+"
    after = max(scale.zero, start + wide) + 5
    return format_html(
        '<svg class="adds {}" viewBox="0 0 96 22" role="img" aria-label="{}{}"><path d="M{} 0v22" class="adds-zero"/>'
        '<rect x="{}" y="5" width="{}" height="12" fill="url(#{})" stroke-width="{}"/>'
        '<text x="{}" y="15.5" class="mono">{}{}</text></svg>',
        "adds--loss" if amount < 0 else "adds--gain",
        sign,
        priced(said),
        zero,
        f"{start:.1f}",
        f"{wide:.1f}",
        "p-out" if amount < 0 else "p-come",
        "2" if chosen else "1.2",
        f"{after:.1f}",
        sign,
        said,
    )


@register.simple_tag
def set_said(best: UpgradeSet, price: Decimal, caveat: str, chosen: bool = False):
    """The set that leaves most, in a sentence; or that nothing pays. `caveat` is of the price; `chosen`: the buyer was,
    else it is who pays most."""
    if not best.chosen and not best.proven:
        return format_html(
            "<b>No set that pays was found in time</b>: one may leave {} at most. As it stands it should fetch {}{}.",
            priced(money(best.better_by)),
            priced(whole(price)),
            caveat,
        )
    if not best.chosen:
        return format_html(
            "<b>No upgrade adds more than it costs</b> for {}. As it stands it should fetch {}{}.",
            f"this buyer ({best.buyer.name.lower()})" if chosen else "any buyer",
            priced(whole(price)),
            caveat,
        )
    names = listed(one.candidate.name for one in best.chosen)
    left = priced(money(abs(best.left)))
    kept = f"{left} left over" if best.left >= 0 else f"it costs {left} more than it adds"
    return format_html(
        "<b>{}</b> {} {} for {} and {}: <b>{}</b>. {} With it, it should fetch {} for {}{}.",
        names,
        "adds" if len(best.chosen) == 1 else "add",
        priced(money(best.adds)),
        priced(money(best.parts)),
        duration(best.minutes),
        kept,
        proven(best),
        priced(whole(price + best.adds)),
        best.buyer.name.lower(),
        caveat,
    )


@register.filter
def proven(best: UpgradeSet) -> str:
    """How sure it is that there is no better set."""
    if best.proven:
        return "Proven best of all that fit together."
    return f"Still proving, at most {priced(money(best.better_by))} better."


@register.simple_tag
def unmet_said(one: Unmet) -> str:
    """Why a machine does not become what was asked."""
    if one.why is Why.IN_TIME:
        return f"{one.feature}: no set with it was found in time; there may be one."
    if one.why is Why.TOGETHER:
        return f"{one.feature}: there is something that brings it, though not with all the rest and within the limits."
    would = f"; these would: {'; '.join(one.would)}" if one.would else ""
    return f"{one.feature}: nothing that is to be had and known to fit brings it{would}."


@register.simple_tag
def only_with_said(names):
    """What an upgrade pays with, and not without."""
    return format_html("only together with {}", format_html_join(" and ", "<b>{}</b>", ((name,) for name in names)))


@register.filter
def money_or_not(amount: Decimal | None) -> str:
    """An amount, or that nobody knows it."""
    return "not known" if amount is None else money(amount)


@register.filter
def adds_words(amount: Decimal | None) -> str:
    """+66, −12, nothing, not known."""
    if amount is None:
        return "not known"
    if not amount:
        return "nothing"
    return f"{'−' if amount < 0 else '+'}{money(abs(amount))}"


@register.filter
def gain_or_loss(amount: Decimal | None) -> str:
    """The class of an amount."""
    return "" if not amount else "gain" if amount > 0 else "loss"


@register.filter
def signed_plain(amount: Decimal) -> str:
    """+22, −12.5."""
    return f"{'−' if amount < 0 else '+'}{plain(abs(amount))}"


@register.filter
def under(allowed, approach):
    """What one approach says."""
    return next(one for one in allowed if one.approach is approach)


@register.filter
def for_buyer(prices, buyer):
    """What it is for one buyer."""
    return next(one for one in prices if one.buyer.code == buyer.code)

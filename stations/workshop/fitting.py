"""Trying a part on a unit: held for a job, set so that nothing clashes, its questions answered."""

from dataclasses import dataclass, replace
from decimal import Decimal

from django.db import transaction

from core.catalogue.fit.answers import Answer, Ask, Side, Verdict
from core.catalogue.fit.assignment import Impossible, Placed, assign, uses_of
from core.catalogue.fit.filling import CannotFill, Filling, Stick, fill, groups
from core.catalogue.fit.halving import Try, find_bad
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Module
from core.catalogue.recipes import JobKind
from core.workshop.settings import SettingKind
from stations.catalogue import fit_sheets
from stations.catalogue.models import PartSheet
from stations.common.refusals import Refused, within
from stations.people.models import Person
from stations.stock.models import StockItem
from stations.units import fitting
from stations.units.models import Unit
from stations.workshop import issuing, services
from stations.workshop.models import Job, Setting
from stations.workshop.new_job import NewJob
from stations.workshop.settings import SetAs, record_setting


def in_stock(sheet: PartSheet) -> StockItem | None:
    """The drawer of it with a free one, not a faulty one: one query."""
    rows = StockItem.objects.filter(name=sheet.name).exclude(condition="faulty")
    return next((item for item in rows if item.free >= 1), None)


@transaction.atomic
def reserve_for(person: Person, unit: Unit, sheet: PartSheet) -> Job:
    """A job to fit a part, with one of it held. Refused where it does not fit, with why."""
    verdict = fitting.verdict_of(fitting.machine_of(unit), unit, sheet)
    if verdict.answer is Answer.NOT:
        raise Refused(verdict.sentence)
    item = in_stock(sheet)
    if item is None:
        raise Refused(f"No {sheet.name} is free in any drawer.")
    needs = fit_sheets.needs_of(sheet)
    new = NewJob(
        within(f"Fit {sheet.name}", 100, "title"),
        JobKind.UPGRADE.value,
        reversible=all(change.reversible for change in needs.changes or ()),
    )
    job = services.open_job(person, unit, new)
    issuing.reserve(person, job, item, Decimal(1))
    return job


@transaction.atomic
def take_settings(person: Person, unit: Unit, sheet: PartSheet | None = None) -> list[Placed]:
    """Write the proposed assignment into the unit’s sheet of settings: every jumper that moves, of what is in it and of
    the part, if one is tried. Answers those."""
    machine = fitting.machine_of(unit)
    try:
        placed = proposal(machine, sheet)
    except Impossible as problem:
        raise Refused(str(problem)) from problem
    moved = [one for one in placed if one.moved]
    if not moved:
        raise Refused("Nothing has to be moved.")
    for one in moved:
        name = within(f"{one.of} {one.use.name}", 160, "name")
        row = Setting.objects.filter(unit=unit, name=name).first()
        seen = SetAs(
            name=name,
            kind=SettingKind.OTHER.value,
            was=row.was if row else one.use.now or "not known",
            set_to=one.to,
            means=row.means if row else {"irq": "interrupt", "dma": "DMA channel", "io": "addresses"}[one.use.kind],
        )
        record_setting(person, unit, row, row.version if row else 0, seen)
    return moved


def proposal(machine: Machine, sheet: PartSheet | None = None) -> list[Placed]:
    """Every jumper of the cards in it and of a part, with fewest moved. Raises Impossible."""
    needs = fit_sheets.needs_of(sheet) if sheet else Needs()
    return assign(machine, uses_of(machine, needs, sheet.name if sheet else ""))


def jumpers_to_move(machine: Machine, sheet: PartSheet | None = None) -> tuple[list[Placed], str]:
    """What moves in the proposal, and why there is none."""
    try:
        return [one for one in proposal(machine, sheet) if one.moved], ""
    except Impossible as problem:
        return [], str(problem)


def answer(person: Person, unit: Unit, sheet: PartSheet, verdict: Verdict, code: str, typed: str, own: bool) -> Ask:
    """One thing that was not known, said: remembered for the model, or for this very unit (`own`)."""
    ask = next((one for one in verdict.asks if one.code == code), None)
    if ask is None:
        raise Refused("This was answered meanwhile. Look again.")
    if not typed:
        raise Refused(f"Say {ask.what}.", "answer")
    if not ask.key:
        raise Refused("Nothing of this group is known: fill in its sheet.", "answer")
    if ask.side is Side.MACHINE and (own or unit.model is None):
        fitting.answer_unit(person, unit, ask.group, ask.name, ask.key, typed)
    elif ask.side is Side.MACHINE and unit.model:
        fit_sheets.answer_model(person, unit.model, ask.group, ask.name, ask.key, typed)
    elif ask.side is Side.PART or ask.side is Side.FITTED:
        fit_sheets.answer_part(person, ask.of or sheet.name, ask.group, ask.name, ask.key, typed)
    else:
        raise Refused("This is answered elsewhere.")
    return ask


@dataclass(frozen=True)
class MemoryPlan:
    """A filling, or why there is none; which module may be the bad one; the sockets in the order they are filled."""

    filling: Filling | None
    problem: str
    machine: Machine
    sticks: tuple[Stick, ...]
    search: Try | None = None
    in_order: tuple[Module, ...] = ()


def memory_plan(unit: Unit, more: list[PartSheet]) -> MemoryPlan:
    """The modules that are in the unit and those of some sheets, filled in by the rules of its board."""
    machine = fitting.machine_of(unit)
    # As the board writes it, however somebody typed where a module sits.
    names = {socket.name.lower(): socket.name for socket in machine.offers.modules or ()}
    sticks = [
        Stick(str(place), module, names.get(fitted.at.lower(), fitted.at))
        for place, fitted in enumerate(machine.fitted)
        for module in fitted.needs.modules or ()
    ]
    there = len(sticks)
    for sheet in more:
        for module in fit_sheets.needs_of(sheet).modules or ():
            sticks.append(Stick(sheet.name, replace(module, name=sheet.name)))
    board, sockets = machine.board, machine.offers.modules
    if board is None or not sockets:
        problem = "Nobody said which memory sockets it has." if sockets is None else "It has no memory sockets."
        return MemoryPlan(None, problem, machine, tuple(sticks))
    try:
        filling = fill(board, sockets, sticks)
        in_order = tuple(socket for group in groups(board, sockets) for socket in group)
        suspects = {machine.fitted[int(one.key)].at or one.key: one.module for one in sticks[:there]}
        search = (
            find_bad(board, sockets, suspects, {one.key: one.module for one in sticks[there:]}) if suspects else None
        )
    except CannotFill as problem:
        return MemoryPlan(None, str(problem), machine, tuple(sticks))
    return MemoryPlan(filling, "", machine, tuple(sticks), search, in_order)

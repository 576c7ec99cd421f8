"""What a clerk does at the intake table: receive, identify, tick off, map, photograph, decide."""

from collections.abc import Sequence
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Max
from django.dispatch import receiver

from core.bench.checks import MACHINES
from core.buying.odds import Outcome
from core.intake.approach import Approach
from core.intake.casing import FormFactor, faces_of
from core.intake.completeness import USUAL_CONTENTS, Presence
from core.intake.condition import HAZARDOUS
from core.intake.mains import Mains
from core.money import allocate
from stations.buying.models import Lot, LotLine
from stations.buying.plans import turned_out
from stations.buying.sharing import Kept, current_sharing, keepers, shared
from stations.intake import bank, busy, dealt_with, stages
from stations.intake.models import Content, Finding, MachineModel, SerialPattern, Unit, VariantRule
from stations.ledger.models import Account, Kind
from stations.ledger.services import Leg, post, reverse
from stations.people import clock, history, shop
from stations.people.editing import save_versioned
from stations.people.locking import lock_row
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused, within

UNIT = HistoryEntry.Subject.UNIT
# A unit that left keeps its part of the lot’s cost, however the rest is shared again.
KEEPS_ITS_COST = {"sold", "sent", "closed", "scrapped"}


@transaction.atomic
def add_model(person: Person, data: dict, expected: Sequence[bank.Expected]) -> MachineModel:
    """Put a model in the bank, with what belongs with it: (name, weight, what a replacement costs)."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="add a model")
    model = MachineModel.objects.create(**data)
    bank.expect(model, expected)
    return model


@transaction.atomic
def add_pattern(person: Person, data: dict) -> SerialPattern:
    """Add how a maker numbered."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="add to the model bank")
    return SerialPattern.objects.create(**data)


@transaction.atomic
def add_rule(person: Person, data: dict) -> VariantRule:
    """Add what a maker's base number and the next one stand for."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="add to the model bank")
    return VariantRule.objects.create(**data)


@transaction.atomic
def receive(
    person: Person, line: LotLine, count: int, model: MachineModel | None = None, place: str = ""
) -> list[Unit]:
    """Turn `count` pieces of a lot line into units, each with the next tag and its share of the cost."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="receive units")
    line = lock_row(LotLine.objects.select_related("lot"), line)
    if not 1 <= count <= line.outstanding:
        raise Refused(f"{line.outstanding} of {line.quantity} are still to be received.", "count")
    now = clock.now()
    shop.take_turns()
    number = Unit.objects.aggregate(last=Max("number"))["last"] or 100
    units = []
    for offset in range(count):
        units.append(
            Unit(
                number=number + 1 + offset,
                lot=line.lot,
                line=line,
                line_index=line.received + offset,
                title=str(model) if model else line.description,
                owner_name=line.lot.owner_name,
                holding=Unit.Holding.CUSTODY if line.lot.in_custody else Unit.Holding.OWNED,
                place=place,
                received_at=now,
                received_by=person,
                stage_since=now,
                **(_from_model(model) if model else {"form_factor": line_form(line)}),
            )
        )
    for unit in units:
        unit.save()
        _expect(unit, model)
    LotLine.objects.filter(pk=line.pk).update(received=F("received") + count)
    if line.lot.arrived_on is None:
        Lot.objects.filter(pk=line.lot_id).update(arrived_on=clock.today())
    for unit in units:
        history.record(person, UNIT, unit.pk, f"Received from {line.lot.code}, claim: {line.get_claim_display()}")
    _carry_cost(person, line)
    stages.refresh(*units)
    return units


@transaction.atomic
def identify(person: Person, unit: Unit, seen_version: int, changes: dict) -> None:
    """Record what the unit is. A newly chosen model brings its expected contents along."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="identify a unit")
    model, stored = changes.get("model"), Unit.objects.select_related("line", "model").get(pk=unit.pk)
    before = (stored.model_id, stored.title, stored.serial, stored.identified_at)
    if model and model.pk != stored.model_id:
        changes = {**changes, **_by_model(stored, model, changes)}
    save_versioned(unit, seen_version, {**changes, "identified_at": before[3] or clock.now()})
    if model and model.pk != before[0]:
        unit.contents.filter(presence=Presence.UNSEEN).delete()
        _expect(unit, model)
    elif unit.model_id is None and not unit.contents.exists():
        _expect(unit, None)
    # Saved field by field, so only what names the machine goes into its story.
    if before[3] is None or before[:3] != (unit.model_id, unit.title, unit.serial):
        serial = f", serial {unit.serial}" if unit.serial else ""
        history.record(person, UNIT, unit.pk, f"Identified: {unit.title}{serial}")
    stages.refresh(unit)


@transaction.atomic
def tick_contents(person: Person, unit: Unit, presences: dict[int, str], extra: str = "", missing: str = "") -> None:
    """Say of each expected thing whether it is there; `extra` and `missing` add one that nobody expected."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="tick off contents")
    for content in unit.contents.select_for_update():
        said = presences.get(content.pk)
        if said and said != content.presence:
            Content.objects.filter(pk=content.pk).update(presence=Presence(said))
    for name, presence in ((extra, Presence.EXTRA), (missing, Presence.MISSING)):
        if not name:
            continue
        if unit.contents.filter(name=name).exists():
            raise Refused(f"“{name}” is on the list already.", "extra" if presence is Presence.EXTRA else "missing")
        Content.objects.create(unit=unit, name=name, presence=presence)
    history.record(person, UNIT, unit.pk, "Ticked off what came with it")
    stages.refresh(unit)


@transaction.atomic
def add_finding(person: Person, unit: Unit, data: dict) -> Finding:
    """Put a finding on the condition map. An open leak holds the unit until it is resolved."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="record findings")
    if data["face"] not in set(faces_of(FormFactor(unit.form_factor))):
        raise Refused(f"It has no {data['face'] or 'such face'}: it is a {unit.get_form_factor_display()}.", "face")
    finding = Finding.objects.create(unit=unit, seen_at=clock.now(), seen_by=person, **data)
    history.record(person, UNIT, unit.pk, f"Found: {finding}")
    stages.refresh(unit)
    return finding


@transaction.atomic
def change_finding(person: Person, finding: Finding, data: dict) -> None:
    """Put a finding right."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="record findings")
    if data["face"] not in set(faces_of(FormFactor(finding.unit.form_factor))):
        raise Refused(f"A {finding.unit.get_form_factor_display()} has no {data['face']}.", "face")
    Finding.objects.filter(pk=finding.pk).update(**data)
    finding.refresh_from_db()
    history.record(person, UNIT, finding.unit_id, f"Finding put right: {finding}")
    stages.refresh(finding.unit)


@transaction.atomic
def move_finding(person: Person, finding: Finding, face: str, x: float, y: float) -> None:
    require(person, Role.TECHNICIAN, Role.BUYER, to="move findings")
    has = faces_of(FormFactor(finding.unit.form_factor))
    if face not in set(has) or not (0 <= x <= 1 and 0 <= y <= 1):
        raise Refused("That place is off the face.")
    Finding.objects.filter(pk=finding.pk).update(face=face, x=x, y=y)


@transaction.atomic
def settle_finding(person: Person, finding: Finding, status: str, words: str = "", by_job: bool = False) -> None:
    """Resolve a finding, accept it as patina, or open it again; it stays on the map as what was.

    A leak or a swollen cell is settled by what was done: said in words, and shown by a job or a picture since.
    `by_job`: the job that was for it is finished just now; what else goes on does not stand in its way.
    """
    require(person, Role.TECHNICIAN, to="settle findings")
    if status not in Finding.Status.values:
        raise Refused("Resolved, patina or open: say which.")
    status = Finding.Status(status)
    if status == Finding.Status.PATINA and finding.kind in HAZARDOUS:
        raise Refused(f"A {finding.get_kind_display()} is never patina: deal with it, then settle it.")
    if status == Finding.Status.RESOLVED and finding.kind in HAZARDOUS:
        _dealt_with(finding, words, by_job)
    settled = status != Finding.Status.OPEN
    Finding.objects.filter(pk=finding.pk).update(
        status=status,
        settled_words=within(words, 200) if settled else "",
        settled_by=person if settled else None,
        settled_at=clock.now() if settled else None,
    )
    history.record(
        person,
        UNIT,
        finding.unit_id,
        f"{finding.get_kind_display().capitalize()} on the {finding.face}: {status.label}"
        f"{'; ' + words if words and settled else ''}",
    )
    stages.refresh(finding.unit)


def _dealt_with(finding: Finding, words: str, by_job: bool) -> None:
    if not words:
        raise Refused("Say what was done about it.", "words")
    if by_job:
        return
    busy.refuse(finding.unit, "It is not settled while work goes on")
    if not dealt_with.since(finding.unit, finding.seen_at):
        raise Refused(
            "Nothing on record shows that it was dealt with: finish a job on it, or add a picture of it clean.", "words"
        )


@transaction.atomic
def choose_approach(person: Person, unit: Unit, approach: Approach, reason: str) -> None:
    """Choose or change the approach. A change after intake wants a reason; custody allows only conserving."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="choose the approach")
    unit = lock_row(Unit.objects.all(), unit)
    if unit.custody and approach is not Approach.CONSERVE:
        raise Refused(f"It belongs to {unit.owner_name}: only conserving work may be done on it.", "approach")
    if unit.assessed_at and approach.value != unit.approach and not reason:
        raise Refused("Intake is finished: say why the approach changes.", "reason")
    Unit.objects.filter(pk=unit.pk).update(approach=approach.value, approach_reason=reason)
    if approach is Approach.DONOR:
        turned_out(unit.line, unit.number, Outcome.PARTS)
    history.record(person, UNIT, unit.pk, f"Approach: {approach.label}{'; ' + reason if reason else ''}")
    stages.refresh(unit)


@transaction.atomic
def finish_intake(person: Person, unit: Unit) -> None:
    """Hand the unit on. Refused while something is still to be recorded; the refusal names it."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="finish intake")
    unit = lock_row(Unit.objects.all(), unit)
    gaps = stages.facts_of([unit])[unit.pk].intake_gaps
    if gaps:
        raise Refused(f"Still to record: {', '.join(gaps)}.")
    Unit.objects.filter(pk=unit.pk, assessed_at=None).update(assessed_at=clock.now())
    history.record(person, UNIT, unit.pk, "Intake finished")
    stages.refresh(unit)


@transaction.atomic
def looked_over(person: Person, unit: Unit) -> None:
    """Every face was looked over: what was found is all there is to see. Before that nothing is known of its looks."""
    require(person, Role.TECHNICIAN, Role.BUYER, to="look a unit over")
    if Unit.objects.filter(pk=unit.pk, looked_over_at=None).update(looked_over_at=clock.now()):
        count = unit.findings.filter(status=Finding.Status.OPEN).count()
        history.record(person, UNIT, unit.pk, f"Looked all over, {count} findings")
    stages.refresh(unit)


def _from_model(model: MachineModel) -> dict:
    names = ("form_factor", "supply", "battery", "picture_tube", "drives", "keyboard")
    plugs = {"external_ac": Mains.ADAPTER_AC, "external_dc": Mains.ADAPTER_DC}.get(model.supply, Mains.UNKNOWN)
    keeps = False if model.drives == 0 else model.keeps_data
    said = {"model": model, "data_on_board": keeps, "mains_variant": plugs.value}
    return said | {name: getattr(model, name) for name in names}


def _by_model(stored: Unit, model: MachineModel, changes: dict) -> dict:
    """What a newly chosen model says of the unit, where nobody has said otherwise."""
    usual = {**_from_model(model), "title": str(model)}
    old = (
        {**_from_model(stored.model), "title": str(stored.model)}
        if stored.model
        else {"title": stored.line.description}
    )
    return {
        name: value
        for name, value in usual.items()
        if changes.get(name, getattr(stored, name)) == getattr(stored, name)
        and (name != "title" or stored.title in {old["title"], ""})
    }


def line_form(line: LotLine) -> str:
    """The shape of what comes off a line: what the line says, unless it says a machine of what is none."""
    if line.kind in PART_FORMS and line.form_factor in MACHINES:
        return PART_FORMS[line.kind]
    return line.form_factor


# What a line of parts turns out as when its shape was left at a machine's; intake puts it right.
PART_FORMS = {"board": FormFactor.BOARD.value, "part": FormFactor.CARD.value, "media": FormFactor.DRIVE.value}


def _expect(unit: Unit, model: MachineModel | None) -> None:
    """What belongs with it by its model; with a bare part of no model, what is usually looked for on one."""
    there = set(unit.contents.values_list("name", flat=True))
    if model is None:
        usual = USUAL_CONTENTS.get(unit.form_factor, ())
        Content.objects.bulk_create(
            Content(unit=unit, name=name, weight=weight) for name, weight in usual if name not in there
        )
        return
    Content.objects.bulk_create(
        Content(unit=unit, name=item.name, weight=item.weight, estimate=item.estimate)
        for item in model.expected.all()
        if item.name not in there
    )


def _carry_cost(person: Person, line: LotLine) -> None:
    """Move each received unit's part of its line's share onto the unit; an older move is reversed first.

    What is sold or written off keeps what it carries; the rest of the line's share goes over the rest.
    """
    sharing = current_sharing(line.lot)
    share = sharing.shares.filter(line=line).first() if sharing and sharing.posting_id else None
    units = list(line.units.select_related("share_posting").prefetch_related("share_posting__entries"))
    fast = {unit.line_index: _carried(unit) for unit in units if unit.stage in KEEPS_ITS_COST}
    others = [index for index in range(line.quantity) if index not in fast]
    to_share = share.amount - sum(fast.values(), Decimal(0)) if share else Decimal(0)
    parts = dict(zip(others, allocate(to_share, [Decimal(1)] * len(others)), strict=True)) if others else {}
    for unit in units:
        if unit.line_index in fast:
            continue
        amount = parts[unit.line_index]
        if unit.share_posting:
            if _carried(unit) == amount:
                continue
            reverse(person, unit.share_posting, "lot shared again")
        legs = [
            Leg(Account.LINE, line.pk, Kind.TRANSFER, -amount, line.lot_id),
            Leg(Account.UNIT, unit.pk, Kind.TRANSFER, amount, line.lot_id),
        ]
        Unit.objects.filter(pk=unit.pk).update(share_posting=post(person, f"{unit.tag} share of {line.lot.code}", legs))


def _carried(unit: Unit) -> Decimal:
    """What a unit carries of its lot's cost."""
    entries = unit.share_posting.entries.all() if unit.share_posting else ()
    return sum((entry.amount for entry in entries if entry.account == Account.UNIT), Decimal(0))


def _kept(lot: Lot) -> dict[int, Kept]:
    """Sold and written-off units by line: how many, and what they carry."""
    gone = lot.units.filter(stage__in=KEEPS_ITS_COST).select_related("share_posting")
    kept: dict[int, Kept] = {}
    for unit in gone.prefetch_related("share_posting__entries"):
        before = kept.get(unit.line_id, Kept())
        kept[unit.line_id] = Kept(before.pieces + 1, before.carried + _carried(unit))
    return kept


keepers.append(_kept)


@receiver(shared)
def _shared_again(sender, lot: Lot, person: Person, **kwargs) -> None:
    for line in lot.lines.filter(received__gt=0).select_related("lot"):
        _carry_cost(person, line)

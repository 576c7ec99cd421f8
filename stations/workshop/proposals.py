"""What could be done to a unit: from what was found, what failed, what is missing, what caps its grade, what is due."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db.models import F, prefetch_related_objects
from django.urls import reverse

from core.bench.checks import Check, Group
from core.bench.plan import Outcome, hands_on
from core.catalogue.assemblies import StripDown
from core.catalogue.recipes import JobKind, Recipe
from core.flow.facts import BenchFlow
from core.flow.stage import GONE
from core.intake.completeness import Presence
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.machine.names import as_seen
from core.stock.parts import Condition
from core.workshop.chances import plan_passes
from core.workshop.jobs import NEEDS_RETEST
from core.workshop.matching import Treated, for_check, for_finding, place_of, why_not
from core.workshop.proposals import Best, Proposal, Weighed, best_set, opening_for
from core.workshop.worth import NOTHING, Appraisal, Changes
from stations.bench.facts import bench_flow
from stations.bench.models import StepResult, TestRun
from stations.bench.services import latest, steps_of
from stations.catalogue.recipes import recipes
from stations.common.typed import whole_number
from stations.people import shop_settings
from stations.stock.models import StockItem
from stations.stock.selectors import stock_with_value
from stations.units.as_it_is import fails_in
from stations.units.models import Content, Finding, Unit
from stations.units.paths import gained_share
from stations.workshop import learned, strip_downs
from stations.workshop.due import due_of
from stations.workshop.models import Job, Opening
from stations.workshop.recipe_record import RecipeRecord, recipe_record, runs_again
from stations.workshop.standing import workshop_flow
from stations.workshop.worth import appraisal_of

# Minutes to fit a thing that is at hand, and to mend what no recipe is for. Common practice, no source.
FIT_MINUTES, MEND_MINUTES = 10, 60


@dataclass(frozen=True)
class Offered:
    """A proposal as a page shows it: why, with which recipe, and what it becomes when it is opened."""

    proposal: Proposal
    why: str
    kind: JobKind
    recipe: Recipe | None = None
    finding: Finding | None = None
    job: Job | None = None
    page: str = ""
    weighed: Weighed | None = None

    @property
    def key(self) -> str:
        return self.proposal.key

    @property
    def missing(self) -> int | None:
        """The missing thing it is about, by its number."""
        what, _, number = self.key.partition(":")
        return whole_number(number) if what == "content" else None

    @property
    def chance_in_100(self) -> int:
        return round(100 * self.proposal.chance)


@dataclass(frozen=True)
class Proposals:
    """What is worth doing to a unit, by its `appraisal` (None where nobody can say what it fetches). `unpriced` would
    change something where nothing can be compared, `unweighed` falls due or has parts nobody priced; `refused` are
    those its approach does not allow, with why."""

    best: Best
    chosen: tuple[Offered, ...] = ()
    others: tuple[Offered, ...] = ()
    unpriced: tuple[Offered, ...] = ()
    unweighed: tuple[Offered, ...] = ()
    refused: tuple[tuple[str, str], ...] = ()
    hourly: Decimal = Decimal(0)
    appraisal: Appraisal | None = None

    @property
    def all(self) -> tuple[Offered, ...]:
        return (*self.chosen, *self.others, *self.unpriced, *self.unweighed)

    @property
    def to_open(self) -> tuple[Offered, ...]:
        """Of the best set, what becomes a job by a press."""
        return tuple(one for one in self.chosen if not one.job and not one.page)

    def __len__(self) -> int:
        return len(self.all)

    def get(self, key: str) -> Offered | None:
        return next((offered for offered in self.all if offered.key == key), None)


def proposals_of(unit: Unit) -> Proposals:
    """Gathered and weighed, in a number of queries that does not grow with what is found."""
    if unit.assessed_at is None or unit.stage in GONE or unit.stage == "listed":
        return Proposals(Best(None))
    # Read once for all that ask, those who know the market among them.
    prefetch_related_objects([unit], "contents", "findings", "jobs__issues", "jobs__labour")
    gathering = _Gathering(unit)
    offered = list(gathering.all())
    appraisal = appraisal_of(unit)
    settings = shop_settings.settings()
    if appraisal is None or appraisal.at(NOTHING) is None:
        unpriced = tuple(one for one in offered if one.proposal.weighed)
        others = tuple(one for one in offered if not one.proposal.weighed)
        refused = tuple(gathering.refused)
        return Proposals(
            Best(None),
            unpriced=unpriced,
            unweighed=others,
            refused=refused,
            hourly=settings.labour_rate,
            appraisal=appraisal,
        )
    proposals = [one.proposal for one in offered]
    opened = Opening.objects.filter(open_for=unit).first()
    off, targets = _reached(opened, gathering.strip)
    by = learned.known(unit, gathering.strip)
    opening = opening_for(proposals, by.strip, by.costs, off, targets)
    best = best_set(proposals, appraisal, settings.labour_rate, opening, gained_share(unit))
    by_key = {one.key: one for one in offered}
    found = [replace(by_key[one.proposal.key], weighed=one) for one in best.proposals]
    chosen = tuple(one for one in found if one.key in best.chosen)
    others = tuple(one for one in found if one.key not in best.chosen and one.weighed and one.weighed.alone)
    unweighed = tuple(one for one in found if one.weighed is None or one.weighed.alone is None)
    refused = tuple(gathering.refused)
    return Proposals(best, chosen, others, (), unweighed, refused, settings.labour_rate, appraisal)


def _reached(opened: Opening | None, strip: StripDown) -> tuple[list[str], list[str]]:
    """What is off, and what is to be reached anyway, on a machine that stands open."""
    if opened is None:
        return [], []
    off = [row.name for row in opened.assemblies.all() if row.is_off and row.name in strip.assemblies]
    return off, [] if opened.going_back else [name for name in opened.targets if name in strip.assemblies]


class _Gathering:
    """All that could be done to one unit."""

    def __init__(self, unit: Unit) -> None:
        self.unit = unit
        self.strip = strip_downs.strip_down_as_read(unit)
        self.recipes = recipes()
        self.record: RecipeRecord = recipe_record()
        approach = Approach(unit.approach) if unit.approach else None
        self.treated = Treated(FormFactor(unit.form_factor), approach)
        self.findings = {f.pk: f for f in unit.findings.all() if f.is_open}
        self.contents = list(unit.contents.all())
        self.jobs = list(unit.jobs.all())
        # A finding that was worked on, and nobody said yet with what success, is not proposed again either.
        self.at_work = {job.source for job in self.jobs if job.is_open} | {
            f"finding:{job.finding_id}" for job in self.jobs if job.is_open or job.unsaid
        }
        self.refused: list[tuple[str, str]] = []
        self.mended = bool(bench_flow([unit]).get(unit.pk, BenchFlow()).mended)

    def all(self) -> Iterator[Offered]:
        failed, run = self._failed()
        missing = list(self._missing())
        found = [
            *self._open_jobs({offered.key: offered.proposal.parts for offered in missing}),
            *self._findings(),
            *(self._failed_check(check) for check in failed),
            *self._faults(),
            *missing,
            *self._temporary(),
        ]
        found = [offered for offered in found if offered.key not in self.at_work]
        yield from found
        if run is not None and (run.finished_at is None or self._unproven(found)):
            yield self._test_plan(run, self.results)
        yield from self._not_gone_through()
        there = {offered.recipe.code for offered in found if offered.recipe}
        yield from self._known_to_fail()
        yield from (offered for offered in self._due() if offered.recipe and offered.recipe.code not in there)

    def _unproven(self, found: list[Offered]) -> bool:
        """Something was or would be changed since it was tested."""
        flow = workshop_flow([self.unit]).get(self.unit.pk)
        worked_on = self.mended or bool(flow and flow.not_proven)
        return worked_on or any(one.proposal.changes.worked for one in found)

    def _offered(self, key: str, recipe: Recipe | None, why: str, changes: Changes, **given) -> Offered:
        """A proposal by its recipe, or as somebody would do it without."""
        kind = recipe.kind if recipe else given.pop("kind")
        minutes = self.record.minutes(recipe) if recipe else given.pop("minutes")
        title = given.pop("title", None) or (recipe.title if recipe else "")
        proposal = Proposal(
            key,
            title,
            minutes,
            replace(changes, worked=_works(kind) and not changes.tested) if changes.any else changes,
            given.pop("parts", Decimal(0)),
            given.pop("chance", None) or self.record.chance(kind, recipe),
            place_of(recipe, self.strip) if recipe else given.pop("place", ""),
        )
        return Offered(proposal, why, kind, recipe, **given)

    def _fittest(self, found: tuple[Recipe, ...], why: str) -> Recipe | None:
        """The first that the approach allows; without one, what it refuses is kept to be said."""
        allowed = next((recipe for recipe in found if not why_not(recipe, self.treated)), None)
        if allowed is None and found:
            self.refused.append((f"{found[0].title}: {why}", why_not(found[0], self.treated)))
        return allowed

    def _open_jobs(self, parts: Mapping[str, Decimal | None]) -> Iterator[Offered]:
        """Jobs that are open already, with what is left of them; `parts` are to be paid by what they answer to, until
        some are issued."""
        for job in self.jobs:
            if not job.is_open:
                continue
            kind = JobKind(job.kind)
            recipe = self.recipes.get(job.recipe)
            spent = sum(entry.minutes for entry in job.labour.all())
            changes = changes_of(job)
            proposal = Proposal(
                f"job:{job.pk}",
                job.title,
                max(1, job.estimate_minutes - spent),
                replace(changes, worked=_works(kind)) if changes.any else changes,
                Decimal(0) if job.issues.all() else parts.get(job.source, Decimal(0)),
                self.record.chance(kind, recipe),
                job.assembly,
            )
            yield Offered(proposal, "open", kind, recipe, job=job)

    def _findings(self) -> Iterator[Offered]:
        for finding in self.findings.values():
            found = for_finding(
                self.recipes.values(), self.treated, finding.kind, finding.extent_percent, finding.words
            )
            recipe = self._fittest(found, str(finding))
            if recipe:
                changes = Changes(findings=frozenset({finding.pk}))
                yield self._offered(f"finding:{finding.pk}", recipe, str(finding), changes, finding=finding)

    def _failed(self) -> tuple[list[Check], TestRun | None]:
        """What failed in the newest run and was not worked on since, and that run."""
        run = self.unit.runs.order_by("-number").first()
        if run is None:
            return [], None
        self.results = results = latest(run)
        failed = {code for code, result in results.items() if result.outcome == Outcome.FAIL}
        # What makes it safe to work on is done, not mended: it has its place at the bench.
        checks = [step.check for step in steps_of(run, results) if step.check.group is not Group.SAFE]
        if self.mended:
            return [], run
        tested = run.finished_at
        done = {job.source for job in self.jobs if job.was_done and job.done_at and tested and job.done_at > tested}
        return [check for check in checks if check.code in failed and f"check:{check.code}" not in done], run

    def _failed_check(self, check: Check) -> Offered:
        why = f"failed: {check.title}"
        found = for_check(self.recipes.values(), self.treated, check.group.value, f"{check.title} {check.code}")
        recipe = self._fittest(found, why)
        key, changes = f"check:{check.code}", Changes(passed=frozenset({check.code}))
        if recipe:
            return self._offered(key, recipe, why, changes)
        title = f"Find and mend: {check.title[:1].lower()}{check.title[1:]}"
        return self._offered(key, None, why, changes, kind=JobKind.REPAIR, minutes=MEND_MINUTES, title=title[:100])

    def _faults(self) -> Iterator[Offered]:
        """Faults that are looked for at the bench: nothing is proven before they are found."""
        for case in self.unit.faults.filter(closed_at=None):
            why = f"a fault is looked for: {case.get_symptom_display()}"
            yield self._offered(
                f"fault:{case.pk}",
                None,
                why,
                Changes(faults=frozenset({case.pk})),
                kind=JobKind.REPAIR,
                minutes=MEND_MINUTES,
                title=f"Find and mend: {case.get_symptom_display()}"[:100],
                page=reverse("bench:fault", args=[self.unit.number]),
            )

    def _not_gone_through(self) -> Iterator[Offered]:
        """What caps the grade because nobody went through it: what will be found there nobody can say."""
        page = reverse("intake:unit", args=[self.unit.number])
        if any(content.presence == Presence.UNSEEN for content in self.contents):
            title = "Tick off what came with it"
            yield self._offered(
                "unseen",
                None,
                "its completeness is not known",
                Changes(),
                kind=JobKind.CLEAN,
                minutes=5,
                title=title,
                page=page,
            )
        if self.unit.looked_over_at is None:
            title = "Look it over on every face"
            yield self._offered(
                "looks",
                None,
                "its looks are not known",
                Changes(),
                kind=JobKind.CLEAN,
                minutes=10,
                title=title,
                page=page,
            )

    def _missing(self) -> Iterator[Offered]:
        wanted = [c for c in self.contents if c.presence in _TO_FIT and not c.done_without]
        if not wanted:
            return
        stock = {as_seen(item.name): (item, each) for item, _, each in stock_with_value(_in_drawers(self.unit, wanted))}
        donors = _donors(self.unit, wanted)
        for content in wanted:
            by_name = stock.get(as_seen(content.name), (None, None))
            item, each = stock.get(as_seen(wanted_as(self.unit, content)), by_name)
            cost = each if each is not None else content.estimate or None
            if item is not None:
                where = f"one is in drawer {item.drawer or '–'}"
            elif donor := donors.get(as_seen(content.name)):
                where = f"{donor.tag} has one"
            else:
                where = "to be found"
            yield self._offered(
                f"content:{content.pk}",
                None,
                f"missing; {where}",
                Changes(contents=frozenset({content.pk})),
                kind=JobKind.REPAIR,
                minutes=FIT_MINUTES,
                title=f"Fit the missing {content.name}",
                parts=round(cost, 2) if cost is not None else None,
                chance=0.95,
            )

    def _temporary(self) -> Iterator[Offered]:
        for job in self.jobs:
            if job.temporary_open:
                changes = Changes(made_good=frozenset({job.pk}))
                page = reverse("workshop:job", args=[job.pk])
                yield self._offered(
                    f"temporary:{job.pk}",
                    None,
                    f"temporary fix: {job.title}",
                    changes,
                    kind=JobKind.REPAIR,
                    minutes=job.estimate_minutes,
                    title=f"Make good: {job.made_good_by}"[:100],
                    parts=None,
                    page=page,
                )

    def _test_plan(self, run: TestRun, results: dict[str, StepResult]) -> Offered:
        """The test plan, again or to its end: it is what proves the rest."""
        again = run.finished_at is not None
        return self._offered(
            "test-plan",
            None,
            "proves what was done, and ends with the soak",
            Changes(tested=True),
            kind=JobKind.REPAIR,
            minutes=hands_on(steps_of(run, results), again),
            title="Run the test plan again" if again else "Run the test plan to its end",
            chance=plan_passes(runs_again()),
            page=reverse("bench:unit", args=[self.unit.number]),
        )

    def _known_to_fail(self) -> Iterator[Offered]:
        """What such machines and parts are known to fail by, unless somebody looked already."""
        looked = {job.source for job in self.jobs}
        for one in fails_in(self.unit):
            key = f"weakness:{one.weakness.pk}:{as_seen(one.of.part)}"[:60]
            if one.weakness.look_at and key not in looked:
                yield self._offered(
                    key,
                    None,
                    f"known to fail: {one.words}",
                    Changes(),
                    kind=JobKind.REPAIR,
                    minutes=max(1, one.weakness.minutes),
                    title=f"Look at: {one.weakness.look_at}"[:100],
                )

    def _due(self) -> Iterator[Offered]:
        for due in due_of(self.unit, self.strip, self.recipes, self.jobs):
            recipe = self._fittest((due.recipe,), due.words)
            if recipe and due.is_due:
                yield self._offered(f"due:{recipe.code}", recipe, due.words, Changes())


def changes_of(job: Job) -> Changes:
    """What a job changes of the record, by what it answers to."""
    what, _, code = job.source.partition(":")
    number = whole_number(code)
    if job.finding_id:
        return Changes(findings=frozenset({job.finding_id}))
    if what == "check":
        return Changes(passed=frozenset({code}))
    if what == "content" and number is not None:
        return Changes(contents=frozenset({number}))
    if what == "temporary" and number is not None:
        return Changes(made_good=frozenset({number}))
    return Changes()


def _works(kind: JobKind) -> bool:
    """Whether what was proven has to be proven again after it."""
    return kind in NEEDS_RETEST


_TO_FIT = {Presence.MISSING.value, Presence.WRONG.value}


def wanted_as(unit: Unit, content: Content) -> str:
    """What a missing thing of this unit is called in a drawer, so that it is none of another model’s."""
    return f"{unit.model or unit.title}: {content.name}"[:80]


def _in_drawers(unit: Unit, wanted: list[Content]) -> list[StockItem]:
    """Parts in drawers that are called as what is wanted, by itself or of this model: one query."""
    names = {name for content in wanted for name in (content.name, wanted_as(unit, content))}
    there = StockItem.objects.filter(name__in=names, quantity__gt=F("reserved"))
    return list(there.exclude(condition=Condition.FAULTY))


def _donors(unit: Unit, wanted: list[Content]) -> dict[str, Unit]:
    """Donors of the same model that have what is wanted, by its name as it is seen: one query."""
    if unit.model_id is None:
        return {}
    rows = Content.objects.filter(
        name__in=[content.name for content in wanted],
        presence=Presence.PRESENT,
        unit__model=unit.model_id,
        unit__approach=Approach.DONOR.value,
    ).exclude(unit__stage__in=GONE)
    return {as_seen(row.name): row.unit for row in rows.exclude(unit=unit).select_related("unit")[:40]}

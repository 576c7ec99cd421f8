"""How it looks inside a machine that is open: what the rules of closing ask for."""

from collections import defaultdict

from core.catalogue.assemblies import StripDown
from core.workshop.stripdown.way_back import Inside
from stations.units.models import Unit
from stations.workshop.models import Job, OpenedAssembly


def jobs_inside(unit: Unit) -> dict[str, tuple[Job, ...]]:
    """Open jobs by the assembly they are on; those that say none are not in it. One query."""
    found: dict[str, list[Job]] = defaultdict(list)
    for job in Job.objects.filter(unit=unit, done_at=None).exclude(assembly=""):
        found[job.assembly].append(job)
    return {name: tuple(jobs) for name, jobs in found.items()}


def inside_of(unit: Unit, strip: StripDown, rows: dict[str, OpenedAssembly], but: str) -> Inside:
    """As it is now, `but` for the assembly that is about to go on."""
    jobs = {
        name: tuple((job.title, job.estimate_minutes) for job in jobs)
        for name, jobs in jobs_inside(unit).items()
        if name in strip.assemblies
    }
    known = {name: row for name, row in rows.items() if name in strip.assemblies}
    return Inside(
        off=frozenset(name for name, row in known.items() if row.is_off and name != but),
        jobs=jobs,
        tests_due=frozenset(
            name for name, row in known.items() if row.off_at and not row.tested_at and strip[name].test
        ),
        lost=frozenset(name for name, row in known.items() if row.on_at and strip[name].must_be_in and row.broke),
    )

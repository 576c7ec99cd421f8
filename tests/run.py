"""Run the tests with Django's runner and close with one line: N passed, N failed, N skipped."""

import gc
import os
import shutil
import sys
import warnings
from pathlib import Path

import django
from django.conf import settings
from django.core.paginator import UnorderedObjectListWarning
from django.test import TestCase, TransactionTestCase
from django.test import runner as django_runner
from django.test.runner import DiscoverRunner, ParallelTestSuite

from tests.seen import Seen
from tests.tables import KeptTables


def _with_files_of_its_own(counter, *args, **kwargs) -> None:
    """A process of the tests has its own folder of files as it has its own database: a picture that is one to two of
    them would otherwise go from under the one when the other lets go of it."""
    django_runner._init_worker(counter, *args, **kwargs)
    settings.MEDIA_ROOT = f"{settings.SHARED_ROOT}/media-{django_runner._worker_id}"
    settings.BACKUP_ROOT = f"{settings.MEDIA_ROOT}/.backups"
    Path(settings.MEDIA_ROOT).mkdir()


class LongestFirst(ParallelTestSuite):
    """What `takes` long is begun before what does not say, so that nobody waits at the end for one that is left. First
    come all that leave the tables as they were, as Django has it, last those that need none."""

    init_worker = _with_files_of_its_own

    def __init__(self, subsuites, *args, **kwargs):
        super().__init__(sorted(subsuites, key=self._place), *args, **kwargs)

    @staticmethod
    def _place(subsuite) -> tuple[int, int]:
        test = next(iter(subsuite))
        kind = 0 if isinstance(test, TestCase) else 1 if isinstance(test, TransactionTestCase) else 2
        return kind, -getattr(test, "takes", 0)


class CountingRunner(DiscoverRunner):
    parallel_test_suite = LongestFirst

    def setup_databases(self, **kwargs):
        if not kwargs["aliases"]:
            return super().setup_databases(**kwargs)
        kept = KeptTables()
        # Laid out already, it is only looked whether anything is missing.
        self.keepdb = kept.lay_out()
        made = super().setup_databases(**kwargs)
        if not self.keepdb:
            kept.keep()
        self.keepdb = False
        return made

    def run_suite(self, suite, **kwargs):
        # What is loaded by now stays to the end, in every process: it need not be looked through for garbage.
        gc.collect()
        gc.freeze()
        # Rows in no order come back in another on the next page, or not at all.
        warnings.filterwarnings("error", category=UnorderedObjectListWarning)
        self.result = super().run_suite(suite, **kwargs)
        return self.result


def main(labels: list[str]) -> int:
    os.environ["DJANGO_SETTINGS_MODULE"] = "tests.settings"
    # Playwright's own event loop runs in the thread that asks the database.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    django.setup()
    # Migrations make thousands of classes that last: looked through every few hundred, they take a third longer.
    gc.set_threshold(20_000, 20, 50)
    # What no test has seen is only known where all were run.
    seen = None if labels else Seen()
    runner = CountingRunner(
        interactive=False, verbosity=1, parallel=int(os.environ.get("WENDOPOLIS_TESTS_AT_ONCE", "1"))
    )
    try:
        runner.run_tests(labels or ["tests"])
    finally:
        shutil.rmtree(settings.SHARED_ROOT, ignore_errors=True)
    result = runner.result
    # A test with several failing parts is one test that failed.
    broken = [*(test for test, _ in (*result.failures, *result.errors)), *result.unexpectedSuccesses]
    names = {getattr(test, "test_case", test).id() for test in broken}
    # A class that could not be set up failed too, but none of its tests ran.
    ran = {name for name in names if "(" not in name}
    failed, skipped = len(names), len(result.skipped)
    passed = result.testsRun - len(ran) - skipped
    if seen and not failed and (never := seen.never()):
        print("No test has seen a row in:", *never, sep="\n  ")
        failed = 1
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

"""Django's test runner, telling each test as it begins; it is imported when the settings are there."""

from __future__ import annotations

import faulthandler
import signal
import unittest
from typing import Any

from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

from .progress import Progress

# A test that takes so many seconds will never end. Where it stands is printed and it fails, so that the others are run
# to their end; one that does not heed this is told again.
LONGEST, AGAIN = 900, 60


class Overdue(Exception):
    """A test, or what is done after it, that does not end."""


def end(_signal: int, _frame: Any) -> None:
    faulthandler.dump_traceback(all_threads=True)
    raise Overdue(f"It has not ended in {LONGEST} s.")


def watch() -> None:
    """Watch over what begins now, until something else does."""
    signal.signal(signal.SIGALRM, end)
    signal.setitimer(signal.ITIMER_REAL, LONGEST, AGAIN)
    # what lies in a program that heeds no signal is printed all the same
    faulthandler.dump_traceback_later(LONGEST + AGAIN // 2)


def look_away() -> None:
    signal.setitimer(signal.ITIMER_REAL, 0)
    faulthandler.cancel_dump_traceback_later()


class Telling(unittest.TestResult):
    """Tells each test as it begins, and each that fails as soon as it has."""

    def startTest(self, test: unittest.TestCase) -> None:
        Progress.begin(test.id())
        watch()
        super().startTest(test)

    def addFailure(self, test: unittest.TestCase, err: Any) -> None:
        Progress.tell(f"FAILED {test.id()}")
        super().addFailure(test, err)

    def addError(self, test: unittest.TestCase, err: Any) -> None:
        Progress.tell(f"FAILED {test.id()}")
        super().addError(test, err)

    def addSubTest(self, test: unittest.TestCase, subtest: Any, err: Any) -> None:
        if err is not None:
            Progress.tell(f"FAILED {subtest.id()}")
        super().addSubTest(test, subtest, err)


class TellingAlone(Telling, unittest.TextTestResult):
    pass


class TellingInChild(Telling, RemoteTestResult):
    pass


class Child(RemoteTestRunner):
    resultclass = TellingInChild

    def run(self, test: Any) -> Any:
        watch()
        try:
            return super().run(test)
        finally:
            look_away()


class Children(ParallelTestSuite):
    """Classes with a database of their own that take long begin first, so that none of them is left over at the end."""

    runner_class = Child

    def __init__(self, subsuites: Any, *arguments: Any, **options: Any) -> None:
        listed = sorted(subsuites, key=lambda each: not getattr(next(iter(each), None), "begins_early", False))
        super().__init__(listed, *arguments, **options)


class TellingRunner(DiscoverRunner):
    """Runs the tests in as many processes as it is told, and counts what became of them."""

    parallel_test_suite = Children
    passed, failed = 0, 1

    def build_suite(self, *arguments: Any, **options: Any) -> unittest.TestSuite:
        suite = super().build_suite(*arguments, **options)
        Progress.tests = suite.countTestCases()
        Progress.tell(f"{Progress.tests} tests in {self.parallel} process{'es' if self.parallel > 1 else ''}")
        return suite

    def get_resultclass(self) -> Any:
        # the children tell for themselves
        return TellingAlone if self.parallel == 1 else None

    def suite_result(self, suite: Any, result: unittest.TestResult, **options: Any) -> int:
        look_away()
        unlucky = {str(getattr(test, "test_case", test)) for test, _ in [*result.failures, *result.errors]}
        unlucky |= {str(test) for test in result.unexpectedSuccesses}
        self.failed = len(unlucky)
        self.passed = max(0, result.testsRun - len(unlucky) - len(result.skipped))
        return len(unlucky)

"""Running every check and every test, with a database and a browser of the tests' own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

from .cluster import Cluster, ClusterError
from .progress import Progress

ROOT = Path(__file__).resolve().parents[3]
CHECKS = {
    "ruff check": ["ruff", "check", "."],
    "ruff format": ["ruff", "format", "--check", "."],
    "mypy (strict)": ["mypy"],
    "import contracts": ["lint-imports"],
}


def run_checks() -> int:
    """Run the static checks; how many failed."""
    folder = Path(sys.executable).parent
    failed = 0
    for name, (program, *words) in CHECKS.items():
        Progress.tell(name)
        finished = subprocess.run([str(folder / program), *words], cwd=ROOT, capture_output=True, text=True)
        if finished.returncode:
            failed += 1
            Progress.tell(f"FAILED {name}")
            print(finished.stdout + finished.stderr)
    return failed


def run_all(state: Path, labels: list[str]) -> int:
    """Everything, or only the tests named; ends with one plain line that counts."""
    failed_checks = 0 if labels else run_checks()
    checks = 0 if labels else len(CHECKS)
    cluster = Cluster(state / f"test-{os.getpid()}")
    try:
        Progress.tell("starting a database of the tests' own")
        cluster.start()
        cluster.ensure_database("vorlage")
        os.environ.update(
            VORLAGE_DATABASE=cluster.url("vorlage"),
            DJANGO_SETTINGS_MODULE="vorlage.web.settings.test",
            # Playwright keeps an event loop in the thread of the test
            DJANGO_ALLOW_ASYNC_UNSAFE="true",
        )
        sys.path.insert(0, str(ROOT))
        passed, failed = run_tests(labels)
    except ClusterError as problem:
        print(f"Vorlage: {problem}", file=sys.stderr)
        passed, failed = 0, 1
    finally:
        cluster.destroy()
    passed, failed = passed + checks - failed_checks, failed + failed_checks
    print(f"Tests: {passed} passed, {failed} failed", flush=True)
    return 1 if failed else 0


def run_tests(labels: list[str]) -> tuple[int, int]:
    """How many tests passed and failed, under Django's runner."""
    import django

    django.setup()
    from .telling import TellingRunner

    runner = TellingRunner(verbosity=0, interactive=False, parallel=2, timing=False, top_level=str(ROOT))
    runner.run_tests(labels or ["tests"])
    return runner.passed, runner.failed


def chromium() -> str:
    """Where the browser is."""
    found = shutil.which("chromium")
    if not found:
        raise RuntimeError("Chromium is not installed; ./vorlage test installs it.")
    return found

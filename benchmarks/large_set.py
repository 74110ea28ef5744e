"""A form set of a thousand forms made as a worker makes it: all that is drawn, proved, typeset, packed and stored."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

FORMS = 1000
QUESTIONS = 10
MAKE = "import django; django.setup(); from vorlage.web.jobs.tasks import perform; perform({})"


def large_set() -> tuple[float, float]:
    """Seconds that it takes, and the megabytes (10^6) of memory that its processes have at most between them."""
    from vorlage.web.bank.models import Question
    from vorlage.web.forms.models import FormSet
    from vorlage.web.plans.models import Test

    test = Test.objects.all()[0]
    test.places.all().delete()
    for question in Question.objects.filter(department=test.department).order_by("pk")[:QUESTIONS]:
        test.add(question)
    form_set = FormSet.order(test, FORMS, test.author)
    began, most = time.perf_counter(), 0
    maker = subprocess.Popen([sys.executable, "-c", MAKE.format(form_set.work.pk)], env=os.environ)
    while maker.poll() is None:
        most = max(most, memory_of(maker.pid))
        time.sleep(0.2)
    took = time.perf_counter() - began
    form_set.refresh_from_db()
    if not form_set.frozen or form_set.forms.count() != FORMS:
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

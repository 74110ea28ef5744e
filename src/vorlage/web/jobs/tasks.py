"""Doing jobs: the register of what each kind does, and what becomes of a job whose worker is gone."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable

from django.db import InterfaceError, OperationalError, connection, transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from vorlage.web.design.views import full_disk

from .models import JOB_LOCK, LOST, MOST_ATTEMPTS, Job, JobCancelled, JobFailed, held, locked

log = logging.getLogger(__name__)
OUR_SIDE = "Something went wrong on our side while this was being made. Try again."
NO_ROOM = (
    "The server's disk is full. Nothing of this was kept; try again when whoever looks after the server made room."
)
GAVE_UP = (
    f"This was begun {MOST_ATTEMPTS} times, and each time the worker stopped in the middle. "
    "Try with fewer at once; if it happens again, tell whoever looks after the server."
)
Does = Callable[[Job], None]
DOERS: dict[str, Does] = {}
# the hours in which nobody waits for a page
NIGHT = range(1, 5)


def does(kind: str) -> Callable[[Does], Does]:
    """The function that does a kind of job, in the module ``tasks`` of an app, all of which are loaded with it. It
    stores what it made within ``job.finishing()``."""

    def register(function: Does) -> Does:
        DOERS[kind] = function
        return function

    return register


NIGHTLY: list[Callable[[], None]] = []


def nightly(function: Callable[[], None]) -> Callable[[], None]:
    """What is ordered at night. It is called again and again, by every worker, and orders what is not ordered yet."""
    NIGHTLY.append(function)
    return function


REGULAR: list[Callable[[], None]] = []


def regularly(function: Callable[[], None]) -> Callable[[], None]:
    """What every worker looks after, every second or so: short, and the same whoever does it and however often."""
    REGULAR.append(function)
    return function


def at_night() -> None:
    """Order what is to be done at night, by the clock of the installation."""
    if timezone.localtime().hour in NIGHT:
        for function in NIGHTLY:
            function()


@app.task(name="perform_job")
def perform_job(job: int) -> None:
    """Do a job in a process of its own, which can be ended at any moment."""
    from .apart import perform_apart

    perform_apart(job)


def perform(pk: int) -> None:
    """Do a job here and now, if it is still waiting and nobody else does it.

    A fault of the database is raised: nobody knows what became of the job, and it is taken up again.
    """
    with held(pk) as mine:
        job = Job.objects.filter(pk=pk).first() if mine else None
        if job is None or not job.begin():
            return
        began = time.monotonic()
        try:
            DOERS[job.kind](job)
            told = {"job": job.pk, "kind": job.kind, "seconds": round(time.monotonic() - began, 1)}
            log.info("%s is done", job, extra=told)
        except JobCancelled:
            return
        except JobFailed as problem:
            job.fail(str(problem))
        except (OperationalError, InterfaceError) as problem:
            if full_disk(problem):
                connection.close()
                job.fail(NO_ROOM)
                return
            raise
        except Exception as problem:
            log.exception("%s failed", job, extra={"job": job.pk, "kind": job.kind})
            job.fail(NO_ROOM if full_disk(problem) else OUR_SIDE)


def take_up_again(pk: int) -> None:
    """Queue a job anew that somebody began and nobody does; end it when that has happened too often."""
    with transaction.atomic():
        job = Job.objects.select_for_update().get(pk=pk)
        if job.state != Job.State.RUNNING or pk in locked(JOB_LOCK):
            return
        if job.attempts >= MOST_ATTEMPTS:
            job.fail(GAVE_UP)
            return
        Job.objects.filter(pk=pk).update(state=Job.State.WAITING, step="", done=0)
        queue_again(job)


def queue_again(job: Job) -> None:
    Job.objects.filter(pk=job.pk).update(queued=timezone.now())
    perform_job.defer(job=job.pk)


QUEUED = "SELECT (args->>'job')::bigint FROM procrastinate_jobs WHERE task_name = 'perform_job' AND status = 'todo'"


def look_after() -> None:
    """Find the jobs that nobody does and nobody will, and put them back on their way."""
    running = set(Job.objects.filter(state=Job.State.RUNNING).values_list("pk", flat=True))
    for pk in running - locked(JOB_LOCK) if running else ():
        take_up_again(pk)
    waiting = list(Job.objects.filter(state=Job.State.WAITING, queued__lt=timezone.now() - LOST))
    if not waiting:
        return
    with connection.cursor() as cursor:
        cursor.execute(QUEUED)
        queued = {pk for (pk,) in cursor.fetchall()}
    for job in waiting:
        if job.pk not in queued:
            with transaction.atomic():
                queue_again(job)

"""One record for every piece of long work: what it is, how far it is, and what became of it.

The rules:

- A job is queued in the transaction that needs it. Whoever does it holds the job's lock in the database, and the lock
  is gone at the moment in which they are, however they end. A job that is being done and held by nobody is taken up
  again, three times at most, and then ends with a reason.
- What a job makes is stored in one transaction with its end, so that nothing half-done is ever seen.
- A job that was cancelled stays so: nothing that was made for it is stored.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta
from typing import Any

from django.db import connection, models, transaction
from django.utils import timezone

from vorlage.web.people.models import User

# The classes of the locks in the database: of a job by its number, and of every worker that lives.
JOB_LOCK, WORKER_LOCK = 7001, 7002
MOST_ATTEMPTS = 3
# A queued job of which the queue knows nothing is queued anew after so long.
LOST = timedelta(seconds=15)


class JobCancelled(Exception):
    """Somebody wants the work no more, or somebody else has taken it up."""


class JobFailed(Exception):
    """The work cannot be done, for a reason that is told to people."""


class Job(models.Model):
    """A piece of work that is done by a worker."""

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting to be made"
        RUNNING = "running", "Being made"
        DONE = "done", "Made"
        FAILED = "failed", "Not made"
        CANCELLED = "cancelled", "Cancelled"

    kind = models.CharField(max_length=40)
    arguments = models.JSONField(default=dict)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    # what is being done, and how much of it: done is a share of total
    step = models.CharField(max_length=60, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    # why it failed
    reason = models.TextField(blank=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    # when it was last queued
    queued = models.DateTimeField(default=timezone.now)
    ended = models.DateTimeField(null=True)

    class Meta:
        indexes = [
            models.Index(fields=["state"], name="jobs_open", condition=models.Q(state__in=["waiting", "running"]))
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.pk}"

    @property
    def open(self) -> bool:
        """Whether it is waiting or being done."""
        return self.state in {self.State.WAITING, self.State.RUNNING}

    @classmethod
    def order(cls, kind: str, author: User, total: int, **arguments: Any) -> Job:
        """A job that is queued when the present transaction ends, and not at all when it fails."""
        from .tasks import perform_job

        with transaction.atomic():
            job = cls.objects.create(kind=kind, author=author, total=total, arguments=arguments)
            perform_job.defer(job=job.pk)
        return job

    def cancel(self) -> bool:
        """Stop it; False when it has ended already."""
        return self.end(self.State.CANCELLED)

    def fail(self, reason: str) -> bool:
        """End it for a reason; False when it has ended already."""
        return self.end(self.State.FAILED, reason)

    def end(self, state: str, reason: str = "") -> bool:
        still = Job.objects.filter(pk=self.pk, state__in=[self.State.WAITING, self.State.RUNNING])
        return bool(still.update(state=state, reason=reason, step="", ended=timezone.now()))

    # for whoever does it

    def begin(self) -> bool:
        """Take it on; False when it is not waiting any more."""
        waiting = Job.objects.filter(pk=self.pk, state=self.State.WAITING)
        return bool(waiting.update(state=self.State.RUNNING, attempts=models.F("attempts") + 1))

    def note(self, done: int, step: str) -> None:
        """Tell how far it is. Raises ``JobCancelled``."""
        if not Job.objects.filter(pk=self.pk, state=self.State.RUNNING).update(done=done, step=step):
            raise JobCancelled

    @contextmanager
    def finishing(self) -> Iterator[None]:
        """What is stored within is stored with the end of the job, or not at all. Raises ``JobCancelled``."""
        with transaction.atomic():
            yield
            # last, so that nobody who cancels it has to wait for what is being stored
            running = Job.objects.filter(pk=self.pk, state=self.State.RUNNING)
            if not running.update(state=self.State.DONE, step="", done=models.F("total"), ended=timezone.now()):
                raise JobCancelled


class Pulse(models.Model):
    """When a worker was last seen alive: the only row."""

    seen = models.DateTimeField()

    def __str__(self) -> str:
        return f"A worker lived at {self.seen}"

    @classmethod
    def beat(cls) -> None:
        cls.objects.update_or_create(pk=1, defaults={"seen": timezone.now()})


@contextmanager
def held(pk: int) -> Iterator[bool]:
    """Hold the lock of a job for as long as this connection lives; whether nobody else has it."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s, %s)", [JOB_LOCK, pk])
        (mine,) = cursor.fetchone()
    try:
        yield mine
    finally:
        if mine and connection.is_usable():
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [JOB_LOCK, pk])


HELD = """
    SELECT objid::bigint FROM pg_locks
    WHERE locktype = 'advisory' AND classid = %s AND objsubid = 2 AND granted
      AND database = (SELECT oid FROM pg_database WHERE datname = current_database())
"""


def locked(kind: int) -> set[int]:
    """The numbers of the locks of a class that somebody holds now."""
    with connection.cursor() as cursor:
        cursor.execute(HELD, [kind])
        return {number for (number,) in cursor.fetchall()}


def workers_live() -> bool:
    """Whether there is a worker at all."""
    return bool(locked(WORKER_LOCK))


def last_seen() -> datetime | None:
    """When a worker was last seen alive; None when there never was one."""
    return Pulse.objects.values_list("seen", flat=True).first()

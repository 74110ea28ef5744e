"""Long work: queued with what needs it, held by whoever does it, cancelled, taken up again, and never forgotten."""

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import TestCase as PlainTestCase
from unittest import mock

import pypdfium2
from django.db import OperationalError, connection, transaction
from django.test import TestCase, TransactionTestCase
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from vorlage.operations.cluster import SUPERUSER, Cluster
from vorlage.web.forms.models import Form, FormSet, Print
from vorlage.web.jobs import tasks
from vorlage.web.jobs.models import LOST, MOST_ATTEMPTS, WORKER_LOCK, Job, JobCancelled, JobFailed, held, locked
from vorlage.web.jobs.tasks import GAVE_UP, OUR_SIDE, look_after, perform, take_up_again

from .samples import department, person, question, test_of

# A busy machine is slow, not wrong.
PATIENCE = 240


def waited_for(true: Callable[[], Any], what: str) -> Any:
    """Wait until something is so; what it was."""
    ends = time.monotonic() + PATIENCE
    while time.monotonic() < ends:
        if found := true():
            return found
        time.sleep(0.005)
    raise AssertionError(f"{what} did not happen")


class Rules(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.author = person("author", department("Physics"))

    @contextmanager
    def doing(self, work: Callable[[Job], None]) -> Iterator[Job]:
        with mock.patch.dict(tasks.DOERS, {"work": work}):
            yield Job.order("work", self.author, 10)

    def test_it_is_queued_with_what_needs_it_or_not_at_all(self) -> None:
        with self.assertRaises(ZeroDivisionError), transaction.atomic():
            Job.order("work", self.author, 1)
            raise ZeroDivisionError
        self.assertEqual((Job.objects.count(), ProcrastinateJob.objects.count()), (0, 0))
        job = Job.order("work", self.author, 1, of="something")
        self.assertEqual(ProcrastinateJob.objects.get().args, {"job": job.pk})
        self.assertEqual((job.state, job.arguments), (Job.State.WAITING, {"of": "something"}))

    def test_what_it_makes_is_stored_with_its_end(self) -> None:
        def work(job: Job) -> None:
            job.note(4, "Working")
            with job.finishing():
                person("made", None)

        with self.doing(work) as job:
            perform(job.pk)
            perform(job.pk)
        job.refresh_from_db()
        self.assertEqual((job.state, job.done, job.step, job.attempts), (Job.State.DONE, 10, "", 1))
        self.assertIsNotNone(job.ended)

    def test_what_was_cancelled_stores_nothing(self) -> None:
        def cancelled_before(job: Job) -> None:
            job.cancel()
            job.note(1, "Working")

        def cancelled_while_storing(job: Job) -> None:
            with job.finishing():
                person("made", None)
                job.cancel()

        for work in (cancelled_before, cancelled_while_storing):
            with self.subTest(work.__name__), self.doing(work) as job:
                perform(job.pk)
                job.refresh_from_db()
                self.assertEqual(job.state, Job.State.CANCELLED if work is cancelled_before else Job.State.RUNNING)
                self.assertFalse(type(self.author).objects.filter(name="Made").exists())
                self.assertEqual(job.cancel(), work is not cancelled_before)
        with self.assertRaises(JobCancelled):
            job.note(2, "Working")

    def test_a_reason_is_told_and_a_fault_is_ours(self) -> None:
        def refused(job: Job) -> None:
            raise JobFailed("The question is unsound.")

        def faulty(job: Job) -> None:
            raise KeyError("x")

        for work, reason in [(refused, "The question is unsound."), (faulty, OUR_SIDE)]:
            with self.subTest(reason), self.doing(work) as job:
                if work is faulty:
                    with self.assertLogs("vorlage.web.jobs.tasks", "ERROR"):
                        perform(job.pk)
                else:
                    perform(job.pk)
                job.refresh_from_db()
                self.assertEqual((job.state, job.reason), (Job.State.FAILED, reason))
                self.assertFalse(job.fail("Another reason."))

    def test_when_the_database_goes_away_nobody_knows_and_it_is_taken_up_again(self) -> None:
        def gone(job: Job) -> None:
            raise OperationalError("the connection is closed")

        with self.doing(gone) as job:
            for attempt in range(1, MOST_ATTEMPTS + 1):
                with self.assertRaises(OperationalError):
                    perform(job.pk)
                job.refresh_from_db()
                self.assertEqual((job.state, job.attempts), (Job.State.RUNNING, attempt))
                look_after()
                job.refresh_from_db()
        self.assertEqual((job.state, job.reason), (Job.State.FAILED, GAVE_UP))
        self.assertEqual(ProcrastinateJob.objects.count(), MOST_ATTEMPTS)

    def test_what_the_queue_lost_is_queued_anew(self) -> None:
        job = Job.order("work", self.author, 1)
        ProcrastinateJob.objects.get()
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs")
        look_after()
        self.assertEqual(ProcrastinateJob.objects.count(), 0)
        Job.objects.filter(pk=job.pk).update(queued=timezone.now() - 2 * LOST)
        look_after()
        look_after()
        self.assertEqual(ProcrastinateJob.objects.get().args, {"job": job.pk})
        self.assertGreater(Job.objects.get().queued, timezone.now() - timedelta(minutes=1))


class Locks(TransactionTestCase):
    def test_a_job_that_somebody_holds_is_left_to_them(self) -> None:
        job = Job.order("work", person("author", department("Physics")), 1)
        job.begin()
        other = connection.copy()
        try:
            with other.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_lock(7001, %s)", [job.pk])
            with held(job.pk) as mine:
                self.assertFalse(mine)
            take_up_again(job.pk)
            self.assertEqual(Job.objects.get().state, Job.State.RUNNING)
        finally:
            other.close()
        waited_for(lambda: job.pk not in locked(7001), "the lock went with its connection")
        take_up_again(job.pk)
        self.assertEqual(Job.objects.get().state, Job.State.WAITING)


def children(pid: int) -> list[int]:
    """The processes that a process has begun and that still run."""
    found = []
    for entry in Path("/proc").glob("[0-9]*"):
        try:
            state, parent = (entry / "stat").read_text().rpartition(")")[2].split()[:2]
        except OSError:
            continue
        if int(parent) == pid and state != "Z":
            found.append(int(entry.name))
    return found


def environment(database: str) -> dict[str, str]:
    """What a process of the application is told."""
    return os.environ | {"VORLAGE_DATABASE": database, "DJANGO_SETTINGS_MODULE": "vorlage.web.settings.test"}


def database_of_test() -> str:
    """The database of the test, for a process of its own."""
    known = connection.settings_dict
    return f"postgresql://{SUPERUSER}:{known['PASSWORD']}@{known['HOST']}:{known['PORT']}/{known['NAME']}"


class Worker:
    """A worker as it runs in earnest."""

    def __init__(self, database: str) -> None:
        self.environment = environment(database)
        self.start()

    def start(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "vorlage.command", "worker"], env=self.environment, stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(PATIENCE)

    def jobs(self) -> list[int]:
        """The processes of the jobs that are being done."""
        return [job for loaded in children(self.process.pid) for job in children(loaded)]

    def kill_job(self) -> None:
        for pid in self.jobs():
            os.kill(pid, signal.SIGKILL)


# Moments in the making of a set: the step, and how many forms are done in it.
COUNT = 12
MAKING = "Drawing, proving keys, printing"
MOMENTS = [
    (MAKING, 0), (MAKING, 1), (MAKING, 6), (MAKING, 10), (MAKING, 11), ("Packing the archive", 12),
]  # fmt: skip


class Killed(TransactionTestCase):
    """Whatever is killed, a set is made whole in the end, or ends with a reason."""

    def setUp(self) -> None:
        physics = department("Physics")
        self.author = person("author", physics)
        self.test = test_of(physics, self.author, question(physics, self.author))
        self.worker = Worker(database_of_test())
        self.addCleanup(self.worker.stop)

    def order(self, count: int = COUNT) -> FormSet:
        form_set = FormSet.order(self.test, count, self.author)
        FormSet.objects.filter(pk=form_set.pk).update(seed="killed")
        return form_set

    def reached(self, form_set: FormSet, step: str, done: int, attempt: int) -> None:
        """Wait until the making is at a moment, or past it: an order of steps that only a kill turns back."""
        steps = list(dict.fromkeys(name for name, _ in MOMENTS))

        def there() -> bool:
            job = Job.objects.get(pk=form_set.job_id)
            if job.state == Job.State.DONE:
                return True
            at = (steps.index(job.step), job.done) if job.step in steps else (-1, 0)
            return job.attempts >= attempt and at >= (steps.index(step), done)

        waited_for(there, f"{step}: {done}")

    def ended(self, form_set: FormSet) -> Job:
        return waited_for(lambda: Job.objects.filter(pk=form_set.job_id, ended__isnull=False).first(), "its end")

    def __getstate__(self) -> dict[str, Any]:
        """What travels to another process when a part of a test fails: a worker does not."""
        return {**vars(self), "_cleanups": [], "worker": None}

    def what_is_kept(self, form_set: FormSet) -> list[str]:
        """The words of all papers, of the file with all of them, and of the key: only the codes on their pages say of
        which set they are."""
        papers = [form.paper for form in Form.objects.filter(form_set=form_set).order_by("position")]
        prints = [
            made.file for made in Print.objects.filter(form_set=form_set).exclude(kind="archive").order_by("kind")
        ]
        pages = [pypdfium2.PdfDocument(each.read()) for each in (*papers, *prints)]
        return ["".join(page.get_textpage().get_text_range() for page in document) for document in pages]

    def test_the_process_of_a_job_is_killed_or_wanted_no_more(self) -> None:
        self.made_whole_at_whatever_moment_it_is_killed()
        self.ends_with_a_reason_when_it_is_killed_again_and_again()
        self.ends_when_it_is_cancelled_inside_a_long_typesetting()

    def made_whole_at_whatever_moment_it_is_killed(self) -> None:
        undisturbed = self.order()
        self.assertEqual(self.ended(undisturbed).state, Job.State.DONE)
        whole = self.what_is_kept(undisturbed)
        self.assertEqual(len(whole), COUNT + 3)
        for first, second in zip(MOMENTS[::2], MOMENTS[1::2]):
            with self.subTest(f"{first} and {second}"):
                form_set = self.order()
                for attempt, moment in enumerate((first, second), start=1):
                    self.reached(form_set, *moment, attempt)
                    self.worker.kill_job()
                job = self.ended(form_set)
                self.assertEqual((job.state, job.reason), (Job.State.DONE, ""))
                self.assertEqual(self.what_is_kept(form_set), whole)

    def test_a_worker_is_killed_or_stopped_or_there_is_none(self) -> None:
        form_set = self.order()
        self.reached(form_set, MAKING, 2, 1)
        self.worker.kill()
        self.worker.start()
        self.assertEqual(self.ended(form_set).state, Job.State.DONE)
        self.assertEqual(form_set.forms.count(), COUNT)
        # and a worker that is asked to stop leaves its work to the next as well; until there is one, pages say so
        form_set = self.order(100)
        self.reached(form_set, MAKING, 2, 1)
        self.worker.stop()
        waited_for(lambda: not locked(WORKER_LOCK), "the end of the worker's lock")
        self.client.force_login(self.author)
        for name in ("form-set", "form-set-progress"):
            self.assertContains(self.client.get(reverse(name, args=[form_set.pk])), "No worker is running")
        self.worker.start()
        self.assertEqual(self.ended(form_set).state, Job.State.DONE)

    def ends_with_a_reason_when_it_is_killed_again_and_again(self) -> None:
        form_set = self.order(300)
        for attempt in range(1, MOST_ATTEMPTS + 1):
            self.reached(form_set, MAKING, 1, attempt)
            self.worker.kill_job()
        job = self.ended(form_set)
        self.assertEqual((job.state, job.reason), (Job.State.FAILED, GAVE_UP))
        self.assertEqual(self.what_is_kept(form_set), [])
        self.client.force_login(self.author)
        self.assertContains(self.client.get(reverse("form-set", args=[form_set.pk])), "each time the worker stopped")

    def ends_when_it_is_cancelled_inside_a_long_typesetting(self) -> None:
        self.client.force_login(self.author)
        form_set = self.order(1000)
        self.reached(form_set, MAKING, 1, 1)
        waited_for(self.worker.jobs, "a process")
        self.client.post(reverse("cancel-form-set", args=[form_set.pk]))
        waited_for(lambda: not self.worker.jobs(), "the end of the process")
        self.assertContains(self.client.get(reverse("form-set", args=[form_set.pk])), "Cancelled")
        # the next one does not wait for it
        self.assertEqual(self.ended(self.order(1)).state, Job.State.DONE)
        self.assertEqual(form_set.forms.count(), 0)


class DatabaseKilled(PlainTestCase):
    """A worker that begins before there are tables waits for them; the database is killed while it makes a set; both go
    on when it is back."""

    begins_early = True

    def test_the_set_is_made_when_the_database_is_back(self) -> None:
        folder = Path(__file__).resolve().parents[2] / f".vorlage/killed-{os.getpid()}"
        cluster = Cluster(folder)
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        self.addCleanup(cluster.destroy)
        cluster.start()
        cluster.ensure_database("killed")
        told = environment(cluster.url("killed"))
        worker = Worker(cluster.url("killed"))
        self.addCleanup(worker.stop)
        waited_for(lambda: self.visitors(cluster), "the worker at the database")
        time.sleep(1)
        self.assertIsNone(worker.process.poll())
        self.assertEqual(self.run_apart(told, "migrate"), "")
        said = self.run_apart(told, "shell", "-v", "0", "-c", PREPARED)
        form_set = int(said.split()[-1])
        for _ in range(2):
            waited_for(lambda: self.state(cluster, form_set)[0] == "running", "the making")
            os.kill(int((cluster.data / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
            waited_for(lambda: not cluster.lives(), "the end of the database")
            cluster.revive()
        ended = waited_for(
            lambda: (state := self.state(cluster, form_set))[0] in {"done", "failed"} and state, "its end"
        )
        self.assertEqual(ended, ("done", 60))
        self.assertIsNone(worker.process.poll())

    def run_apart(self, told: dict[str, str], *words: str) -> str:
        command = [sys.executable, "-m", "django", *words, *(["-v", "0"] if len(words) == 1 else [])]
        finished = subprocess.run(command, env=told, capture_output=True, text=True, timeout=PATIENCE)
        self.assertEqual(finished.returncode, 0, finished.stderr)
        return finished.stdout

    def visitors(self, cluster: Cluster) -> bool:
        import psycopg

        with psycopg.connect(cluster.url("killed"), connect_timeout=60) as other:
            found = other.execute(
                "SELECT count(*) FROM pg_stat_activity WHERE datname = 'killed' AND pid <> pg_backend_pid()"
            ).fetchone()
        return bool(found and found[0])

    def state(self, cluster: Cluster, form_set: int) -> tuple[str, int]:
        import psycopg

        with psycopg.connect(cluster.url("killed"), connect_timeout=60) as other:
            asked = (
                "SELECT job.state, (SELECT count(*) FROM forms_form WHERE form_set_id = s.id) FROM forms_formset s"
                " JOIN jobs_job job ON job.id = s.job_id WHERE s.id = %s"
            )
            found = other.execute(asked, [form_set]).fetchone()
        assert found
        return found[0], found[1]


PREPARED = """
from tests.web.samples import department, person, question, test_of
from vorlage.web.forms.models import FormSet
physics = department("Physics")
author = person("author", physics)
print(FormSet.order(test_of(physics, author, question(physics, author)), 60, author).pk)
"""

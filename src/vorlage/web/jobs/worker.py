"""The worker: takes jobs from the queue, and looks after those that another worker left behind."""

from __future__ import annotations

import logging
import multiprocessing
import os
import signal
import threading
import time
from types import FrameType

from django.db import InterfaceError, OperationalError, ProgrammingError, connection
from procrastinate import App, PsycopgConnector
from procrastinate.contrib.django import app, connector_params
from procrastinate.exceptions import ProcrastinateException

from . import tables
from .apart import STOPPING, load
from .models import WORKER_LOCK, Pulse
from .tasks import REGULAR, at_night, look_after

log = logging.getLogger(__name__)
# What the database says when it is away, or when its tables are still being made.
AWAY = (OperationalError, InterfaceError, ProgrammingError, ProcrastinateException)
# So many jobs at a time; a long one does not keep a short one waiting.
AT_A_TIME = 2
# How often jobs that were left behind are looked for, in seconds.
EVERY = 1.0
# How often it is written down that a worker lives, in seconds.
PULSE = 5.0
# How often it is looked whether something is to be done at night, in seconds.
NIGHTLY = 300.0
# How long a connection is waited for before it is tried anew, in seconds.
PATIENCE = 3.0


# Set once the tables are those of this version: whoever reads some of them while they are being changed stands in the
# way of it.
READY = threading.Event()


def wait_for_tables() -> None:
    """Touch nothing until the tables are those of this version."""
    while not READY.is_set():
        try:
            if tables.are_of_this_version():
                READY.set()
        except AWAY:
            log.info("The database is out of reach; looking again.")
        # what was asked is over, so that it holds nothing
        connection.close()
        READY.wait(EVERY)


def watch() -> None:
    """Say that a worker lives, for as long as it does, and look after the jobs."""
    wait_for_tables()
    told, beaten, ordered = False, -PULSE, time.monotonic()
    while True:
        try:
            if time.monotonic() - beaten > PULSE:
                Pulse.beat()
                beaten = time.monotonic()
            if not told:
                with connection.cursor() as cursor:
                    cursor.execute("SELECT pg_advisory_lock_shared(%s, 1)", [WORKER_LOCK])
                told = True
            look_after()
            for function in REGULAR:
                function()
            if time.monotonic() - ordered > NIGHTLY:
                at_night()
                ordered = time.monotonic()
        except AWAY:
            # the lock went with the connection
            connection.close()
            told = False
        except Exception:
            log.exception("Looking after the jobs failed.")
        time.sleep(EVERY)


def forget_ended() -> None:
    """Take what the queue remembers of jobs that have ended out of it: their workers may have had no time to."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM procrastinate_jobs WHERE task_name = 'perform_job' AND status <> 'todo' AND NOT EXISTS"
            " (SELECT 1 FROM jobs_job WHERE id = (args->>'job')::bigint AND state IN ('waiting', 'running'))"
        )


def stop_soon(number: int, frame: FrameType | None) -> None:
    """End the jobs that are being done, which the next worker takes up again, and then this process."""
    STOPPING.set()

    def leave() -> None:
        for _ in range(40):
            if not multiprocessing.active_children():
                break
            time.sleep(0.05)
        os._exit(0)

    threading.Thread(target=leave, daemon=True).start()


def queue() -> App:
    """The queue as the worker reads it, with connections of its own: what it queues anew goes through Django's, within
    the transaction that says so. When the database was away, it is found again within seconds."""
    working = App(connector=PsycopgConnector(kwargs=connector_params(), timeout=PATIENCE, reconnect_timeout=PATIENCE))
    working.tasks = app.tasks
    return working


def run() -> int:
    """Work until told to stop, also when the database goes away for a while or has no tables yet."""
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, stop_soon)
    threading.Thread(target=watch, daemon=True).start()
    load()
    while not READY.wait(EVERY) and not STOPPING.is_set():
        pass
    while not STOPPING.is_set():
        try:
            forget_ended()
            queue().run_worker(
                install_signal_handlers=False,
                listen_notify=True,
                concurrency=AT_A_TIME,
                fetch_job_polling_interval=1,
                delete_jobs="always",
            )
        except (OSError, *AWAY) as problem:
            connection.close()
            log.warning("The queue is out of reach (%s); trying again.", problem)
        time.sleep(EVERY)
    return 0

"""A process for each job, started from one that has loaded everything, and ended when the job is cancelled.

Typesetting and long algebra cannot be asked to stop; a process can be ended. Its memory goes with it.
"""

from __future__ import annotations

import ctypes
import logging
import multiprocessing
import os
import signal
import threading

from django.db import InterfaceError, OperationalError, close_old_connections, connection

from .models import Job

log = logging.getLogger(__name__)
# How often a job is looked at, in seconds: a cancelled one ends within about as long.
LOOKED_AT_EVERY = 0.25
PARENT_DEATH = 1  # PR_SET_PDEATHSIG
# Set when the worker is to stop.
STOPPING = threading.Event()
CONTEXT = multiprocessing.get_context("forkserver")
CONTEXT.set_forkserver_preload(["vorlage.web.jobs.loaded"])


def perform_apart(pk: int) -> None:
    """Do a job in a process of its own and wait for its end."""
    # it has processes of its own, which end with it
    process = CONTEXT.Process(target=perform_alone, args=(pk,), daemon=False)
    process.start()
    try:
        while process.is_alive():
            process.join(LOOKED_AT_EVERY)
            if STOPPING.is_set() or is_unwanted(pk):
                process.kill()
                process.join()
        if process.exitcode:
            log.warning("The process of job %s ended with %s.", pk, process.exitcode)
    finally:
        if process.is_alive():
            process.kill()
            process.join()
        process.close()
        connection.close()


def load() -> None:
    """Load everything now; otherwise the first job does, and takes seconds longer."""
    process = CONTEXT.Process(target=int, daemon=True)
    process.start()
    process.join()
    process.close()


def is_unwanted(pk: int) -> bool:
    """Whether a job was cancelled; not while the database does not answer."""
    try:
        return not Job.objects.filter(pk=pk).exclude(state=Job.State.CANCELLED).exists()
    except (OperationalError, InterfaceError):
        connection.close()
        return False


def perform_alone(pk: int) -> None:
    """What the process does: the job, below everything that somebody waits for."""
    from .tasks import perform

    # when the worker dies, the process that loaded everything dies, and this one with it
    ctypes.CDLL(None).prctl(PARENT_DEATH, signal.SIGKILL)
    os.nice(5)
    close_old_connections()
    perform(pk)

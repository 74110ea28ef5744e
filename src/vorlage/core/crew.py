"""Several processes that work on the same thing, a task each at a time.

They are begun from one that has loaded everything and has done nothing, since the typesetting has threads of its own
that no copy of a process has.
"""

from __future__ import annotations

import gc
import multiprocessing
import os
import pickle
import shutil
import signal
import tempfile
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from ctypes.util import find_library
from functools import cache
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from threading import Thread
from typing import Any, Generic, TypeVar

from .algebra import EvaluationError
from .errors import CoreError

# What the processes need, whichever comes first.
LOADED = ["vorlage.core.documents.press", "vorlage.core.forms.choosing"]
# A library that gives memory in small pieces sooner: with it typesetting takes nine tenths of the time. Without it
# everything goes as well.
MEMORY = "jemalloc"
# So many letters go from process to process at once.
MOST_WORDS = 800
# How often progress is told, in seconds.
TOLD_EVERY = 0.25
# So far these processes stand back behind those that answer people.
GIVES_WAY = 10
# After so many new objects, and how many rounds of that, garbage in circles is looked for.
SELDOM = (50_000, 20, 20)

Work = TypeVar("Work")
Task = TypeVar("Task")
Result = TypeVar("Result")
# It is told what is worked on and the task, and tells each step that it has done.
Doing = Callable[[Work, Task, Callable[[], None]], Result]


@contextmanager
def collecting_seldom() -> Iterator[None]:
    """While much is made that stays, and little that goes round in circles, that is looked for seldom: looking through
    all that stays, again and again, would take a sixth of the time."""
    usual = gc.get_threshold()
    gc.collect()
    gc.freeze()
    gc.set_threshold(*SELDOM)
    try:
        yield
    finally:
        gc.set_threshold(*usual)
        gc.unfreeze()


class NotDone(CoreError, ValueError):
    """Why a task cannot be done."""


class Crew(Generic[Work, Task, Result]):
    """Does tasks on ``work`` by a function of a module. What comes out is the same however many processes there are."""

    def __init__(self, work: Work, does: Doing[Work, Task, Result], processes: int = 0) -> None:
        self.work, self.does = work, does
        self.processes = processes or os.cpu_count() or 1
        self.context = multiprocessing.get_context("forkserver")
        self.context.set_forkserver_preload(LOADED)
        if may_begin_others():
            begin_first()

    def results(self, tasks: Sequence[Task], progress: Callable[[int], None]) -> Iterator[Result]:
        """What the tasks lead to, in their order. ``progress`` is told how many steps are done, and what it raises ends
        the work. Raises ``NotDone``."""
        if len(tasks) < 2 or not may_begin_others():
            yield from self.done_here(tasks, progress)
            return
        # of every task, how many of its steps are done: each is written by one process, so nothing is locked that a
        # process could take with it when it is killed
        done = self.context.RawArray("l", len(tasks))
        # a process that is killed ends the work with an error; none is begun in its place without end
        theirs, ours = self.context.Pipe(duplex=False)
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        said = (self.work, self.does, done, theirs, folder.name)
        pool = ProcessPoolExecutor(min(self.processes, len(tasks)), self.context, begun, said)
        try:
            count = len(tasks)
            asked = deque(pool.submit(done_there, number, task) for number, task in enumerate(tasks))
            # a task that is done is held by nobody
            del tasks
            while asked:
                while not wait([asked[0]], TOLD_EVERY).done:
                    progress(sum(done))
                # what was handed over is held by nobody else
                if reason := asked.popleft().result():
                    raise NotDone("not_done", reason)
                progress(sum(done))
                yield taken_over(Path(folder.name) / str(count - len(asked) - 1))
        except BrokenProcessPool as problem:
            raise NotDone("not_done", "A process that worked on this was ended. Try again.") from problem
        finally:
            # whatever they are doing, they end now; and so they do when this process is killed
            ours.close()
            pool.shutdown(cancel_futures=True)
            theirs.close()
            folder.cleanup()

    def done_here(self, tasks: Sequence[Task], progress: Callable[[int], None]) -> Iterator[Result]:
        steps = 0

        def told() -> None:
            nonlocal steps
            steps += 1
            progress(steps)

        for task in tasks:
            try:
                found = self.does(self.work, task, told)
            except (CoreError, EvaluationError) as problem:
                raise NotDone("not_done", problem.message) from problem
            yield found


@cache
def begin_first() -> None:
    """Begin the process that the others are begun from, with the library for memory where there is one."""
    library, before = find_library(MEMORY), os.environ.get("LD_PRELOAD")
    try:
        if library is not None:
            # the process that is begun here sees it, this one does not change
            os.environ["LD_PRELOAD"] = f"{library} {before or ''}".strip()
        forkserver.ensure_running()
    finally:
        if before is None:
            os.environ.pop("LD_PRELOAD", None)
        else:
            os.environ["LD_PRELOAD"] = before


def may_begin_others() -> bool:
    """Whether this process may have processes of its own."""
    return not multiprocessing.current_process().daemon


# What the processes of a crew work on, set as each begins.
AT_HAND: list[Any] = []


def ends_with(client: Connection, folder: str) -> None:
    """End this process when the one that ordered its work lets go of the other end, or is gone: they are no parent and
    child. What has been made for it goes as well."""
    client.poll(None)
    shutil.rmtree(folder, ignore_errors=True)
    os._exit(1)


def taken_over(path: Path) -> Any:
    """What a process has put into a file, which is gone then."""
    with open(path, "rb") as file:
        found = pickle.load(file)
    path.unlink()
    return found


def begun(work: Any, does: Doing[Any, Any, Any], done: Any, client: Connection, folder: str) -> None:
    """What a process of the crew does first."""
    Thread(target=ends_with, args=(client, folder), daemon=True).start()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # whoever waits for a page comes first
    os.nice(GIVES_WAY)
    # what is loaded stays, and little of what is made goes round in circles: looking for that is done seldom
    gc.freeze()
    gc.set_threshold(*SELDOM)
    # there are as many of these processes as the typesetting would have threads in each
    os.environ["RAYON_NUM_THREADS"] = "1"
    AT_HAND[:] = [work, does, done, folder]


def done_there(number: int, task: Any) -> str:
    """Do a task in a process of the crew and put what it leads to into a file; in words why it cannot be done, empty
    where it was.

    What goes back between the processes is short, so that it goes at once or not at all: a process that is ended in the
    middle of a long message would leave the other waiting for the rest of it for ever.
    """
    work, does, done, folder = AT_HAND

    def told() -> None:
        done[number] += 1

    try:
        found = does(work, task, told)
    except (CoreError, EvaluationError) as problem:
        # an error does not travel between processes; its words do
        return problem.message[:MOST_WORDS]
    with open(Path(folder) / str(number), "wb") as file:
        pickle.dump(found, file, protocol=pickle.HIGHEST_PROTOCOL)
    return ""

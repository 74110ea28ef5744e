"""A whole form set, drawn, proved and typeset by several processes, a stretch of forms each, in bounded memory.

The processes are begun from one that has loaded everything and has typeset nothing, since the typesetting has threads
of its own that no copy of a process has. They get the questions as documents, and hand back finished papers.
"""

from __future__ import annotations

import gc
import json
import multiprocessing
import os
import pickle
import shutil
import signal
import tempfile
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from threading import Thread
from typing import Any

from ..algebra import EvaluationError
from ..errors import CoreError
from ..forms import MadeForm, MadeSet, Outlines, drawn_forms, shown_key
from ..notation import Habits
from ..plans import Place, Plan, Pool
from ..questions import CompiledQuestion, load_document
from .papers import Heading, Printing

# So many forms are one stretch: their keys are typeset together, and their papers come back together. Fewer take more
# time, more take more memory.
STRETCH = 10
# So many letters go from process to process at once.
MOST_WORDS = 800
# How often progress is told, in seconds.
TOLD_EVERY = 0.25
# After so many new objects, and how many rounds of that, garbage in circles is looked for.
SELDOM = (50_000, 20, 20)


@dataclass(frozen=True, slots=True)
class Pressed:
    """A stretch of forms with the paper of each and their part of the key, as PDF, and the key of every part of every
    question of each as markup."""

    forms: tuple[MadeForm, ...]
    papers: tuple[bytes, ...]
    key: bytes
    shown: list[list[list[str]]]


class PressError(CoreError, ValueError):
    """Why a set cannot be made."""


@dataclass
class Order:
    """What is to be made: ``outlines`` say which questions and draws each form has."""

    plan: Plan
    heading: Heading
    outlines: Outlines
    seed: str
    # the content of the uploaded pictures by their hash
    pictures: Mapping[str, bytes] = field(default_factory=dict)

    @property
    def count(self) -> int:
        return len(self.outlines.forms)

    def __reduce__(self) -> tuple[Any, ...]:
        """As it travels to another process: the questions as their documents, which are compiled there anew."""
        plan = self.plan
        places = [
            (isinstance(place, Pool), place.take, place.marks, place.bonus, [sent(each) for each in place.candidates])
            for place in plan.places
        ]
        rest = (self.heading, self.outlines, self.seed, dict(self.pictures))
        return arrived, (plan.title, plan.instructions, plan.habits, tuple(plan.sections), plan.across, places, *rest)


def sent(place: Place) -> tuple[Any, ...]:
    question = place.question
    return question.document.model_dump_json(), question.habits, place.key, place.revision, place.first


def arrived(
    title: str, instructions: str, habits: Habits, sections: Any, across: bool, places: list[Any], *rest: Any
) -> Order:  # fmt: skip
    """An order in the process that it was sent to."""
    held: list[Place | Pool] = []
    for pool, take, marks, bonus, questions in places:
        candidates = [
            Place(CompiledQuestion(load_document(json.loads(document)), own), key, revision, first, marks, bonus)
            for document, own, key, revision, first in questions
        ]
        held.append(Pool(candidates, take, marks, bonus) if pool else candidates[0])
    return Order(Plan(title, held, instructions, habits, sections, across), *rest)


class Press:
    """Makes a form set. What is drawn, proved and typeset is the same however many processes there are."""

    def __init__(self, order: Order, processes: int = 0) -> None:
        self.order = order
        self.processes = processes or os.cpu_count() or 1
        self.context = multiprocessing.get_context("forkserver")
        self.context.set_forkserver_preload(["vorlage.core.documents.press"])
        # of every stretch, how many of its forms are made: each is written by one process, so nothing is locked that
        # a process could take with it when it is killed
        self.done = self.context.RawArray("l", max(1, -(-order.count // STRETCH)))

    def stretches(self, progress: Callable[[int], None]) -> Iterator[Pressed]:
        """The stretches in their order. ``progress`` is told how many forms are made, and what it raises ends the work.
        Raises ``PressError``."""
        starts = range(0, self.order.count, STRETCH)
        spans = [range(start, min(start + STRETCH, self.order.count)) for start in starts]
        if len(spans) == 1 or not may_begin_others():
            for span in spans:
                yield self.made_here(span, progress)
            return
        # a process that is killed ends the work with an error; none is begun in its place without end
        theirs, ours = self.context.Pipe(duplex=False)
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        pool = ProcessPoolExecutor(
            min(self.processes, len(spans)), self.context, begun, (self.order, self.done, theirs, folder.name)
        )
        try:
            asked = deque(pool.submit(made_there, number, span) for number, span in enumerate(spans))
            while asked:
                while not wait([asked[0]], TOLD_EVERY).done:
                    progress(sum(self.done))
                # what was handed over is held by nobody else
                if reason := asked.popleft().result():
                    raise PressError("not_made", reason)
                yield taken_over(Path(folder.name) / str(len(spans) - len(asked) - 1))
        except BrokenProcessPool as problem:
            raise PressError("not_made", "A process that made these forms was ended. Try again.") from problem
        finally:
            # whatever they are doing, they end now; and so they do when this process is killed
            ours.close()
            pool.shutdown(cancel_futures=True)
            theirs.close()
            folder.cleanup()

    def made_here(self, span: range, progress: Callable[[int], None]) -> Pressed:
        def told() -> None:
            self.done[0] += 1
            progress(self.done[0])

        try:
            return made(self.order, span, told)
        except (CoreError, EvaluationError) as problem:
            raise PressError("not_made", problem.message) from problem

    def set_of(self, forms: tuple[MadeForm, ...]) -> MadeSet:
        return MadeSet(forms, self.order.outlines)


def may_begin_others() -> bool:
    """Whether this process may have processes of its own."""
    return not multiprocessing.current_process().daemon


def made(order: Order, span: range, told: Callable[[], None]) -> Pressed:
    """A stretch of forms: drawn, proved, and typeset."""
    printing = Printing(order.plan, order.heading, order.pictures.__getitem__)
    forms, papers = list[MadeForm](), list[bytes]()
    counted = not order.outlines.evenness.forms
    for form in drawn_forms(order.plan, order.outlines, order.seed, span, counted):
        forms.append(form)
        papers.append(printing.papers([form]))
        told()
    habits = order.plan.habits
    shown = [[[shown_key(key.key, habits) for key in item.keys] for item in form.items] for form in forms]
    return Pressed(tuple(forms), tuple(papers), printing.key(forms, order.count, span.start > 0), shown)


# What the processes of a pool work on, set as each begins.
WORK: list[Any] = []


def ends_with(client: Connection, folder: str) -> None:
    """End this process when the one that ordered its work lets go of the other end, or is gone: they are no parent and
    child. What has been made for it goes as well."""
    client.poll(None)
    shutil.rmtree(folder, ignore_errors=True)
    os._exit(1)


def taken_over(path: Path) -> Pressed:
    """A stretch that a process has put into a file, which is gone then."""
    with open(path, "rb") as file:
        found: Pressed = pickle.load(file)
    path.unlink()
    return found


def begun(order: Order, done: Any, client: Connection, folder: str) -> None:
    """What a process of the pool does first."""
    Thread(target=ends_with, args=(client, folder), daemon=True).start()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # what is loaded stays, and little of what is made goes round in circles: looking for that is done seldom
    gc.freeze()
    gc.set_threshold(*SELDOM)
    # there are as many of these processes as the typesetting would have threads in each
    os.environ["RAYON_NUM_THREADS"] = "1"
    WORK[:] = [order, done, folder]


def made_there(number: int, span: range) -> str:
    """Make a stretch in a process of the pool and put it into a file; in words why it cannot be made, empty where it
    was.

    What goes back between the processes is short, so that it goes at once or not at all: a process that is ended in the
    middle of a long message would leave the other waiting for the rest of it for ever.
    """
    order, done, folder = WORK

    def told() -> None:
        done[number] += 1

    try:
        found = made(order, span, told)
    except (CoreError, EvaluationError) as problem:
        # an error does not travel between processes; its words do
        return problem.message[:MOST_WORDS]
    with open(Path(folder) / str(number), "wb") as file:
        pickle.dump(found, file, protocol=pickle.HIGHEST_PROTOCOL)
    return ""

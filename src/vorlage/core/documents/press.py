"""A whole form set, drawn, proved and typeset by several processes, a stretch of forms each, in bounded memory.

The processes are begun from one that has loaded everything and has typeset nothing, since the typesetting has threads
of its own that no copy of a process has. They get the questions as documents, and hand back finished papers.
"""

from __future__ import annotations

import gc
import json
import multiprocessing
import os
import signal
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from threading import Thread
from typing import Any

from ..algebra import EvaluationError
from ..errors import CoreError
from ..forms import MadeForm, MadeSet, Place, Plan, drawn_forms, repeated, shown_key
from ..notation import Habits
from ..questions import CompiledQuestion, load_document
from .papers import Heading, Printing

# So many forms are one stretch: their keys are typeset together, and their papers come back together. Fewer take more
# time, more take more memory.
STRETCH = 10
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
    """What is to be made."""

    plan: Plan
    heading: Heading
    count: int
    seed: str
    # the content of the uploaded pictures by their hash
    pictures: Mapping[str, bytes] = field(default_factory=dict)

    def __reduce__(self) -> tuple[Any, ...]:
        """As it travels to another process: the questions as their documents, which are compiled there anew."""
        plan = self.plan
        places = [
            (place.question.document.model_dump_json(), place.question.habits, place.key, place.revision)
            for place in plan.places
        ]
        rest = (self.heading, self.count, self.seed, dict(self.pictures))
        return arrived, (plan.title, plan.instructions, plan.habits, places, *rest)


def arrived(title: str, instructions: str, habits: Habits, places: list[Any], *rest: Any) -> Order:
    """An order in the process that it was sent to."""
    compiled = [
        Place(CompiledQuestion(load_document(json.loads(document)), own), key, revision)
        for document, own, key, revision in places
    ]
    return Order(Plan(title, compiled, instructions, habits), *rest)


class Press:
    """Makes a form set. What is drawn, proved and typeset is the same however many processes there are."""

    def __init__(self, order: Order, processes: int = 0) -> None:
        self.order = order
        self.processes = processes or os.cpu_count() or 1
        self.context = multiprocessing.get_context("forkserver")
        self.context.set_forkserver_preload(["vorlage.core.documents.press"])
        self.done = self.context.Value("l", 0)

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
        pool = ProcessPoolExecutor(
            min(self.processes, len(spans)), self.context, begun, (self.order, self.done, theirs)
        )
        try:
            asked = deque(pool.submit(made_there, span) for span in spans)
            while asked:
                while not wait([asked[0]], TOLD_EVERY).done:
                    progress(self.done.value)
                # what was handed over is held by nobody else
                found = asked.popleft().result()
                if isinstance(found, str):
                    raise PressError("not_made", found)
                yield found
        except BrokenProcessPool as problem:
            raise PressError("not_made", "A process that made these forms was ended. Try again.") from problem
        finally:
            # whatever they are doing, they end now; and so they do when this process is killed
            ours.close()
            pool.shutdown(cancel_futures=True)
            theirs.close()

    def made_here(self, span: range, progress: Callable[[int], None]) -> Pressed:
        def told() -> None:
            self.done.value += 1
            progress(self.done.value)

        try:
            return made(self.order, span, told)
        except (CoreError, EvaluationError) as problem:
            raise PressError("not_made", problem.message) from problem

    def set_of(self, forms: tuple[MadeForm, ...]) -> MadeSet:
        return MadeSet(forms, repeated(self.order.plan, self.order.count))


def may_begin_others() -> bool:
    """Whether this process may have processes of its own."""
    return not multiprocessing.current_process().daemon


def made(order: Order, span: range, told: Callable[[], None]) -> Pressed:
    """A stretch of forms: drawn, proved, and typeset."""
    printing = Printing(order.plan, order.heading, order.pictures.__getitem__)
    forms, papers = list[MadeForm](), list[bytes]()
    for form in drawn_forms(order.plan, order.count, order.seed, span):
        forms.append(form)
        papers.append(printing.papers([form]))
        told()
    habits = order.plan.habits
    shown = [[[shown_key(key.key, habits) for key in item.keys] for item in form.items] for form in forms]
    return Pressed(tuple(forms), tuple(papers), printing.key(forms, order.count, span.start > 0), shown)


# What the processes of a pool work on, set as each begins.
WORK: list[Any] = []


def ends_with(client: Connection) -> None:
    """End this process when the one that ordered its work lets go of the other end, or is gone: they are no parent and
    child."""
    client.poll(None)
    os._exit(1)


def begun(order: Order, done: Any, client: Connection) -> None:
    """What a process of the pool does first."""
    Thread(target=ends_with, args=(client,), daemon=True).start()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # what is loaded stays, and little of what is made goes round in circles: looking for that is done seldom
    gc.freeze()
    gc.set_threshold(*SELDOM)
    # there are as many of these processes as the typesetting would have threads in each
    os.environ["RAYON_NUM_THREADS"] = "1"
    WORK[:] = [order, done]


def made_there(span: range) -> Pressed | str:
    """A stretch, made in a process of the pool; why it cannot be made, in words."""
    order, done = WORK

    def told() -> None:
        with done.get_lock():
            done.value += 1

    try:
        return made(order, span, told)
    except (CoreError, EvaluationError) as problem:
        # an error does not travel between processes; its words do
        return problem.message

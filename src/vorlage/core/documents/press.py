"""A whole form set, drawn, proved and typeset by several processes, a stretch of forms each, in bounded memory.

The processes are copies of the one that begins: they share the compiled questions, and hand back finished documents.
"""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import signal
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from multiprocessing.pool import AsyncResult
from typing import Any, BinaryIO

from ..algebra import EvaluationError
from ..errors import CoreError
from ..forms import MadeForm, MadeSet, Plan, drawn_forms, repeated
from .joining import joined
from .papers import Heading, Printing

# So many forms are one stretch: their keys are one part of the key, and their papers come back together.
STRETCH = 50
# How often progress is told, in seconds.
TOLD_EVERY = 0.25
PARENT_DEATH = 1  # PR_SET_PDEATHSIG


@dataclass(frozen=True, slots=True)
class Pressed:
    """A stretch of forms with the paper of each and their part of the key, as PDF."""

    forms: tuple[MadeForm, ...]
    papers: tuple[bytes, ...]
    key: bytes


class PressError(CoreError, ValueError):
    """Why a set cannot be made."""


@dataclass
class Order:
    """What is to be made."""

    plan: Plan
    heading: Heading
    count: int
    seed: str
    picture: Callable[[str], bytes] | None = None


class Press:
    """Makes a form set. What is drawn, proved and typeset is the same however many processes there are."""

    def __init__(self, order: Order, processes: int = 0) -> None:
        self.order = order
        self.processes = processes or os.cpu_count() or 1
        context = multiprocessing.get_context("fork")
        self.done = context.Value("l", 0)
        self.context = context

    def stretches(self, progress: Callable[[int], None]) -> Iterator[Pressed]:
        """The stretches in their order. ``progress`` is told how many forms are made, and what it raises ends the work.
        Raises ``PressError``."""
        starts = range(0, self.order.count, STRETCH)
        spans = [range(start, min(start + STRETCH, self.order.count)) for start in starts]
        if len(spans) == 1:
            yield self.made_here(spans[0], progress)
            return
        begin = (self.order, self.done, os.getpid())
        with self.context.Pool(min(self.processes, len(spans)), begun, begin) as pool:
            asked = [pool.apply_async(made_there, (span,)) for span in spans]
            for place, result in enumerate(asked):
                self.wait(result, progress)
                found = result.get()
                if isinstance(found, str):
                    raise PressError("not_made", found)
                # what was handed over is held by nobody else
                asked[place] = None  # type: ignore[call-overload]
                yield found

    def wait(self, result: AsyncResult[Any], progress: Callable[[int], None]) -> None:
        while not result.ready():
            result.wait(TOLD_EVERY)
            progress(self.done.value)

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


def made(order: Order, span: range, told: Callable[[], None]) -> Pressed:
    """A stretch of forms: drawn, proved, and typeset."""
    printing, forms, papers = Printing(order.plan, order.heading, order.picture), list[MadeForm](), list[bytes]()
    for form in drawn_forms(order.plan, order.count, order.seed, span):
        forms.append(form)
        papers.append(printing.papers([form]))
        told()
    return Pressed(tuple(forms), tuple(papers), printing.key(forms, order.count))


# What the processes of a pool work on, set as each begins.
WORK: list[Any] = []


def ends_with(parent: int) -> None:
    """Let this process end when the one that began it does."""
    ctypes.CDLL(None).prctl(PARENT_DEATH, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def begun(order: Order, done: Any, parent: int) -> None:
    """What a process of the pool does first."""
    ends_with(parent)
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


def joined_meanwhile(*works: tuple[Sequence[tuple[str, bytes]], BinaryIO]) -> None:
    """Join several documents at the same time, each from its parts into its file: the first here, the others in
    processes of their own. Raises ``PressError``."""
    context, parent = multiprocessing.get_context("fork"), os.getpid()
    others = [context.Process(target=joined_there, args=(parent, *work)) for work in works[1:]]
    for process in others:
        process.start()
    joined(*works[0])
    for process in others:
        process.join()
        if process.exitcode:
            raise PressError("not_made", "The parts could not be joined.")


def joined_there(parent: int, documents: Sequence[tuple[str, bytes]], into: BinaryIO) -> None:
    ends_with(parent)
    joined(documents, into)
    into.flush()

"""Questions out of plain text: what stands in notes, word processors and chat windows, and what we write ourselves.

Nothing is dropped in silence: a line that fits nowhere is named, and what was no more than likely is told as a guess.
"""

from __future__ import annotations

from dataclasses import dataclass
from time import thread_time

from ...budget import OutOfBudget, budgeted
from ..drafted import Drafted, Remark
from . import layout
from .making import HERE, Maker, Place
from .pieces import Block
from .sorting import Sorter

# What understanding one question may take, in steps and in seconds of the processor, and all of them together.
STEPS, SECONDS, ALTOGETHER = 200_000, 0.25, 5.0
# A text is sent with the page until it is taken, beside a few fields for every question.
MOST_CHARACTERS, MOST_QUESTIONS = 200_000, 500


@dataclass
class Reading:
    """What a text holds: its questions in order, and the lines that belong to none."""

    questions: list[Drafted]
    unread: list[Remark]


class TooMuch(ValueError):
    """A text that is longer than one that is read at once."""


def read_plain(text: str, place: Place = HERE) -> Reading:
    """The questions of a text. Raises ``TooMuch``."""
    if len(text) > MOST_CHARACTERS:
        raise TooMuch(f"At most {MOST_CHARACTERS // 1000} 000 characters are read at once: take it in pieces.")
    sorter = Sorter(layout.tidied(text).split("\n"))
    blocks = sorter.blocks()
    if len(blocks) > MOST_QUESTIONS:
        raise TooMuch(f"There are {len(blocks)} questions; at most {MOST_QUESTIONS} are read at once.")
    until = thread_time() + ALTOGETHER
    return Reading([drafted(block, place, until) for block in blocks], sorter.unread)


def drafted(block: Block, place: Place, until: float) -> Drafted:
    """The question of a block; what would take too long to be understood is said, and the others go on."""
    words = "This takes too long to be worked out: make its answer simpler."
    if thread_time() < until:
        try:
            with budgeted(STEPS, SECONDS):
                return Maker(block, place).drafted()
        except OutOfBudget:
            pass
    else:
        words = "The questions before this one took too long to be worked out: take the rest by itself."
    title = block.title or " ".join(" ".join(block.stem.text).split()[:7])
    return Drafted(block.line, {"title": title[:200]}, faults=[Remark(block.line, words)])

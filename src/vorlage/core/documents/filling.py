"""What is left of a page, given to the room for working on it.

A paper is laid out once to see where its questions begin and end; then the room of every part grows by its share of
what its page has left. Nothing moves to another page by that: what is given is less than what is free.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from .look import Look

# What a part has for working beyond its own room, in millimetres, by the number of its question from 1 and its own
# from 0.
Extra = Mapping[tuple[int, int], float]
NO_MORE: Extra = {}
# The parts of a question that have room for working, in millimetres, and the steps in which each can grow.
Rooms = Mapping[int, tuple[float, float]]
# The steps of what a room is filled with; one that is filled with nothing grows by this.
STEPS = {"lines": 8.0, "squares": 5.0, "axes": 5.0}
STEP = 1.0
# Millimetres of a page that stay free: for the distance to what would follow, and for rounding.
STAYS_FREE = 4.0
# No room grows to more than so many times its own.
MOST_TIMES = 3.0


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a question begins or ends: the page, and millimetres from its top."""

    begins: bool
    page: int
    at: float


def read_spots(found: Sequence[Sequence[object]]) -> list[Spot]:
    return [Spot(what == "begins", int(str(page)), float(str(at))) for what, page, at in found]


def shared_out(spots: Sequence[Spot], rooms: Sequence[Sequence[Rooms]], look: Look) -> Iterator[Extra]:
    """For every paper what its parts get: ``rooms`` are those of each question of each paper, ``spots`` where they
    begin and end, in the same order."""
    pairs = list(zip(spots[::2], spots[1::2], strict=True))
    for questions in rooms:
        yield of_paper([(*pairs.pop(0), own) for own in questions], look)


def of_paper(questions: Sequence[tuple[Spot, Spot, Rooms]], look: Look) -> Extra:
    """What the parts of one paper get."""
    extra: dict[tuple[int, int], float] = {}
    # a page on which a question goes on to the next is full
    full = {page for begins, ends, _ in questions for page in range(begins.page, ends.page)}
    for page in {ends.page for _, ends, _ in questions} - full:
        here = [(number, *each) for number, each in enumerate(questions, start=1) if each[1].page == page]
        left = look.bottom - max(ends.at for _, _, ends, _ in here) - STAYS_FREE
        whole = [each for each in here if each[1].page == page]
        # a question stays as high as one that is not broken
        most = {number: look.page_height - STAYS_FREE - (ends.at - begins.at) for number, begins, ends, _ in whole}
        parts = {(number, part): room for number, _, _, rooms in whole for part, room in rooms.items()}
        given = dict.fromkeys(parts, 0.0)
        while True:
            # whoever has the least for its size gets the next step
            open_to_more = [
                where for where, (own, step) in parts.items()
                if step <= min(left, most[where[0]]) and given[where] + step <= own * (MOST_TIMES - 1)
            ]  # fmt: skip
            if not open_to_more:
                break
            next_one = min(open_to_more, key=lambda where: (given[where] + parts[where][1]) / parts[where][0])
            step = parts[next_one][1]
            given[next_one] += step
            left -= step
            most[next_one[0]] -= step
        extra |= {where: more for where, more in given.items() if more}
    return extra

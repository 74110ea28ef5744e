"""What an answer says, and which draws of a question answer differently."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from heapq import heappop, heappush, heapreplace
from itertools import count
from typing import TYPE_CHECKING

from ..draws import keep_value
from ..notation import line, names_in
from ..plans import Place
from ..questions import DrawnQuestion
from ..text import QuestionText

if TYPE_CHECKING:
    from .items import MadeItem

# So many draws are looked through at most for such as answer differently, and so many for each form where that is more;
# so many that bring nothing new are enough.
MOST_LOOKED_THROUGH, OF_EACH_FORM, NOTHING_NEW = 1500, 3, 150
LABEL = re.compile(r"[A-Z](?![a-z])|\d+")


def as_shown(drawn: DrawnQuestion, text: QuestionText) -> str:
    """A text that is offered, with what the draw puts into it; not for reading."""
    names = sorted(set[str]().union(*(names_in(tree) for tree in text.trees.values())) & drawn.values.keys())
    return text.source + "".join(f"\x1f{name}={keep_value(drawn.values[name])}" for name in names)


def said(drawn: DrawnQuestion, part: int, printed: str = "") -> str:
    """What the key of a part says, whatever letters it stands under: two draws share an answer when this is the same.
    ``printed`` is the key as it is printed, where that is known.

    Empty where the part has no key in this draw.
    """
    answer = drawn.answers[part]
    if answer is None or not drawn.question.document.parts[part].answer.asks:
        return ""
    printed = printed or line(answer.key_tree())
    if not drawn.question.options[part]:
        return printed
    offered = {label: as_shown(drawn, text) for label, text in drawn.offered(part)}
    if not offered:
        return printed
    found = [offered.get(label, label) for label in LABEL.findall(printed)]
    # ticked options have no order; pairs begin with the number of their left side, items are asked for in an order
    ordered = any(label.isdigit() for label in offered) or "<" in printed
    text = "\x1e".join(found if ordered else sorted(found)) or printed
    return blake2b(text.encode(), digest_size=9).hexdigest()


@dataclass(frozen=True, slots=True)
class Drawable:
    """A draw that could be given to a form: its number, and what is compared."""

    number: int
    # what the key of each part says; empty for parts that ask nothing
    said: tuple[str, ...]
    # the letters of the right options, by the number of the part
    letters: tuple[tuple[int, str], ...]
    work: tuple[float, ...]
    # the question of a form that it is, where that was made of it at once
    made: MadeItem | None = None


def draws_from(place: Place, start: int) -> Iterator[int]:
    """The numbers of a question's draws from ``start`` on, without end; behind the last different one comes the first,
    and when all have been, others that differ in the order of what is offered."""
    available = place.question.parameters.count
    for number in count() if available is None else range(available):
        yield start + number if available is None else 1 + (start + number - 1) % available
    yield from count((available or 0) + 1)


def apart(
    scanned: Sequence[Drawable], needed: int, wanted: int, taken: Sequence[Drawable] = ()
) -> list[list[Drawable]]:
    """Draws to choose ``needed`` from, one of a list each: no two of different lists answer a part alike where there
    are enough answers; where there are not, each answer stands as seldom as can be. ``taken`` are given to forms
    already."""
    parts = range(len(scanned[0].said) if scanned else 0)
    heard = [{each.said[part] for each in scanned} for part in parts]
    asked = [part for part in parts if heard[part] != {""}]
    enough = [part for part in asked if len(heard[part]) >= needed]
    # where answers are far too few, one more of each than is needed leaves something to choose from
    caps = {
        part: 1 if part in enough else -(-needed // len(heard[part])) + (len(heard[part]) * 2 < needed)
        for part in asked
    }
    short = [part for part in asked if part not in enough and len(heard[part]) > 1]
    if len(short) < 2:
        lists = by_answer(scanned, enough, wanted, taken, *((part, caps[part]) for part in short))
        if len(lists) >= needed:
            return lists
    # where they are nearly enough, those are taken that are shared least, and no others
    scarce = any(needed / 2 < len(heard[part]) < needed for part in asked)
    used = {part: Counter(each.said[part] for each in taken) for part in asked}
    found: list[Drawable] = []
    left: list[Drawable] = []

    def note(each: Drawable) -> None:
        found.append(each)
        for part in asked:
            used[part][each.said[part]] += 1

    for each in scanned:
        fits = not scarce and all(used[part][each.said[part]] < caps[part] for part in asked)
        if fits and len(found) < wanted:
            note(each)
        else:
            left.append(each)
    # what is shared least first; that is never less than it was, so only the first has to be looked at again
    waiting = [(0, k) for k in range(len(left))]
    while len(found) < needed and waiting:
        known, k = heappop(waiting)
        now = sum(used[part][left[k].said[part]] for part in asked)
        if now > known:
            heappush(waiting, (now, k))
        else:
            note(left[k])
    return [[each] for each in found]


def by_answer(
    scanned: Sequence[Drawable], parts: Sequence[int], wanted: int, taken: Sequence[Drawable],
    short: tuple[int, int] | None = None,
) -> list[list[Drawable]]:  # fmt: skip
    """Draws that share an answer in one list, so that those of different lists share none in these parts.

    ``short`` is a part that has too few answers, and how many lists may have each of them; draws of one list answer it
    alike.
    """
    # which list has an answer; -1 for those that are given to forms already
    of_answer = {(part, each.said[part]): -1 for each in taken for part in parts}
    lists: list[list[Drawable]] = []
    # by the answer to the short part, its lists, the shortest first as far as is known
    of_short: dict[str, list[tuple[int, int]]] = {}
    for each in scanned:
        answers = [(part, each.said[part]) for part in parts]
        there = {of_answer[answer] for answer in answers if answer in of_answer}
        alike = of_short.setdefault(each.said[short[0]], []) if short else []
        if not there and len(lists) < wanted and (not short or len(alike) < short[1]):
            there = {len(lists)}
            heappush(alike, (0, len(lists)))
            lists.append([])
        elif not there and alike:
            there = {shortest(alike, lists)}
        if len(there) == 1 and (own := there.pop()) >= 0 and (not short or speaks(lists[own], short[0], each)):
            lists[own].append(each)
            of_answer.update(dict.fromkeys(answers, own))
    return lists


def shortest(numbers: list[tuple[int, int]], lists: Sequence[Sequence[Drawable]]) -> int:
    """The number of the shortest of some lists, which are a heap by how long they were when last looked at."""
    while (long := len(lists[numbers[0][1]])) > numbers[0][0]:
        heapreplace(numbers, (long, numbers[0][1]))
    return numbers[0][1]


def speaks(some: Sequence[Drawable], part: int, each: Drawable) -> bool:
    """Whether the draws of a list answer a part as this one does."""
    return not some or some[0].said[part] == each.said[part]

"""What counts of several: of attempts, of tries of a part, of times that it was handed in, of similar questions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from .records import PartMark, less
from .totals import Total

# What costs nothing and uses up nothing: nobody knows more after it than before.
NO_TRY = frozenset({"blank", "unreadable", "waiting"})


def that_counts(which: str, totals: Sequence[Total]) -> Total:
    """Of the totals of a student's attempts, in their order, what counts: the ``best`` by its share, the ``latest``,
    the ``first``, or the ``mean`` of the shares, out of what the first can reach. While somebody has to look at one of
    them that could change it, it is so far."""
    if which in {"first", "latest"}:
        return totals[0 if which == "first" else -1]
    waiting, unreadable = sum(each.waiting for each in totals), sum(each.unreadable for each in totals)
    if which == "best":
        return replace(max(totals, key=share_of), waiting=waiting)
    most = totals[0].most
    mean = sum(map(share_of, totals), Fraction(0)) / len(totals)
    return Total(mean * most, most, waiting, unreadable)


def share_of(total: Total) -> Fraction:
    """The share that was reached of what can be reached."""
    return total.reached / total.most if total.most else Fraction(0)


def best_of_tries(tries: Sequence[PartMark], cost: Fraction) -> PartMark:
    """The best mark of the tries of one part, in their order, each after those before it; the earliest of equal ones.
    What is empty or cannot be read is no try and costs nothing, and what waits for somebody is the one that counts: it
    was given last."""
    counted, found = 0, list[PartMark]()
    for each in tries:
        found.append(less(each, cost * counted))
        counted += each.outcome not in NO_TRY
    if found[-1].outcome == "waiting":
        return found[-1]
    # what stands there is better than nothing that stood there before
    return max(found, key=lambda each: (each.marks, each.outcome not in NO_TRY))


def best_of_times(times: Sequence[PartMark]) -> int:
    """Of what a part came to each time that it was handed in, in their order, which counts where the best does, by its
    number from 0: with the most marks, the latest of equal ones; what somebody has to look at ends what was before."""
    waits = max((k for k, each in enumerate(times) if each.outcome == "waiting"), default=0)
    return max(range(waits, len(times)), key=lambda k: (times[k].marks, k))


def tries_used(outcomes: Sequence[str]) -> int:
    """How many tries of a part were used up by answers that came to these."""
    return sum(each not in NO_TRY for each in outcomes)


def is_settled(outcomes: Sequence[str], tries: int | None) -> bool:
    """Whether nothing more can be earned on a part by trying it again: it is right, or all tries are used up."""
    return "right" in outcomes or (tries is not None and tries_used(outcomes) >= tries)


def best_question(marks: Mapping[int, Sequence[PartMark]]) -> int:
    """Of a question and those that were had instead of it, by their positions, the one that counts: with the most
    marks, the first of equal ones."""
    return max(sorted(marks), key=lambda position: sum((each.marks for each in marks[position]), Fraction(0)))

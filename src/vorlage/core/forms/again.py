"""Forms for further attempts: which one a student has next, and from which attempt on numbers must come again."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass

# A form by its places: of each the question that stands there, and its draw.
Shown = Sequence[tuple[Hashable, Hashable]]


def next_form(forms: Mapping[int, Shown], had: Collection[int], used: Mapping[int, int]) -> int:
    """The form for somebody who had some: no draw of theirs stands on it, else as few as can be; then as few questions
    of theirs as can be; then the one that fewest have had. The first of equal ones."""
    draws = {draw for form in had for draw in forms.get(form, ())}
    questions = {question for question, _ in draws}

    def cost(form: int) -> tuple[int, int, int]:
        shown = forms[form]
        again = sum(draw in draws for draw in shown)
        return again, sum(question in questions for question, _ in shown), used.get(form, 0)

    return min(forms, key=cost)


@dataclass(frozen=True, slots=True)
class Repeats:
    """Up to which attempt no draw comes again, whichever forms were had before; and of every place that can be the
    cause, up to which by itself."""

    sure: int
    places: Mapping[int, int]


def repeats_in(forms: Mapping[int, Shown]) -> Repeats:
    """From when on draws must be had again on these forms.

    Of one form at most so many others, itself included, have a draw of it; so after ``k`` attempts at most ``k`` times
    as many are spent, and while that is fewer than there are forms, another one has no draw that was had.
    """
    many = len(forms)
    if not many:
        return Repeats(0, {})
    by_place = [Counter(column) for column in zip(*forms.values())]
    most = max(1 + sum(count[draw] - 1 for count, draw in zip(by_place, shown)) for shown in forms.values())
    alone = {place: attempts_of(max(count.values()), many) for place, count in enumerate(by_place)}
    return Repeats(attempts_of(most, many), {place: up_to for place, up_to in alone.items() if up_to < many})


def attempts_of(spent: int, many: int) -> int:
    """How many attempts there are where each spends so many of the forms at most."""
    return -(-many // spent)

"""What many people answered, counted: for the class to see, and never so few that one could be told from it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..marking import FEWEST


@dataclass(frozen=True, slots=True)
class Tally:
    """How many gave an answer. ``label`` is markup that the core wrote, or what somebody typed."""

    label: str
    count: int
    is_markup: bool = False


def shown_count(answers: int, more_may_come: bool) -> int:
    """How many of so many answers are counted: none below five; while more may come whole fives, so that nobody's is
    told by what it changes."""
    if answers < FEWEST:
        return 0
    return answers - answers % FEWEST if more_may_come else answers


def tallies(given: Sequence[tuple[Mapping[str, Any], Any]]) -> list[Tally]:
    """What was given to one part, counted. Each answer comes with the part as it stood on its own form (as
    ``StudentPart`` is kept): what is chosen is told apart by what it says, whatever letter it stood under."""
    if not given:
        return []
    part = given[0][0]
    shape = part["shape"]
    if shape == "options":
        return of_choices(part, given)
    if shape in {"words", "scale"}:
        steps = part["words"] if shape == "words" else [str(step) for step in range(1, part["steps"] + 1)]
        counts = Counter(str(response) for _, response in given)
        return [Tally(each, counts[each]) for each in steps]
    if shape == "places":
        marked = Counter(len(response) for _, response in given if isinstance(response, list))
        return [Tally(f"{count} place{'' if count == 1 else 's'}", marked[count]) for count in sorted(marked)]
    if shape in {"items", "pairs"}:
        return most_first(Counter(in_words(own, response) for own, response in given), is_markup=True)
    if shape == "gaps":
        return most_first(Counter(in_gaps(own, response) for own, response in given), is_markup=False)
    # what was written at length stands in an order that tells nothing of when it came
    return most_first(Counter(" ".join(str(response).split()) for _, response in given), is_markup=False)


def of_choices(part: Mapping[str, Any], given: Iterable[tuple[Mapping[str, Any], Any]]) -> list[Tally]:
    """Every option with how many chose it, in the order of the first form."""
    counts: Counter[str] = Counter()
    for own, response in given:
        said = dict(own["offers"])
        chosen = response if isinstance(response, list) else [response]
        counts.update({said[letter] for letter in chosen if letter in said})
    return [Tally(text, counts[text], is_markup=True) for _, text in part["offers"]]


def in_words(part: Mapping[str, Any], response: Any) -> str:
    """An order or pairs by what they say."""
    said = dict(part["offers"])
    if isinstance(response, Mapping):
        pairs = sorted((str(left), str(right)) for left, right in response.items() if right)
        return "; ".join(f"{said.get(left, '')} – {said.get(right, '')}" for left, right in pairs)
    return ", ".join(said.get(letter.strip(), "") for letter in str(response).split(","))


def in_gaps(part: Mapping[str, Any], response: Any) -> str:
    pieces = response if isinstance(response, list) else [response]
    return "; ".join(str(piece).strip() or "–" for piece in pieces)


def most_first(counts: Counter[str], is_markup: bool) -> list[Tally]:
    """What was given most often first, and what was given equally often by its letters."""
    found = sorted(counts.items(), key=lambda each: (-each[1], each[0].casefold(), each[0]))
    return [Tally(label, count, is_markup) for label, count in found]

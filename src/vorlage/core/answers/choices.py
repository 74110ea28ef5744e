"""Answers that are chosen: one or many options, true or false, pairs, an order.

A response names options by their places in the document, from 1: ``2`` or ``[1, 3]``; an object ``{"1": 2}`` for
pairs. On paper and on the desk options have letters in the order in which they are shown; ``letters`` of a drawn
answer turns one into the other.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

from ..algebra import Certainty, Condition, Values
from ..notation import Node, NotationError, Settings, Text, names_in, read_authored
from .specification import ChoiceAnswer, MatchAnswer, OrderAnswer, TrueFalseAnswer
from .verdict import NOTHING, PARTLY, RIGHT, WAITING, WRONG, Verdict, of_share, unread

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
TRUE = frozenset(["true", "t", "yes", "y", "1", "right", "✓"])
FALSE = frozenset(["false", "f", "no", "n", "0", "wrong", "✗"])


class Unreadable(NotationError):
    """A response that names no options."""

    def __init__(self, message: str) -> None:
        super().__init__("no_option", message)


def places(response: Any, order: tuple[int, ...], count: int) -> list[int]:
    """The options that a response names, as places from 0.

    A number counts from 1 in the document's order; a letter in the order shown.
    """
    items = response if isinstance(response, list) else re.split(r"[\s,;]+", str(response).strip().removesuffix("."))
    if len(items) == 1 and isinstance(items[0], str) and len(items[0]) > 1 and items[0].isalpha():
        # letters without anything between
        items = list(items[0])
    found = []
    for item in items:
        text = str(item).strip().upper()
        if not text:
            continue
        if (place := place_number(text)) and place <= count:
            found.append(place - 1)
        elif len(text) == 1 and text in LETTERS[:count]:
            found.append(order[LETTERS.index(text)])
        else:
            raise Unreadable(
                f"“{str(item)[:20]}” is none of the options: answer with letters from A to {LETTERS[count - 1]}."
            )
    return found


def place_number(text: str) -> int:
    """A place from 1; 0 for what is none, or is longer than any."""
    return int(text) if text.isdecimal() and len(text) < 4 else 0


def is_blank(response: Any) -> bool:
    return response is None or response in ([], {}) or (isinstance(response, str) and not response.strip())


class ChoiceChecker:
    """One or many options out of several, each with its share."""

    def __init__(self, answer: ChoiceAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings

    def drawn(self, values: Values) -> DrawnChoice:
        """The answer for one draw, its options in the document's order."""
        return DrawnChoice(self.answer, tuple(range(len(self.answer.options))))


@dataclass(frozen=True, slots=True)
class DrawnChoice:
    """Options in the order in which they are shown."""

    answer: ChoiceAnswer
    order: tuple[int, ...]

    def shown_in(self, order: tuple[int, ...]) -> DrawnChoice:
        return replace(self, order=order)

    @property
    def best(self) -> frozenset[int]:
        """The options that earn marks; of one choice those that earn the most."""
        options = self.answer.options
        most = max(option.share for option in options)
        if self.answer.choose == "one":
            return frozenset(k for k, option in enumerate(options) if option.share == most)
        return frozenset(k for k, option in enumerate(options) if option.share > 0)

    def worth(self, place: int) -> Fraction:
        """What choosing an option earns or costs; of many, a wrong one costs as much as a right one earns."""
        share = self.answer.options[place].share
        return -Fraction(1, len(self.best)) if self.answer.choose == "many" and not share else share

    def right_response(self) -> list[int]:
        """A response that is right."""
        return [k + 1 for k in sorted(self.best)][: 1 if self.answer.choose == "one" else None]

    def letters(self, chosen: Iterable[int]) -> str:
        return ", ".join(sorted(LETTERS[self.order.index(k)] for k in chosen))

    def key_tree(self) -> Node:
        """The letters of the best options, as the paper shows them."""
        between = " or " if self.answer.choose == "one" else ", "
        return Text(self.letters(self.best).replace(", ", between))

    def closeness(self) -> str:
        """How it is counted, in words."""
        return "one option" if self.answer.choose == "one" else "every right option, and no other"

    def check(self, response: Any) -> Verdict:
        """The verdict for the options chosen."""
        if is_blank(response):
            return NOTHING
        options = self.answer.options
        try:
            chosen = list(dict.fromkeys(places(response, self.order, len(options))))
            if self.answer.choose == "one" and len(chosen) > 1:
                raise Unreadable("Choose one option.")
        except Unreadable as problem:
            return unread(problem)
        share = min(Fraction(1), sum(map(self.worth, chosen), Fraction(0)))
        told = tuple(options[k].feedback for k in chosen if options[k].feedback)
        reading = self.letters(chosen)
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(of_share(share), share, reading, told, "the options chosen", certainty, tree=Text(reading))


class TrueFalseChecker:
    """A statement that is true or false, or a relation between parameters that decides it."""

    def __init__(self, answer: TrueFalseAnswer, settings: Settings) -> None:
        self.answer = answer
        self.fixed = {"true": True, "false": False}.get(answer.key.strip().lower())
        self.condition: Condition | None = None
        if self.fixed is None:
            tree = read_authored(answer.key, settings)
            if not names_in(tree) <= settings.names:
                strange = sorted(names_in(tree) - settings.names)[0]
                raise NotationError("unknown_name", f"{strange} is not a parameter of this question.")
            self.condition = Condition(tree, settings.angle)

    def drawn(self, values: Values) -> DrawnTrueFalse:
        """The answer for one draw."""
        if self.condition is not None:
            return DrawnTrueFalse(self.condition.holds(values))
        return DrawnTrueFalse(bool(self.fixed))


@dataclass(frozen=True, slots=True)
class DrawnTrueFalse:
    """Whether the statement holds in this draw."""

    holds: bool

    def right_response(self) -> str:
        """A response that is right."""
        return "true" if self.holds else "false"

    def key_tree(self) -> Node:
        """The key as it is printed."""
        return Text("true" if self.holds else "false")

    def closeness(self) -> str:
        """How it is counted, in words."""
        return "true or false"

    def check(self, response: Any) -> Verdict:
        """The verdict for true or false."""
        if is_blank(response):
            return NOTHING
        text = str(response).strip().lower().removesuffix(".")
        if text not in TRUE | FALSE:
            return unread(Unreadable("Answer with true or false."))
        said = text in TRUE
        outcome, certainty = (RIGHT, PROVED) if said == self.holds else (WRONG, REFUTED)
        share = Fraction(outcome == RIGHT)
        shown = Text("true" if said else "false")
        return Verdict(outcome, share, shown.text, (), "true or false", certainty, tree=shown)


class MatchChecker:
    """Pairs to be found; distractors belong to nothing."""

    def __init__(self, answer: MatchAnswer, settings: Settings) -> None:
        self.answer = answer

    def drawn(self, values: Values) -> DrawnMatch:
        """The answer for one draw, its right sides in the document's order."""
        return DrawnMatch(self.answer, tuple(range(len(self.answer.right_sides))))


@dataclass(frozen=True, slots=True)
class DrawnMatch:
    """Pairs whose right sides are shown in an order of their own."""

    answer: MatchAnswer
    order: tuple[int, ...]

    def shown_in(self, order: tuple[int, ...]) -> DrawnMatch:
        return replace(self, order=order)

    def right_response(self) -> dict[str, int]:
        """A response that is right."""
        return {str(k + 1): k + 1 for k in self.best}

    @property
    def best(self) -> list[int]:
        """The pairs that earn marks."""
        return [k for k, worth in enumerate(self.answer.worths) if worth > 0]

    def key_tree(self) -> Node:
        """``1 B, 2 A``: the letter of each left side."""
        return Text(", ".join(f"{k + 1} {LETTERS[self.order.index(k)]}" for k in self.best))

    def closeness(self) -> str:
        """How it is counted, in words."""
        return (
            "a share for every pair"
            if not self.answer.cost
            else f"a share for every pair, less {self.answer.cost} for a wrong one"
        )

    def check(self, response: Any) -> Verdict:
        """The verdict for pairs: an object from left to right, or letters in the order of the left sides."""
        if is_blank(response):
            return NOTHING
        try:
            chosen = self.chosen(response)
        except Unreadable as problem:
            return unread(problem)
        pairs = self.answer.pairs
        # two right sides with the same text are the same
        texts = self.answer.right_sides
        found = [left for left, right in chosen.items() if texts[right] == pairs[left].right]
        worths = self.answer.worths
        share = sum((worths[left] for left in found), Fraction(0)) - self.answer.cost * (len(chosen) - len(found))
        reading = ", ".join(f"{left + 1} {LETTERS[self.order.index(right)]}" for left, right in sorted(chosen.items()))
        right = [left for left in found if worths[left] > 0]
        told = () if share == 1 or not right else (f"{len(right)} of {len(self.best)} pairs are right.",)
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(of_share(share), share, reading, told, "pairs found", certainty, tree=Text(reading))

    def chosen(self, response: Any) -> dict[int, int]:
        """The right side chosen for each left side, as places from 0."""
        count, sides = len(self.answer.pairs), len(self.answer.right_sides)
        if isinstance(response, str) and re.search(r"\d\s*[A-Za-z]", response):
            response = dict(re.findall(r"(\d+)\s*[-–:=]?\s*([A-Za-z])", response))
        if isinstance(response, Mapping):
            found = {}
            for left, right in response.items():
                line = place_number(str(left))
                if not 1 <= line <= count:
                    raise Unreadable(f"There is no line {str(left)[:20]}.")
                if named := places([right], self.order, sides):
                    found[line - 1] = named[0]
            return found
        listed = places(response, self.order, sides)
        if len(listed) > count:
            raise Unreadable(f"There are {count} lines to be matched.")
        return dict(enumerate(listed))


class OrderChecker:
    """Items to be put in order."""

    def __init__(self, answer: OrderAnswer, settings: Settings) -> None:
        self.answer = answer

    def drawn(self, values: Values) -> DrawnOrder:
        """The answer for one draw, its items in the document's order."""
        return DrawnOrder(self.answer, tuple(range(len(self.answer.items))))


@dataclass(frozen=True, slots=True)
class DrawnOrder:
    """Items in the order in which they are shown."""

    answer: OrderAnswer
    order: tuple[int, ...]

    def shown_in(self, order: tuple[int, ...]) -> DrawnOrder:
        return replace(self, order=order)

    def right_response(self) -> list[int]:
        """A response that is right."""
        return [k + 1 for k in range(len(self.answer.items))]

    def key_tree(self) -> Node:
        """The letters in the right order."""
        return Text(", ".join(LETTERS[self.order.index(k)] for k in range(len(self.answer.items))))

    def closeness(self) -> str:
        """How it is counted, in words."""
        return "the longest part in order" if self.answer.score == "run" else "every item in its place"

    def check(self, response: Any) -> Verdict:
        """The verdict for an order of all items."""
        if is_blank(response):
            return NOTHING
        count = len(self.answer.items)
        try:
            chosen = places(response, self.order, count)
            if sorted(chosen) != list(range(count)):
                raise Unreadable(f"Name each of the {count} letters once, in order.")
        except Unreadable as problem:
            return unread(problem)
        if self.answer.score == "run":
            # n items have n - 1 neighbours: a run of one is nothing
            share = Fraction(longest_run(chosen) - 1, count - 1)
        else:
            share = Fraction(sum(place == k for k, place in enumerate(chosen)), count)
        reading = ", ".join(LETTERS[self.order.index(k)] for k in chosen)
        outcome = RIGHT if share == 1 else PARTLY if share else WRONG
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(outcome, share, reading, (), self.closeness(), certainty, tree=Text(reading))


def longest_run(chosen: list[int]) -> int:
    """The length of the longest stretch of items that follow each other as they should.

    >>> longest_run([2, 0, 1, 3])
    2
    """
    longest = length = 1
    for before, after in pairwise(chosen):
        length = length + 1 if after == before + 1 else 1
        longest = max(longest, length)
    return longest


class NoMarksChecker:
    """A part without an answer to be checked: information, a scale, an essay marked by hand."""

    def __init__(self, answer: Any, settings: Settings) -> None:
        self.answer = answer

    def drawn(self, values: Values) -> DrawnNoMarks:
        """The same in every draw."""
        return DrawnNoMarks(self.answer.kind)


@dataclass(frozen=True, slots=True)
class DrawnNoMarks:
    """Nothing that the machine marks."""

    kind: str

    def key_tree(self) -> Node:
        """What stands in the key."""
        return Text({"essay": "marked by hand", "scale": "no marks", "none": "–"}[self.kind])

    def closeness(self) -> str:
        """How it is counted, in words."""
        return {"essay": "by its rubric", "scale": "an opinion", "none": ""}[self.kind]

    def check(self, response: Any) -> Verdict:
        """Nothing is right or wrong here."""
        if is_blank(response):
            return NOTHING
        reading = str(response)[:200]
        if self.kind == "essay":
            return Verdict(WAITING, reading=reading, because="to be marked by hand")
        return Verdict(RIGHT, Fraction(1), reading, because="no marks are given here", code="no_marks")

"""Several answers with their places inside one text, each checked by the rules of its own kind.

A response is a list in the order of the text, an object ``{"1": "12", "2": "rises"}``, or one string with
semicolons between the answers.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Values
from ....notation import Collection, Node, Settings, Text
from ...answer import Answer, DrawnAnswer, Offering
from ...chosen import PROVED, REFUTED, Unreadable, is_blank, place_number
from ...spaces import NOWHERE, Entry, Space
from ...verdict import NOTHING, RIGHT, UNREADABLE, WAITING, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import BlanksAnswer


def said(specification: Answer, response: Any) -> Any:
    """A response as the kind of a gap reads it: what is chosen as it is, what is typed as a string."""
    if response is None:
        return ""
    return response if not specification.typed or isinstance(response, str) else str(response)


class BlanksChecker:
    """The checkers of all gaps, their formulas read once."""

    def __init__(self, answer: BlanksAnswer, settings: Settings) -> None:
        self.answer = answer
        self.checkers = [gap.answer.checker(settings) for gap in answer.gaps]

    def drawn(self, values: Values) -> DrawnBlanks:
        """The answers for one draw. Raises ``EvaluationError`` when one of the keys has no value there."""
        return DrawnBlanks(self.answer, tuple(checker.drawn(values) for checker in self.checkers))


@dataclass(frozen=True, slots=True)
class DrawnBlanks(DrawnAnswer):
    """The answers of all gaps for one draw."""

    answer: BlanksAnswer
    gaps: tuple[DrawnAnswer, ...]

    @property
    def offerings(self) -> Mapping[str, Offering]:
        return {f" {k}{name}": offering for k, gap in enumerate(self.gaps) for name, offering in gap.offerings.items()}

    def shown_in(self, orders: Mapping[str, tuple[int, ...]]) -> DrawnBlanks:
        """With what the gaps offer in these orders."""
        gaps = (
            gap.shown_in({name: orders[f" {k}{name}"] for name in gap.offerings}) if gap.offerings else gap
            for k, gap in enumerate(self.gaps)
        )
        return replace(self, gaps=tuple(gaps))

    def space(self) -> Space:
        return NOWHERE

    def in_gaps(self) -> list[tuple[Entry, ...]]:
        found, first = [], 0
        for gap, drawn in zip(self.answer.gaps, self.gaps):
            found.append(tuple((letter, first + place) for letter, place in drawn.space().entries))
            first += len(gap.answer.texts())
        return found

    def inner(self) -> Sequence[tuple[int, Answer, DrawnAnswer]]:
        return [
            (number, gap.answer, drawn) for number, (gap, drawn) in enumerate(zip(self.answer.gaps, self.gaps), start=1)
        ]

    def fault(self, printed: str | None = None) -> str:
        return next(filter(None, (gap.fault() for gap in self.gaps)), "")

    def right_response(self) -> list[Any]:
        """A response that is right."""
        return [gap.right_response() for gap in self.gaps]

    def key_tree(self) -> Node:
        """The keys in the order of the text."""
        return Collection("list", tuple(gap.key_tree() for gap in self.gaps))

    def closeness(self) -> str:
        """What else counts, in words, gap by gap."""
        said = [gap.closeness() for gap in self.gaps]
        if len(set(said)) == 1:
            return f"{said[0]}, in every gap" if len(said) > 1 and said[0] else said[0]
        return "; ".join(f"{k}: {words}" for k, words in enumerate(said, start=1) if words)

    def check(self, response: Any) -> Verdict:
        """The verdict for all gaps together; one that cannot be read keeps all from being marked."""
        try:
            given = self.given(response)
        except Unreadable as problem:
            return unread(problem)
        if all(is_blank(each) for each in given):
            return NOTHING
        asked = (gap.answer for gap in self.answer.gaps)
        verdicts = [gap.check(said(of, each)) for gap, of, each in zip(self.gaps, asked, given)]
        unreadable = [k for k, verdict in enumerate(verdicts) if verdict.outcome == UNREADABLE]
        if unreadable:
            told = tuple(self.told(k, text) for k in unreadable for text in verdicts[k].feedback[:1])
            return Verdict(UNREADABLE, feedback=told, because="it cannot be read", code=verdicts[unreadable[0]].code)
        waiting = [k for k, verdict in enumerate(verdicts) if verdict.outcome == WAITING]
        if waiting:
            told = tuple(self.told(k, text) for k in waiting for text in verdicts[k].feedback[:1])
            return Verdict(WAITING, feedback=told, because="to be marked by hand", code=verdicts[waiting[0]].code)
        shares = self.answer.shares
        share = sum((part * verdict.share for part, verdict in zip(shares, verdicts)), Fraction(0))
        told = tuple(self.told(k, text) for k, verdict in enumerate(verdicts) for text in verdict.feedback)
        right = sum(verdict.outcome == RIGHT for verdict in verdicts)
        if 0 < share < 1:
            told = (f"{right} of {len(verdicts)} gaps are right.", *told)
        trees = tuple(verdict.tree or Text("–") for verdict in verdicts)
        return Verdict(
            of_share(share),
            share,
            "; ".join(verdict.reading or "–" for verdict in verdicts),
            told,
            "every gap by itself",
            PROVED if share == 1 else REFUTED,
            tree=Collection("list", trees),
        )

    def told(self, gap: int, text: str) -> str:
        return text if len(self.gaps) == 1 else f"Gap {gap + 1}: {text}"

    def given(self, response: Any) -> list[Any]:
        """What was answered in each gap."""
        count = len(self.gaps)
        if is_blank(response):
            return [""] * count
        if isinstance(response, Mapping):
            found = {place_number(str(name)): value for name, value in response.items()}
            strange = [name for name in response if not 1 <= place_number(str(name)) <= count]
            if strange:
                raise Unreadable(f"There is no gap {str(strange[0])[:20]}.")
            return [found.get(k, "") for k in range(1, count + 1)]
        if isinstance(response, str):
            response = [response] if count == 1 else [piece.strip() for piece in response.split(";")]
        if not isinstance(response, list) or len(response) > count:
            raise Unreadable(f"There are {count} gaps: separate their answers by semicolons.")
        return [*response, *[""] * (count - len(response))]

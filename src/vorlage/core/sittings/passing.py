"""Passing: by what one has passed, and what is missing."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from ..answers import shown_marks
from ..marking import Total, share_of, that_counts
from .rules import Rules
from .sentences import nth, share_words

# The totals of an attempt: of the whole, and of its sections by their number in the test.
Totals = tuple[Total, Sequence[Total]]


def passed(rules: Rules, attempts: Sequence[Totals]) -> bool:
    """Whether somebody with these attempts, in their order, has passed: with the attempt that counts, where the best
    does with any, and with the mean of each where the mean does."""
    if not rules.has_pass_mark or not attempts:
        return False
    if rules.which == "best":
        return any(not missing(rules, each) for each in attempts)
    return not missing(rules, that_count(rules, attempts))


def that_count(rules: Rules, attempts: Sequence[Totals]) -> Totals:
    """What counts of some attempts, of the whole and of each section."""
    which = rules.which
    if which == "best":
        best = max(attempts, key=lambda each: share_of(each[0]))
        return next((each for each in attempts if not missing(rules, each)), best)
    if which == "mean":
        sections = zip(*(each for _, each in attempts))
        return that_counts(which, [whole for whole, _ in attempts]), [that_counts(which, each) for each in sections]
    return attempts[0 if which == "first" else -1]


def missing(rules: Rules, attempt: Totals) -> list[str]:
    """What an attempt lacks for passing, each with what there is; nothing where it has passed."""
    whole, sections = attempt
    found = []
    if rules.pass_marks is not None and whole.reached < rules.pass_marks:
        needed = "mark is" if rules.pass_marks == 1 else "marks are"
        found.append(f"{shown_marks(rules.pass_marks)} {needed} needed, and {cut(whole.reached)} are there")
    if rules.pass_share is not None and share_of(whole) < rules.pass_share:
        found.append(f"{share_words(rules.pass_share)} are needed, and {down(share_of(whole))} are there")
    for number, share in enumerate(rules.section_passes):
        if share is None or number >= len(sections) or share_of(sections[number]) >= share:
            continue
        there = down(share_of(sections[number]))
        found.append(f"in the {nth(number + 1)} section {share_words(share)} are needed, and {there} are there")
    return found


def down(share: Fraction) -> str:
    """A share in per cent, never rounded up to what is not there."""
    return f"{cut(share * 100)} %"


def cut(number: Fraction) -> str:
    """A number as it is shown, to a tenth and never rounded up: what is missing never looks as if it were there."""
    return str(shown_marks(Fraction(int(number * 10), 10)))

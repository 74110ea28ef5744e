"""Sections with times of their own: one after the other, without a way back, each for so long.

Where a student is among them is a ``Stage``. Its end is worked out once, when it begins, and kept.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from .clock import USUAL, Allowed
from .rules import Rules


@dataclass(frozen=True, slots=True)
class Stage:
    """The section that a student is at, by its number, since when, and until when; None where it has no end."""

    section: int
    begun: datetime
    ends: datetime | None = None


def length_of(rules: Rules, section: int, allowed: Allowed = USUAL) -> timedelta | None:
    """How long a student has for a section; None where it has no time of its own.

    A share of more time lengthens every section; minutes are shared out among them by their lengths.
    """
    limits = rules.section_limits
    limit = limits[section] if section < len(limits) else None
    if limit is None:
        return None
    together = sum((each for each in limits if each is not None), timedelta(0))
    return limit * (100 + allowed.percent) / 100 + timedelta(minutes=allowed.minutes) * (limit / together)


def earlier(*ends: datetime | None) -> datetime | None:
    """The first of some ends; None where there is none."""
    return min((each for each in ends if each is not None), default=None)


def stage_begun(
    rules: Rules, section: int, at: datetime, ends: datetime | None, allowed: Allowed = USUAL
) -> Stage:  # fmt: skip
    """A section that begins then, for a student who has until ``ends`` altogether."""
    length = length_of(rules, section, allowed)
    return Stage(section, at, None if length is None else earlier(ends, at + length))


def stages_end(
    rules: Rules, sections: Sequence[int], at: datetime, ends: datetime | None, allowed: Allowed = USUAL
) -> datetime | None:
    """The end of whoever begins then and has until ``ends`` altogether: at the latest when all sections are over, where
    each of them has a time."""
    lengths = [length_of(rules, section, allowed) for section in sections]
    known = [length for length in lengths if length is not None]
    return earlier(ends, at + sum(known, timedelta(0))) if len(known) == len(lengths) else ends


def stage_reached(
    rules: Rules, stage: Stage, sections: Sequence[int], now: datetime, ends: datetime | None, allowed: Allowed = USUAL
) -> Stage:
    """Where a student is by now who was at ``stage``: what ran out is followed by the next, the last stays."""
    while stage.ends is not None and now >= stage.ends and (following := next_section(sections, stage.section)):
        stage = stage_begun(rules, following, stage.ends, ends, allowed)
    return stage


def next_section(sections: Sequence[int], section: int) -> int | None:
    """The section after this one; None after the last."""
    return next((each for each in sections if each > section), None)


def takes_section(rules: Rules, stage: Stage, section: int, now: datetime) -> bool:
    """Whether an answer to a section that arrives now counts: to the one that a student is at, and for as long as
    anything is on its way, to those before."""
    return section == stage.section or (section < stage.section and now < stage.begun + rules.grace)


def lengthened_stage(stage: Stage, length: timedelta, now: datetime) -> Stage:
    """A stage of somebody who is given more time; whose time for it is up has it from now on."""
    return stage if stage.ends is None else replace(stage, ends=max(stage.ends, now) + length)

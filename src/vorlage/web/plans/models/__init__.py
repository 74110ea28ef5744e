"""Tests: their sections, their places and the questions of these, their inserts, what is aimed at, and what was done
to them."""

from .inserts import MOST_INSERTS, Insert
from .marks import SchoolMark
from .places import Candidate, Held, Section, Target, TestPlace, room_of
from .steps import Step, snapshot
from .tests import Test, count_uses

__all__ = [
    "MOST_INSERTS",
    "Candidate",
    "Held",
    "Insert",
    "SchoolMark",
    "Section",
    "Step",
    "Target",
    "Test",
    "TestPlace",
    "count_uses",
    "room_of",
    "snapshot",
]

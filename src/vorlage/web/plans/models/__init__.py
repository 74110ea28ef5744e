"""Tests: their sections, their places and the questions of these, what is aimed at, and what was done to them."""

from .places import Candidate, Held, Section, Target, TestPlace
from .steps import Step, snapshot
from .tests import Test, count_uses

__all__ = ["Candidate", "Held", "Section", "Step", "Target", "Test", "TestPlace", "count_uses", "snapshot"]

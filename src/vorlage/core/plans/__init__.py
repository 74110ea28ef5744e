"""Plans: sections, places and pools, which questions a form gets, and choosing questions that meet what is aimed at."""

from .boundaries import TOLD_IN, Boundaries, Grade
from .picking import Pick, Picked, mixed, picked, picked_forms
from .plan import Place, Plan, PlanError, Pool, Room, Section, first_without, numbers_in
from .selection import Offer, Selection, select

__all__ = [
    "TOLD_IN",
    "Boundaries",
    "Grade",
    "Offer",
    "Pick",
    "Picked",
    "Place",
    "Plan",
    "PlanError",
    "Pool",
    "Room",
    "Section",
    "Selection",
    "first_without",
    "mixed",
    "numbers_in",
    "picked",
    "picked_forms",
    "select",
]  # fmt: skip

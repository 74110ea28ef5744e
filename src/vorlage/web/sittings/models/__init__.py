"""Sittings, who takes part, every answer as it arrived, and every mark as it was given.

Answers, marks and what happened are only ever added. The keys are not here: what a student's page reads, of a form and
of its questions, is ``StudentItem``, from which no key can be told.
"""

from .answers import (
    WORKING_PART,
    AnyMark,
    BriefMark,
    Change,
    Comment,
    HintTaken,
    Mark,
    Response,
    SomeMark,
    Tried,
    brief_marks,
)
from .fresh import Fresh, Practised, Similar, replaced
from .sheets import InsertPage, StudentItem, places_in_sections, sections_of
from .sittings import READYING, Event, Note, Opened, Sitting, Way, forms_for, fresh_code
from .takings import MARKING, Taking, allowed_to, by_person, held_marks
from .walls import Wall, WallAnswer

__all__ = [
    "MARKING",
    "READYING",
    "WORKING_PART",
    "AnyMark",
    "BriefMark",
    "Change",
    "Comment",
    "Event",
    "Fresh",
    "HintTaken",
    "InsertPage",
    "Mark",
    "Note",
    "Opened",
    "Practised",
    "Response",
    "Similar",
    "Sitting",
    "SomeMark",
    "StudentItem",
    "Taking",
    "Tried",
    "Wall",
    "WallAnswer",
    "Way",
    "allowed_to",
    "brief_marks",
    "by_person",
    "forms_for",
    "fresh_code",
    "held_marks",
    "places_in_sections",
    "replaced",
    "sections_of",
]  # fmt: skip

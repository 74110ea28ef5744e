"""Sittings: until when a student has, what they see when, what contradicts itself, and all of it in sentences.

Functions of the rules, what is on record of a student, and a moment; nothing here looks at a clock or keeps anything.
"""

from .changes import unequal
from .clock import (
    HANDED_IN,
    MISSED,
    NOT_YET,
    ONLY_HAND_IN,
    OPEN,
    OVER,
    PAUSED,
    TIME_UP,
    USUAL,
    WORKING,
    Allowed,
    Record,
    after_pause,
    closing,
    days_late,
    end_if_begun,
    is_released,
    kept_share,
    last_hand_in,
    last_save,
    may_take_back,
    phase,
    takes_answers,
    with_more_time,
)
from .durations import TimeError, duration_words, read_duration
from .moments import clock, moment_words, read_moment
from .objections import Objection, day_end, objections
from .rules import GRACE, LATE_STARTS, LAYOUTS, MOMENTS, ROWS, TIMES_UP, WAYS, Rules
from .seeing import reached, seen
from .sentences import if_begun_now, sentences
from .sheets import StudentPart, StudentSheet, student_sheet

__all__ = [
    "GRACE",
    "HANDED_IN",
    "LATE_STARTS",
    "LAYOUTS",
    "MISSED",
    "MOMENTS",
    "NOT_YET",
    "ONLY_HAND_IN",
    "OPEN",
    "OVER",
    "PAUSED",
    "ROWS",
    "TIMES_UP",
    "TIME_UP",
    "USUAL",
    "WAYS",
    "WORKING",
    "Allowed",
    "Objection",
    "Record",
    "Rules",
    "StudentPart",
    "StudentSheet",
    "TimeError",
    "after_pause",
    "clock",
    "closing",
    "day_end",
    "days_late",
    "duration_words",
    "end_if_begun",
    "if_begun_now",
    "is_released",
    "kept_share",
    "last_hand_in",
    "last_save",
    "may_take_back",
    "moment_words",
    "objections",
    "phase",
    "reached",
    "read_duration",
    "read_moment",
    "seen",
    "sentences",
    "student_sheet",
    "takes_answers",
    "unequal",
    "with_more_time",
]

"""Questions as plain text: read as people have them, and written so that they read back the same."""

from .making import Place
from .reading import MOST_CHARACTERS, MOST_QUESTIONS, Reading, TooMuch, read_plain
from .writing import write_plain

__all__ = ["MOST_CHARACTERS", "MOST_QUESTIONS", "Place", "Reading", "TooMuch", "read_plain", "write_plain"]

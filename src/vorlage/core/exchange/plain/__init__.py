"""Questions as plain text: read as people have them, and written so that they read back the same."""

from pathlib import Path

from .making import Place
from .reading import MOST_CHARACTERS, MOST_QUESTIONS, Reading, TooMuch, read_plain
from .writing import write_plain

# a page in the layout, to be shown
EXAMPLE = Path(__file__).with_name("example.md")

__all__ = ["EXAMPLE", "MOST_CHARACTERS", "MOST_QUESTIONS", "Place", "Reading", "TooMuch", "read_plain", "write_plain"]

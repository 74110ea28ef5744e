"""Parameters, conditions and draws: what varies in a question, and what draw n is.

``Parameters`` compiles an author's rows; ``Parameters.draw`` gives the values of a draw, the same for
ever for a question, a revision and a number.
"""

from .definitions import DEFINITION_WORDS, DataColumn, Definition, Source, doubtful, read_definition
from .errors import DrawError
from .kept import keep_value, kept_value
from .parameters import Declaration, Draw, Drawing, Parameters, canonical_name
from .showing import Shown, read_shown, readable, shown_value, to_decimals
from .stream import Stream, stream_key

__all__ = [
    "DEFINITION_WORDS",
    "DataColumn",
    "Declaration",
    "Definition",
    "Draw",
    "DrawError",
    "Drawing",
    "Parameters",
    "Shown",
    "Source",
    "Stream",
    "canonical_name",
    "doubtful",
    "keep_value",
    "kept_value",
    "read_definition",
    "read_shown",
    "readable",
    "shown_value",
    "stream_key",
    "to_decimals",
]

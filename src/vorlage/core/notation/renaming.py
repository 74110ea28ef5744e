"""Another name for a parameter, wherever it is used."""

from __future__ import annotations

import re

# maths in a text; "$5 and $6" is money, as the reader of texts has it
SPAN = re.compile(r"(?<!\\)(?P<mark>\${1,2})(?=\S)(?P<maths>(?:[^$\\]|\\.)+?)(?<=\S)(?P=mark)(?!\d)", re.DOTALL)
QUOTED = re.compile(r'("[^"]*")')


def renamed_in_line(text: str, old: str, new: str) -> str:
    """Line maths with a name for another; names of columns and longer names stay as they are.

    >>> renamed_in_line("m*mass + m_1*rope.m", "m", "k")
    'k*mass + m_1*rope.m'
    """
    return re.sub(rf"(?<![A-Za-z0-9_.]){re.escape(old)}(?![A-Za-z0-9_])", lambda found: new, text)


def renamed_in_text(text: str, old: str, new: str) -> str:
    """A question text with a name for another in its maths.

    >>> renamed_in_text("a mass $m$ of m metres", "m", "k")
    'a mass $k$ of m metres'
    """
    return SPAN.sub(lambda span: renamed_in_line(span[0], old, new), text)


def renamed_in_figure(text: str, old: str, new: str) -> str:
    """The lines of a figure: formulas outside quotation marks, question text inside them.

    >>> renamed_in_figure('text (m, 0) "m is $m$"', "m", "k")
    'text (k, 0) "m is $k$"'
    """
    pieces = QUOTED.split(text)
    return "".join((renamed_in_text if k % 2 else renamed_in_line)(piece, old, new) for k, piece in enumerate(pieces))

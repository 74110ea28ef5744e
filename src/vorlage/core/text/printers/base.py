"""What a form in which texts are written says for itself."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from typing import ClassVar

from ...notation import Node, Style
from ..reading import BLANK_SIGN, QuestionText


class TextPrinter(ABC):
    """Writes a text, its maths, its places for answers and its figures in one form.

    Nothing that a person typed becomes markup.
    """

    name: ClassVar[str]

    @abstractmethod
    def text(
        self,
        text: QuestionText,
        show: Callable[[Node, bool], str],
        gaps: Sequence[str] = (),
        figures: Sequence[str] = (),
        inline: bool = False,
    ) -> str:
        """The text; ``show`` turns a maths span's tree into markup, and is told whether it stands by itself.

        ``gaps`` is the markup that stands in the places for answers, ``figures`` that of the figures, in their
        order. ``inline`` leaves out the paragraphs around the text.
        """

    @abstractmethod
    def maths(self, tree: Node, style: Style, block: bool) -> str:
        """A maths span."""

    def at_ease(self, maths: str, block: bool) -> str:
        """A maths span where there is room for it: in a worked solution."""
        return maths

    @abstractmethod
    def gap(self, number: int, offered: Sequence[tuple[str, str]]) -> str:
        """A place for an answer in a text: its number, and the letters and texts that can be chosen there."""

    @abstractmethod
    def picture(self, draw: Callable[[str], str], says: str, number: int = 0) -> str:
        """A figure; ``draw`` gives it as SVG that carries the words it is given, ``says`` is what it shows, and
        ``number`` what it is called by where there are several."""


def filled(markup: str, fillings: Sequence[str], otherwise: str, sign: str = BLANK_SIGN) -> str:
    """Markup with the places for answers, or for figures, filled in their order."""
    pieces = markup.split(sign)
    written = pieces[0]
    for k, piece in enumerate(pieces[1:]):
        written += (fillings[k] if k < len(fillings) else otherwise) + piece
    return written

"""The specification of a part in which nothing is asked."""

from __future__ import annotations

from typing import Literal

from ....notation import Settings
from ...answer import Answer, Checker
from ...spaces import NOWHERE
from ...unmarked import DrawnUnmarked


class NoAnswer(Answer):
    """An information block: nothing is asked."""

    checked = False
    marked = False
    asks = False

    kind: Literal["none"] = "none"

    def made_checker(self, settings: Settings) -> Checker:
        return DrawnUnmarked("–", "", NOWHERE)

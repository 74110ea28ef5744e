"""The specification of an opinion on a scale."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ....notation import Settings
from ...answer import Answer, Checker
from ...asking import Input, text, whole
from ...spaces import Scale
from ...unmarked import DrawnUnmarked

LOW = text(Input("low", label="Steps", example="guessed", words="Lower end of the scale"), "the ends of the scale")
STEPS = whole(Input("steps", default="5", words="How many steps", width="tiny"), "the steps of the scale")
HIGH = text(Input("high", example="certain", words="Upper end of the scale"), "the ends of the scale")


class ScaleAnswer(Answer):
    """An opinion on a scale; no marks."""

    checked = False
    marked = False

    kind: Literal["scale"] = "scale"
    low: Annotated[str, LOW] = Field(default="", max_length=60)
    steps: Annotated[int, STEPS] = Field(default=5, ge=2, le=10)
    high: Annotated[str, HIGH] = Field(default="", max_length=60)

    def made_checker(self, settings: Settings) -> Checker:
        return DrawnUnmarked("no marks", "an opinion", Scale(self.steps, self.low, self.high))

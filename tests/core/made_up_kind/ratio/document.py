"""The specification of a ratio."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from ....notation import Settings
from ...answer import Answer, Checker
from ...asking import Input, text, tick
from .checker import RatioChecker

KEY = text(Input("key", label="Answer", example="2 : 3", mono=True), "the answer")
SIMPLEST = tick(Input("simplest", words="in lowest terms"), "the form asked for")


class RatioAnswer(Answer):
    """Two whole numbers, right in every multiple unless the simplest is asked for."""

    kind: Literal["ratio"] = "ratio"
    key: Annotated[str, KEY] = Field(min_length=1, max_length=200)
    simplest: Annotated[bool, SIMPLEST] = False

    @field_validator("key")
    @classmethod
    def two(cls, key: str) -> str:
        if len(key.split(":")) != 2:
            raise ValueError("A ratio has two numbers with a colon between them.")
        return key

    def made_checker(self, settings: Settings) -> Checker:
        return RatioChecker(self, settings)

    def lines(self) -> list[tuple[str, str]]:
        return [("key", side.strip()) for side in self.key.split(":")]

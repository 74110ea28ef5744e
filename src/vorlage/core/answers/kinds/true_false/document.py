"""The specification of an answer that says whether a statement is true."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Node, Settings
from ...answer import Answer, Checker
from ...records import Line
from ...spelling import key_line
from .checker import TrueFalseChecker


class TrueFalseAnswer(Answer):
    """A statement that is true or false; ``key`` may be a relation between parameters."""

    typed = False

    kind: Literal["true_false"] = "true_false"
    key: Annotated[Line, key_line("true")] = Field(min_length=1)

    @model_validator(mode="before")
    @classmethod
    def from_boolean(cls, given: Any) -> Any:
        if isinstance(given, dict) and isinstance(given.get("key"), bool):
            return {**given, "key": str(given["key"]).lower()}
        return given

    def made_checker(self, settings: Settings) -> Checker:
        return TrueFalseChecker(self, settings)

    def key_as_read(self, settings: Settings) -> Node | None:
        return None

    def lines(self) -> list[tuple[str, str]]:
        return [("key", self.key)]

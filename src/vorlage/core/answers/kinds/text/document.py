"""The specification of an answer in words."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from ....notation import Chemical, Node, Settings, Text
from ...answer import Answer, Checker
from ...asking import Input, choice, listed, tick
from ...records import Limits, Said, renamed
from ...spelling import LIMITS
from ..chemical import chemical_text
from .checker import TextChecker

ACCEPT = listed(
    Input(
        "accept", holds="text", label="Answers",
        example="every accepted answer on a line of its own; with none, somebody reads what is written",
    ),
    str,
    str,
    "the accepted words",
    "answer",
    "accepted answer",
)  # fmt: skip
MATCHES = (("whole", "the whole answer"), ("contains", "somewhere in the answer"), ("pattern", "by a pattern"))
MATCH = choice(Input("match", words="How the words are compared", choices=MATCHES))
CASE = tick(Input("case", words="capitals matter"))
SPACING = tick(Input("spacing", words="spaces matter"))


class TextAnswer(Answer):
    """Words, compared with a list of accepted ones; without a list somebody reads them."""

    line_maths = False

    kind: Literal["text"] = "text"
    accept: Annotated[tuple[Said, ...], ACCEPT] = Field(default=(), max_length=100)
    match: Annotated[Literal["whole", "contains", "pattern"], MATCH] = "whole"
    case: Annotated[bool, CASE] = False
    spacing: Annotated[bool, SPACING] = False
    limits: Annotated[Limits, LIMITS] = ()

    @model_validator(mode="before")
    @classmethod
    def one_or_many(cls, given: Any) -> Any:
        """A single accepted text, and a ``pattern`` by its own name."""
        given = renamed(given, {"mode": "match", "case_sensitive": "case", "key": "accept"})
        if isinstance(given, dict) and isinstance(given.get("pattern"), str):
            rest = {name: value for name, value in given.items() if name != "pattern"}
            given = {**rest, "accept": [given["pattern"]], "match": "pattern"}
        if isinstance(given, dict) and isinstance(given.get("accept"), str):
            return {**given, "accept": [given["accept"]]}
        return given

    @field_validator("accept")
    @classmethod
    def not_blank(cls, accept: tuple[str, ...]) -> tuple[str, ...]:
        if any(not text.strip() for text in accept):
            raise ValueError("An accepted text is not empty: every answer would be right.")
        return accept

    def keyless(self, key: Node) -> Answer:
        return TextAnswer(limits=self.limits)

    def made_checker(self, settings: Settings) -> Checker:
        return TextChecker(self, settings)

    @property
    def varied(self) -> bool:
        return bool(self.accept)

    def copied(self, tree: Node, after: str) -> str | None:
        if isinstance(tree, Text):
            return tree.text
        return chemical_text(tree) if isinstance(tree, Chemical) else super().copied(tree, after)

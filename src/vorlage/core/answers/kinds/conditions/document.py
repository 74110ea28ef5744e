"""The specification of an answer that is whatever meets conditions."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Node, Settings
from ...answer import Answer, Checker
from ...asking import Input, cells_of, choice, plain_cells, tabled, tick, whole
from ...records import Limits, Line, Said, Share, Strict, even_shares
from ...spelling import LIMITS, SAID, SHARE_CELL, key_line
from .checker import ConditionsChecker

RELATIONS = tabled(
    Input(
        "relations", label="Conditions",
        help="A relation in r, which is what is typed (of several values r1, r2, in any order), its share of the "
             "marks, what is said when it is not met",
        note="The answer above is an example; what is typed is called `r`.",
        columns=(
            Input("relation", words="Relation", example="r mod 7 = 0", maths=True, holds="maths"),
            SHARE_CELL,
            SAID,
        ),
    ),
    plain_cells(("relation", "share", "feedback"), {"share": None}),
    cells_of(("relation", "share", "feedback")),
    "the conditions",
    "condition",
    "answer",
)  # fmt: skip
COUNT = whole(
    Input("count", default="1", after="values", words="How many values", width="tiny"), "how many values", "accepted"
)
ALIKE = tick(Input("alike", words="two may be alike"), on=False, off=True)
ITEM_FORMS = (("any", "written in any way"), ("product", "written as a product"), ("sum", "written as a sum"))
FORM = choice(Input("item_form", words="How each value is written", choices=ITEM_FORMS), "how each value is written")


class Requirement(Strict):
    """A relation that the answer has to meet, and the share of the marks it earns; without one what is left is shared
    evenly."""

    relation: Line = Field(min_length=1)
    share: Share | None = None
    feedback: Said = ""

    @model_validator(mode="before")
    @classmethod
    def bare(cls, given: Any) -> Any:
        return {"relation": given} if isinstance(given, str) else given


class ConditionsAnswer(Answer):
    """Any number, or any few numbers, that meet relations in ``r``, or in ``r1``, ``r2``, … in any order."""

    kind: Literal["conditions"] = "conditions"
    # an example, which shows that the relations can be met
    key: Annotated[Line, key_line("28")] = Field(min_length=1)
    relations: Annotated[tuple[Requirement, ...], RELATIONS] = Field(min_length=1, max_length=10)
    # how many values are asked for, and whether they have to differ
    count: Annotated[int, COUNT] = Field(default=1, ge=1, le=6)
    # how each value has to be written
    form: Annotated[Literal["any", "product", "sum"], FORM] = "any"
    different: Annotated[bool, ALIKE] = True
    limits: Annotated[Limits, LIMITS] = ()

    @property
    def shares(self) -> tuple[Fraction, ...]:
        """The share of every relation; they add up to 1."""
        return even_shares([each.share for each in self.relations])

    @model_validator(mode="after")
    def adds_up(self) -> ConditionsAnswer:
        if sum(self.shares, Fraction(0)) != 1:
            raise ValueError("The shares of the conditions have to add up to 1.")
        return self

    def made_checker(self, settings: Settings) -> Checker:
        return ConditionsChecker(self, settings)

    @property
    def varied(self) -> bool:
        return False

    def keyless(self, key: Node) -> Answer:
        example = ", ".join(map(str, range(1, self.count + 1)))
        always = Requirement(relation="1 = 1")
        return ConditionsAnswer(key=example, relations=(always,), count=self.count, limits=self.limits)

    def lines(self) -> list[tuple[str, str]]:
        return [("key", self.key), *(("relations", each.relation) for each in self.relations)]

"""The specification of an answer that matches left sides with right sides."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Settings
from ...answer import Answer, Checker
from ...asking import Asked, Input, Typed, optional
from ...chosen import OFFERED, SHARE, written_rows
from ...records import Member, Offer, Option, Share, SignedShare, even_shares
from .checker import MatchChecker

COST = optional(
    Input("cost", example="1/4", before="each wrong pair costs", words="What a wrong pair costs", width="tiny",
          mono=True, holds="number"),
    "what a wrong pair costs",
    "accepted",
    nothing="0",
)  # fmt: skip


class Pair(Member):
    """A left side with its right side, and what finding them earns, or costs where the two only seem to belong
    together; without a share what is right is shared evenly."""

    telling = ("left", "right")
    found_by = (("left", "right"), ("left",), ("right",))

    left: Option
    right: Option
    share: SignedShare | None = None


def read_pairs(typed: Typed) -> list[dict[str, Any]]:
    return [
        {"id": row.get("id", ""), "left": row["text"], "right": row.get("pair", "")}
        | ({"share": row["share"]} if row.get("share", "").strip() else {})
        for row in written_rows(typed.get("options"))
        if row["text"].strip()
    ]


def read_distractors(typed: Typed) -> list[dict[str, Any]]:
    rows = written_rows(typed.get("options"))
    return [{"id": row.get("id", ""), "text": row["pair"]} for row in rows if not row["text"].strip()]


PAIRS = Asked(
    (
        Input(
            "options", "rows", label="Options",
            note="a line without a left side is a distractor; without shares all pairs earn the same",
            columns=(OFFERED, Input("pair", words="Its right side", example="belongs to it", holds="text"), SHARE),
        ),
    ),
    read_pairs,
    lambda pairs: {
        "options": [
            {"id": pair["id"], "text": pair["left"], "pair": pair["right"], "share": pair["share"] or ""}
            for pair in pairs
        ]
    },
    "the options",
    "pair",
)  # fmt: skip
# a right side that belongs to nothing stands in the same rows, without a left side
DISTRACTORS = Asked(
    (),
    read_distractors,
    lambda given: {"options": [{"id": each["id"], "text": "", "pair": each["text"]} for each in given]},
    each="distractor",
)


class MatchAnswer(Answer):
    """Left sides to be matched with right sides; distractors are right sides that belong to nothing."""

    typed = False

    kind: Literal["match"] = "match"
    pairs: Annotated[tuple[Pair, ...], PAIRS] = Field(min_length=2, max_length=13)
    distractors: Annotated[tuple[Offer, ...], DISTRACTORS] = Field(default=(), max_length=13)
    # what every wrong pair costs
    cost: Annotated[Share, COST] = Fraction(0)

    @property
    def worths(self) -> tuple[Fraction, ...]:
        """What finding each pair earns."""
        return even_shares(pair.share for pair in self.pairs)

    @model_validator(mode="after")
    def possible(self) -> MatchAnswer:
        if sum((worth for worth in self.worths if worth > 0), Fraction(0)) != 1:
            raise ValueError("The shares of the right pairs have to add up to 1.")
        return self

    @property
    def right_sides(self) -> tuple[str, ...]:
        return (*(pair.right for pair in self.pairs), *(each.text for each in self.distractors))

    def made_checker(self, settings: Settings) -> Checker:
        return MatchChecker(self, settings)

    def texts(self) -> tuple[str, ...]:
        return (*(pair.left for pair in self.pairs), *self.right_sides)

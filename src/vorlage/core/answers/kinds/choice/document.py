"""The specification of an answer that is chosen out of several options."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Settings
from ...answer import Answer, Checker
from ...asking import Asked, Input, Typed, choice, tick, ticked
from ...chosen import OFFERED, SHARE, written_rows
from ...records import Member, Option, Said, SignedShare
from .checker import ChoiceChecker

CHOOSE = choice(
    Input(
        "choose", words="How many are chosen",
        choices=(("one", "one option is chosen"), ("many", "every right option is chosen")),
    )
)  # fmt: skip
KEEP_ORDER = tick(Input("keep_order", words="always in this order"), on=False, off=True)


class ChoiceOption(Member):
    """An option: question text, what it earns when chosen, and whether it keeps its place."""

    telling = ("text",)

    text: Option
    share: SignedShare = Fraction(0)
    feedback: Said = ""
    fixed: bool = False


def read_options(typed: Typed) -> list[dict[str, Any]]:
    return [
        {
            "id": row.get("id", ""),
            "text": row["text"],
            "share": row.get("share") or "0",
            "feedback": row.get("feedback", ""),
            "fixed": bool(row.get("fixed")),
        }
        for row in written_rows(typed.get("options"))
    ]


def option_rows(options: Any) -> dict[str, Any]:
    return {
        "options": [
            {
                "id": option["id"],
                "text": option["text"],
                "share": "" if option["share"] == "0" else option["share"],
                "feedback": option["feedback"],
                "fixed": ticked(option["fixed"]),
            }
            for option in options
        ]
    }


OPTIONS = Asked(
    (
        Input(
            "options", "rows", label="Options", note="shares of the marks; the right ones add up to 1",
            columns=(
                OFFERED,
                SHARE,
                Input("feedback", words="What is said to whoever chooses it", example="what is said", holds="text"),
                Input("fixed", "tick", words="stays", help="Keeps its place when the others are shuffled"),
            ),
        ),
    ),
    read_options,
    option_rows,
    "the options",
    "option",
)  # fmt: skip


class ChoiceAnswer(Answer):
    """One or many options out of several."""

    typed = False

    kind: Literal["choice"] = "choice"
    options: Annotated[tuple[ChoiceOption, ...], OPTIONS] = Field(min_length=2, max_length=26)
    choose: Annotated[Literal["one", "many"], CHOOSE] = "one"
    # whether the order changes from form to form
    shuffle: Annotated[bool, KEEP_ORDER] = True

    @model_validator(mode="after")
    def possible(self) -> ChoiceAnswer:
        earned = [option.share for option in self.options if option.share > 0]
        most = max(earned, default=Fraction(0)) if self.choose == "one" else sum(earned, Fraction(0))
        if most < 1:
            raise ValueError(
                "The best answer has to earn all the marks: give the right options shares that add up to 1."
            )
        return self

    def made_checker(self, settings: Settings) -> Checker:
        return ChoiceChecker(self, settings)

    def texts(self) -> tuple[str, ...]:
        return tuple(option.text for option in self.options)

"""The specification of an answer that puts items in order."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ....notation import Settings
from ...answer import Answer, Checker
from ...asking import Asked, Input, Typed, choice
from ...chosen import OFFERED, written_rows
from ...records import Offer
from .checker import OrderChecker

SCORE = choice(
    Input(
        "score", words="How an order is counted",
        choices=(("run", "by the longest part in order"), ("position", "by the items in their places")),
    )
)  # fmt: skip


def read_items(typed: Typed) -> list[dict[str, Any]]:
    return [{"id": row.get("id", ""), "text": row["text"]} for row in written_rows(typed.get("options"))]


ITEMS = Asked(
    (Input("options", "rows", label="Options", note="in the right order", columns=(OFFERED,)),),
    read_items,
    lambda items: {"options": [{"id": item["id"], "text": item["text"]} for item in items]},
    "the options",
    "item",
)


class OrderAnswer(Answer):
    """Items to be put in order; they are written in the right one."""

    typed = False

    kind: Literal["order"] = "order"
    items: Annotated[tuple[Offer, ...], ITEMS] = Field(min_length=2, max_length=26)
    # by the longest correct run, or by the items in their places
    score: Annotated[Literal["run", "position"], SCORE] = "run"

    def made_checker(self, settings: Settings) -> Checker:
        return OrderChecker(self, settings)

    def texts(self) -> tuple[str, ...]:
        return tuple(item.text for item in self.items)

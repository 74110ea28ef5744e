"""The specification of an answer that points at places in a figure."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Settings
from ...answer import Answer, Checker
from ...asking import Input, Row, cells_of, plain_cells, tabled, text, whole
from ...records import Line, Member, Said, SignedShare
from ...spelling import SAID, SHARE_CELL
from .checker import HotspotChecker

FIGURE = text(Input("figure", label="Figure", example="path", width="short", mono=True), "the figure")
CLICKS = whole(
    Input("clicks", default="1", before="up to", after="places may be marked", words="How many places may be marked",
          width="tiny"),
    "how many places may be marked",
)  # fmt: skip


class Spot(Member):
    """A region of a figure and what a place in it earns; without a share what is right is shared evenly."""

    telling = ("region",)

    region: Line = Field(min_length=1)
    share: SignedShare | None = None
    feedback: Said = ""


def read_region(row: Row) -> dict[str, Any]:
    return {"id": row.get("id", ""), **plain_cells(("region", "share", "feedback"), {"share": None})(row)}


REGIONS = tabled(
    Input(
        "regions", label="Regions",
        help="circle, box or polygon as in a figure, its share of the marks, what is said",
        columns=(
            Input("region", words="Region", example="circle (a, b) 0.5", mono=True, holds="maths"),
            SHARE_CELL,
            SAID,
        ),
    ),
    read_region,
    cells_of(("id", "region", "share", "feedback")),
    "the regions",
    "region",
    "answer",
)  # fmt: skip


class HotspotAnswer(Answer):
    """Places that are pointed at in a figure of the question."""

    typed = False
    pointed = True

    kind: Literal["hotspot"] = "hotspot"
    figure: Annotated[str, FIGURE] = Field(min_length=1, max_length=30)
    # how many places may be marked
    clicks: Annotated[int, CLICKS] = Field(default=1, ge=1, le=20)
    regions: Annotated[tuple[Spot, ...], REGIONS] = Field(min_length=1, max_length=20)

    @property
    def worths(self) -> tuple[Fraction, ...]:
        """What a place in each region earns."""
        given = sum((spot.share for spot in self.regions if spot.share is not None and spot.share > 0), Fraction(0))
        unsaid = sum(spot.share is None for spot in self.regions)
        even = Fraction(1) if self.clicks == 1 else max(Fraction(0), 1 - given) / max(1, unsaid)
        return tuple(even if spot.share is None else spot.share for spot in self.regions)

    @model_validator(mode="after")
    def possible(self) -> HotspotAnswer:
        earned = [worth for worth in self.worths if worth > 0]
        most = max(earned, default=Fraction(0)) if self.clicks == 1 else sum(earned, Fraction(0))
        if most < 1:
            raise ValueError("The best answer has to earn all the marks: the regions' shares have to add up to 1.")
        return self

    def made_checker(self, settings: Settings) -> Checker:
        return HotspotChecker(self, settings)

    @property
    def figures(self) -> tuple[tuple[str, str], ...]:
        return (("figure", self.figure),)

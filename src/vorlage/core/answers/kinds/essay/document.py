"""The specification of an answer that is written at length, and its rubric."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from ....notation import Node, Settings
from ...answer import Answer, Checker
from ...asking import Input, Row, tabled, whole
from ...records import Holds, Marks, Member, Strict, to_marks, total_marks
from ...spaces import Ruled
from ...unmarked import DrawnUnmarked

WORDS = whole(Input("words", label="Length", example="100", before="about", after="words", width="tiny"), "the length")


class Level(Strict):
    """How far a criterion is met, and the marks for it."""

    marks: Marks
    text: str = Field(default="", max_length=500)

    @model_validator(mode="before")
    @classmethod
    def spelled(cls, given: Any) -> Any:
        """``2 complete and clear``."""
        if not isinstance(given, str):
            return given
        marks, _, words = given.strip().partition(" ")
        try:
            return {"marks": to_marks(marks), "text": words.strip()}
        except ValueError:
            raise ValueError("A level begins with its marks, such as `2 complete and clear`.") from None


class Criterion(Member):
    """One thing that is looked for in an answer at length; without levels it is a remark to the marker."""

    telling = ("name",)

    name: str = Field(min_length=1, max_length=200)
    levels: tuple[Annotated[Level, Holds("level")], ...] = Field(default=(), max_length=10)

    @property
    def most(self) -> Decimal:
        return max((level.marks for level in self.levels), default=Decimal(0))


def read_rubric(text: str) -> list[dict[str, Any]]:
    """A rubric from its lines: ``Method | 0 nothing | 1 a right start | 2 complete``. Raises ``ValueError``."""
    criteria = []
    for number, written in enumerate(filter(str.strip, text.splitlines()), start=1):
        name, *levels = (piece.strip() for piece in written.split("|"))
        found = []
        for level in filter(None, levels):
            marks, _, words = level.partition(" ")
            try:
                worth = to_marks(marks)
            except ValueError:
                message = f"Line {number}: a level begins with its marks, such as `2 complete and clear`."
                raise ValueError(message) from None
            found.append({"marks": worth, "text": words.strip()})
        criteria.append({"name": name, "levels": found})
    return criteria


def rubric_lines(criteria: Any) -> str:
    """A rubric as ``read_rubric`` reads it."""
    return "\n".join(
        " | ".join([each["name"], *(f"{level['marks']} {level['text']}".strip() for level in each["levels"])])
        for each in criteria
    )


LEVEL_EXAMPLES = {1: "0 none", 2: "1 a right start", 3: "2 complete"}
LEVELS = tuple(f"level{number}" for number in range(1, 11))


def read_criterion(row: Row) -> dict[str, Any]:
    levels = [row.get(name, "").strip() for name in LEVELS]
    return {"id": row.get("id", ""), "name": row.get("name", "").strip(), "levels": list(filter(None, levels))}


def criterion_cells(criterion: Any) -> dict[str, str]:
    levels = [f"{level['marks']} {level['text']}".strip() for level in criterion["levels"]]
    return {"id": criterion["id"], "name": criterion["name"], **dict(zip(LEVELS, levels))}


RUBRIC = tabled(
    Input(
        "rubric", label="Rubric", shelved=True,
        help="What is looked for, and its levels, each beginning with its marks",
        columns=(
            Input("name", words="Criterion", example="Method"),
            *(
                Input(name, words=f"Level {number}", example=LEVEL_EXAMPLES.get(number, "next level"), width="level")
                for number, name in enumerate(LEVELS, start=1)
            ),
        ),
    ),
    read_criterion,
    criterion_cells,
    "the rubric",
    "criterion",
    "answer",
)  # fmt: skip


class EssayAnswer(Answer):
    """Written at length and marked by hand."""

    checked = False

    kind: Literal["essay"] = "essay"
    # about how many words are asked for; 0 when nothing is said
    words: Annotated[int, WORDS] = Field(default=0, ge=0, le=5000)
    rubric: Annotated[tuple[Criterion, ...], RUBRIC] = Field(default=(), max_length=12)

    @field_validator("rubric", mode="before")
    @classmethod
    def from_lines(cls, given: Any) -> Any:
        return read_rubric(given) if isinstance(given, str) else given

    @property
    def most(self) -> Decimal:
        """The marks that the rubric gives at most."""
        return total_marks(criterion.most for criterion in self.rubric)

    def keyless(self, key: Node) -> Answer:
        return EssayAnswer()

    def made_checker(self, settings: Settings) -> Checker:
        return DrawnUnmarked("marked by hand", "by its rubric", Ruled(min(24, max(4, self.words // 9))), by_hand=True)

    @property
    def rubric_rows(self) -> Sequence[tuple[str, Sequence[tuple[Decimal, str]]]]:
        return [(each.name, [(level.marks, level.text) for level in each.levels]) for each in self.rubric]

    def doubts(self, marks: Decimal) -> list[tuple[str, str]]:
        if self.most in {0, marks}:
            return []
        return [("rubric", f"the rubric gives up to {self.most} marks, and the part has {marks}.")]

"""The specification of several answers inside one text."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, model_validator

from ....budget import Path
from ....notation import Settings
from ... import kinds
from ...answer import Answer, Checker
from ...asking import Asked, Input, Typed, as_rows
from ...records import Member, Share, even_shares
from .checker import BlanksChecker

if TYPE_CHECKING:
    GapAnswer = Answer


class Gap(Member):
    """One place in a text and its answer; without a share the gaps share what is left evenly."""

    telling = ("answer",)

    answer: GapAnswer
    share: Share | None = None


def read_gap(row: Mapping[str, str]) -> dict[str, Any]:
    """The gap that a row spells: what its kind makes of it, and what was kept beside the row while the kind stays."""
    name = row.get("kind") or "number"
    try:
        rest = json.loads(row.get("rest") or "{}")
    except ValueError:
        rest = {}
    kept = dict(rest) if isinstance(rest, dict) and rest.get("kind") == name else {"kind": name}
    kind = kinds.KINDS.get(name)
    answer = kind.in_gap.read(row, kept) if kind is not None and kind.in_gap is not None else kept
    slips = kind.asks("slips") if kind is not None else None
    if slips is not None and "slips" in row:
        given = slips.read({"slips": as_rows(row["slips"])})
        answer = {name: value for name, value in answer.items() if name != "slips"} | (
            {"slips": given} if given else {}
        )
    share = row.get("share", "")
    return {"id": row.get("id", ""), "answer": answer} | ({"share": share} if share.strip() else {})


def gap_row(gap: Mapping[str, Any]) -> dict[str, str]:
    """The row that shows a gap."""
    answer = dict(gap["answer"])
    way = kinds.KINDS[answer["kind"]].in_gap
    shown = way.write(answer) if way is not None else {}
    slips = kinds.KINDS[answer["kind"]].asks("slips")
    if slips is not None:
        shown = shown | {"slips": json.dumps(slips.write(answer.pop("slips", ()))["slips"])}
    rest = {name: value for name, value in answer.items() if value not in (None, [], "")}
    return {
        "id": gap["id"],
        "kind": answer["kind"],
        "share": gap["share"] or "",
        "rest": json.dumps(rest),
        **shown,
    }


def read_gaps(typed: Typed) -> list[dict[str, Any]]:
    rows = typed.get("gaps") or ()
    return [read_gap(row) for row in rows if row.get("key", "").strip() or row.get("more", "").strip()]


GAPS = Asked(
    (Input("gaps", "gaps", label="Gaps", note="one for every `___` in the wording, in order"),),
    read_gaps,
    lambda gaps: {"gaps": [gap_row(gap) for gap in gaps]},
    "the gaps",
    "gap",
)


class BlanksAnswer(Answer):
    """Several answers inside the text of a part, in the order of its places ``___``."""

    typed = False

    kind: Literal["blanks"] = "blanks"
    gaps: Annotated[tuple[Gap, ...], GAPS] = Field(min_length=1, max_length=12)

    @classmethod
    def completed(cls, types: Mapping[str, Any]) -> None:
        names = dict(types)
        Gap.model_rebuild(force=True, _types_namespace=names)
        cls.model_rebuild(force=True)

    @property
    def shares(self) -> tuple[Fraction, ...]:
        """The share of the marks of every gap; they add up to 1."""
        return even_shares(gap.share for gap in self.gaps)

    @model_validator(mode="after")
    def adds_up(self) -> BlanksAnswer:
        if sum(self.shares, Fraction(0)) != 1 or any(share < 0 for share in self.shares):
            raise ValueError("The shares of the gaps have to add up to 1.")
        return self

    def made_checker(self, settings: Settings) -> Checker:
        return BlanksChecker(self, settings)

    def inner(self) -> Sequence[tuple[Path, Answer]]:
        return [(("gaps", k, "answer"), gap.answer) for k, gap in enumerate(self.gaps)]

    @property
    def gaps_in_text(self) -> int | None:
        return len(self.gaps)

    def texts(self) -> tuple[str, ...]:
        return tuple(text for gap in self.gaps for text in gap.answer.texts())

"""The specification of an answer that is a number."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field

from ....notation import Node, Quantity, Settings, line, names_in
from ....quantities import is_unit, same_unit
from ...answer import Answer, Checker, Demanded
from ...near_misses import Recognised
from ...records import Band, Limits, Line, Slip, Tolerance
from ...spelling import BANDS, LIMITS, RECOGNISE, SLIPS, TOLERANCE, WRITTEN, key_line
from ...written import WAYS, Written, unmet
from .checker import NumberChecker
from .complex import ComplexChecker

if TYPE_CHECKING:
    from collections.abc import Mapping

# Ways of writing that are proposed, the most telling first.
PROPOSED = ("integer", "fraction", "decimal", "surd")


class NumberAnswer(Answer):
    """A number, within its tolerance."""

    gives = True
    numeric = True

    kind: Literal["number"] = "number"
    key: Annotated[Line, key_line("m*g*h/1000")] = Field(min_length=1)
    tolerance: Annotated[Tolerance, TOLERANCE] = Tolerance()
    written: Annotated[Written | None, WRITTEN] = None
    bands: Annotated[tuple[Band, ...], BANDS] = Field(default=(), max_length=10)
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)
    recognise: Annotated[tuple[Recognised, ...], RECOGNISE] = Field(default=(), max_length=10)

    def made_checker(self, settings: Settings) -> Checker:
        """Numbers are real unless the question says "complex"."""
        return ComplexChecker(self, settings) if settings.complex else NumberChecker(self, settings)

    def keyless(self, key: Node) -> Answer:
        return NumberAnswer(key="1", limits=self.limits)

    def lines(self) -> list[tuple[str, str]]:
        return lines_of_number(self.key, self.tolerance, self.bands, self.slips)

    def unit_beside(self, after: str) -> str:
        return after

    def copied(self, tree: Node, after: str) -> str | None:
        if names_in(tree):
            return None
        if isinstance(tree, Quantity):
            return line(tree.amount) if same_unit(tree.unit, after) else None
        # a bare number beside a unit is another thing
        return None if is_unit(after) else super().copied(tree, after)

    def lenient(self) -> Demanded | None:
        return strictly_written(self.written)

    def demand(self, key: Node, copied: Node, settings: Settings) -> Demanded | None:
        if self.written is not None:
            return None
        for way in ("cartesian",) if settings.complex else PROPOSED:
            asked = Written(form=way)
            if unmet(key, asked) is None and unmet(copied, asked) is not None:
                changes: Mapping[str, Any] = {"written": {"form": way, "share": "0"}}
                return Demanded(f"Ask for the form {WAYS[way].proposed}", changes)
        return None


def lines_of_number(
    key: str, tolerance: Tolerance, bands: tuple[Band, ...], slips: tuple[Slip, ...]
) -> list[tuple[str, str]]:
    """The line maths of a number: its key, how close is close enough, part marks and slips."""
    found = [("key", key), *(("tolerance", text) for text in (tolerance.value, tolerance.low, tolerance.high))]
    found += [("bands", band.tolerance.value) for band in bands]
    found += [("slips", slip.key) for slip in slips]
    return [(name, text) for name, text in found if text]


def strictly_written(written: Written | None) -> Demanded | None:
    """That a number written otherwise earns nothing, where a way of writing is asked for."""
    if written is None:
        return None
    return Demanded("Let another form earn nothing", {"written": written.model_dump(mode="json") | {"share": "0"}})

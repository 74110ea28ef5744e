"""The specification of an answer that is an equation."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Name, Node, Relation, Settings
from ...answer import Answer, Checker, Demanded, letters_of
from ...asking import Input, choice, text
from ...records import HALF, Limits, Line, Share, Slip
from ...spelling import LIMITS, SLIPS, WHERE, key_line, share_otherwise
from .checker import EquationChecker

FORMS = (
    ("any", "any equation with these solutions"),
    ("slope_intercept", "written y = m x + c"),
    ("standard", "written a x + b y = c"),
)
FORM = choice(Input("equation_form", words="Form of the equation asked for", choices=FORMS), "the form of the equation")
SUBJECT = text(
    Input("subject", example="y", before="with", after="alone on a side", width="tiny", mono=True),
    "the letter that stands alone",
    "accepted",
)


class EquationAnswer(Answer):
    """An equation, right in every rearrangement and non-zero multiple."""

    kind: Literal["equation"] = "equation"
    key: Annotated[Line, key_line("y = 2x + 1")] = Field(min_length=1)
    form: Annotated[Literal["any", "standard", "slope_intercept"], FORM] = "any"
    # the letter that has to stand alone on one side
    subject: Annotated[str, SUBJECT] = Field(default="", max_length=40)
    share: Annotated[Share, share_otherwise()] = HALF
    where: Annotated[tuple[Line, ...], WHERE] = Field(default=(), max_length=10)
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)

    @model_validator(mode="before")
    @classmethod
    def subject_as_form(cls, given: Any) -> Any:
        """``"form": {"subject": "y"}`` and ``"form": "subject"`` ask for a subject as well."""
        if isinstance(given, dict) and isinstance(given.get("form"), dict):
            return {**given, "form": "any", **given["form"]}
        if isinstance(given, dict) and given.get("form") == "subject":
            return {**given, "form": "any"}
        return given

    def made_checker(self, settings: Settings) -> Checker:
        return EquationChecker(self, settings)

    def keyless(self, key: Node) -> Answer:
        return EquationAnswer(key=f"{letters_of(key)} = 1", limits=self.limits)

    def lines(self) -> list[tuple[str, str]]:
        found = [("key", self.key), *(("where", relation) for relation in self.where)]
        return found + [("slips", slip.key) for slip in self.slips if slip.key]

    def lenient(self) -> Demanded | None:
        asked = self.form != "any" or bool(self.subject)
        return Demanded("Let another form earn nothing", {"share": "0"}) if asked else None

    def demand(self, key: Node, copied: Node, settings: Settings) -> Demanded | None:
        alone = key.terms[0] if isinstance(key, Relation) else None
        if self.subject or not isinstance(alone, Name):
            return None
        return Demanded(f"Ask for {alone.name} alone", {"subject": alone.name, "share": "0"})

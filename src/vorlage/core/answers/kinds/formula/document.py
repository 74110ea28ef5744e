"""The specification of an answer that is a formula."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from ....notation import Node, Settings
from ...answer import Answer, Checker, Demanded, letters_of
from ...asking import Input, choice, optional
from ...records import HALF, Limits, Line, Share, Slip
from ...shape import FORMS, lacking_form
from ...spelling import LIMITS, SLIPS, WHERE, key_line, share_otherwise
from .checker import FormulaChecker

ANY_FORM, AS_KEY = ("any", "any equal formula"), ("as_key", "written as the key")
if TYPE_CHECKING:
    FormName = str
else:
    FormName = Literal[("any", *FORMS, "as_key")]
FORM = choice(
    Input(
        "form",
        words="Form asked for",
        choices=(ANY_FORM, *((name, form.words) for name, form in FORMS.items()), AS_KEY),
    ),
    "the form asked for",
)
UP_TO = optional(
    Input(
        "up_to", "choice", label="Equal up to",
        choices=(("", "nothing"), ("constant", "an added constant"), ("multiple", "a factor"), ("sign", "the sign")),
    ),
    "what it is equal up to",
    "more",
)  # fmt: skip


class FormulaAnswer(Answer):
    """A formula, in any form or in one that is asked for."""

    gives = True

    kind: Literal["formula"] = "formula"
    key: Annotated[Line, key_line("(x + 1)(x - 2)")] = Field(min_length=1)
    form: Annotated[FormName, FORM] = "any"
    # what an equal answer in another form earns
    share: Annotated[Share, share_otherwise()] = HALF
    up_to: Annotated[Literal["constant", "multiple", "sign"] | None, UP_TO] = None
    where: Annotated[tuple[Line, ...], WHERE] = Field(default=(), max_length=10)
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)

    def made_checker(self, settings: Settings) -> Checker:
        return FormulaChecker(self, settings)

    def keyless(self, key: Node) -> Answer:
        return FormulaAnswer(key=letters_of(key), limits=self.limits)

    def lines(self) -> list[tuple[str, str]]:
        found = [("key", self.key), *(("where", relation) for relation in self.where)]
        return found + [("slips", slip.key) for slip in self.slips if slip.key]

    def lenient(self) -> Demanded | None:
        return Demanded("Let another form earn nothing", {"share": "0"}) if self.form != "any" else None

    def demand(self, key: Node, copied: Node, settings: Settings) -> Demanded | None:
        for name, form in FORMS.items():
            if form.proposed and lacking_form(key, key, name) is None and lacking_form(copied, key, name) is not None:
                return Demanded(f"Ask for the form {form.proposed}", {"form": name, "share": "0"})
        return None

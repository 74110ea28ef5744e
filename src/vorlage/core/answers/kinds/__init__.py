"""The kinds of answer: a folder for each, and its line in the register.

A folder has the specification and how the desk asks for it (``document``), what checks it (``checker``), its cases
(``cases.toml``, which are tests and manual at once), and in its ``__init__`` the kinds themselves. Everything else
finds them here.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterable
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import Field

from ..answer import Answer
from ..kind import Kind

# The register, in the order in which an author chooses.
REGISTER = (
    "number",
    "quantity",
    "formula",
    "equation",
    "inequality",
    "collection",
    "conditions",
    "chemical",
    "text",
    "blanks",
    "hotspot",
    "choice",
    "true_false",
    "match",
    "order",
    "essay",
    "scale",
    "information",
)
KINDS: dict[str, Kind] = {
    kind.name: kind for folder in REGISTER for kind in import_module(f".{folder}", __name__).KINDS
}


def one_of(kinds: Iterable[Kind]) -> Any:
    """Any of the specifications of some kinds, told apart by ``kind``."""
    documents = tuple(dict.fromkeys(kind.document for kind in kinds))
    return Annotated[Union[documents], Field(discriminator="kind")]  # noqa: UP007 (made from a tuple)


GAP_KINDS = {name: kind for name, kind in KINDS.items() if kind.in_gap is not None}
for kind in KINDS.values():
    kind.document.completed({"GapAnswer": one_of(GAP_KINDS.values())})

# Every specification that a question document can hold.
if TYPE_CHECKING:
    AnyAnswer = Answer
else:
    AnyAnswer = one_of(KINDS.values())


def chapters() -> list[dict[str, Any]]:
    """The cases of every kind in the order of the register, each chapter with a title, a text and its pages."""
    found = [Path(__file__).parent / folder / "cases.toml" for folder in REGISTER]
    return [tomllib.loads(path.read_text("utf-8")) for path in found if path.exists()]

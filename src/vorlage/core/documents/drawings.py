"""The questions of one form set as its forms have them: what its papers and its keys are written from."""

from __future__ import annotations

import base64
import re
from collections.abc import Callable, Container
from fractions import Fraction

from ..answers import told_marks
from ..forms import MadeForm
from ..notation import quoted
from ..plans import Plan
from ..questions import DrawnQuestion, QuestionDrawing, thaw
from .heading import Heading

UPLOADED = re.compile(r"picture:([0-9a-f]{64})")


class Drawings:
    """The questions of a form set, and how its documents are put together."""

    def __init__(self, plan: Plan, heading: Heading, picture: Callable[[str], bytes] | None = None) -> None:
        self.plan = plan
        self.options = "options-across" if plan.across else "options"
        # the content of an uploaded picture (PNG or JPEG) by its hash
        self.picture = picture
        self.known = {source.digest for place in plan.questions for source in place.question.document.pictures}
        if heading.emblem is not None:
            self.known.add(heading.emblem.digest)
        self.heading = heading
        self.drawings = {
            (number, k): QuestionDrawing(each.question, each.key, each.revision)
            for number, place in enumerate(plan.places)
            for k, each in enumerate(place.candidates)
        }
        self.thawed: dict[str, list[DrawnQuestion]] = {}

    def drawn(self, form: MadeForm) -> list[DrawnQuestion]:
        """The questions of a form with its numbers; the same for its paper and its key."""
        if form.code not in self.thawed:
            self.thawed[form.code] = [thaw(self.drawings[item.place, item.candidate], item.draw) for item in form.items]
        return self.thawed[form.code]

    def marks(self, marks: Fraction) -> str:
        """Marks as they are printed."""
        return quoted(self.told_marks(marks))

    def told_marks(self, marks: Fraction) -> str:
        return told_marks(marks, self.plan.habits)

    def document(self, title: str, body: str) -> str:
        return f"\n#setup({quoted(title)}, [\n{with_pictures(body, self.known, self.picture)}\n])\n"


def with_pictures(body: str, known: Container[str], picture: Callable[[str], bytes] | None) -> str:
    """Markup with the uploaded pictures that are known in place of their hashes, as data addresses."""

    def content(found: re.Match[str]) -> str:
        if found[1] not in known or picture is None:
            return found[0]
        raw = picture(found[1])
        kind = "png" if raw.startswith(b"\x89PNG") else "jpeg"
        return f"data:image/{kind};base64,{base64.b64encode(raw).decode()}"

    return UPLOADED.sub(content, body)

"""Tries a made-up kind in the copy of the application that is on the path, and writes what came of it as JSON."""

import json
import random
import sys
from typing import Any

import django

django.setup()

from django.http import QueryDict  # noqa: E402
from django.template.loader import render_to_string  # noqa: E402

from vorlage.core.answers import KINDS, chapters, check_case  # noqa: E402
from vorlage.core.documents import Heading, Printing  # noqa: E402
from vorlage.core.forms import make_forms  # noqa: E402
from vorlage.core.plans import Place, Plan  # noqa: E402
from vorlage.core.questions import CompiledQuestion, QuestionDrawing, differences, load_document  # noqa: E402
from vorlage.operations.fuzzing import ANSWERS, HOSTILE  # noqa: E402
from vorlage.web.desk.form import Desk  # noqa: E402
from vorlage.web.desk.preview import Wish, preview  # noqa: E402

FIELDS = {
    "title": "Mixing mortar", "topics": "", "level": "1", "angle": "degrees",
    "wording": "Take $a$ parts of sand and $b$ of lime.", "parameter": ["a1", "b1"],
    "parameter-a1-name": "a", "parameter-a1-definition": "2..5", "parameter-b1-name": "b",
    "parameter-b1-definition": "6..9", "part": ["p1"], "part-p1-kind": "ratio", "part-p1-key": "a : b",
    "part-p1-simplest": "on", "part-p1-marks": "1", "part-p1-wording": "In which ratio?",
}  # fmt: skip


def desk(**changes: Any) -> Desk:
    posted = QueryDict(mutable=True)
    for name, value in (FIELDS | changes).items():
        posted.setlist(name, value if isinstance(value, list) else [value])
    return Desk.from_post(posted)


filled = desk()
document = filled.read.document
assert document is not None, filled.read.problems
question = CompiledQuestion(document)
drawn = QuestionDrawing(question, "mortar", 1).draw(1)
right = drawn.answers[0].right_response()
a, b = (int(side) for side in right.split(":"))
shown = preview(filled, "mortar", 1, Wish(tried={"p1": right}))
page = {"preview": shown, "desk": filled, "kinds": KINDS.values(), "row": filled.parts[0], "may_write": True}
gaps = desk(**{"part-p1-kind": "blanks", "part-p1-gap": ["g1"], "gap-g1-kind": "ratio", "gap-g1-key": "1 : 2"})
loose = load_document(
    document.model_dump(mode="json")
    | {
        "parts": [
            document.parts[0].model_dump(mode="json") | {"answer": {"kind": "ratio", "key": "b : a", "simplest": True}}
        ]
    }
)
plan = Plan("Mortar", (Place(question, "mortar", 1),))
forms = make_forms(plan, 3, "seed")
printing = Printing(plan, Heading("Mortar"))
chance = random.Random(1)
verdicts = [drawn.answers[0].check(text) for text in (right, f"{2 * a} : {2 * b}", f"{b} : {a}", "x", "")]
json.dump(
    {
        "desk": render_to_string("desk/_part.html", page),
        "gap": render_to_string("desk/_part.html", page | {"row": gaps.parts[0]}),
        "document": document.parts[0].answer.model_dump(mode="json"),
        "wrong": {
            name: [message.text for message in found]
            for name, found in preview(desk(**{"part-p1-key": "a"}), "mortar", 1).messages.items()
        },
        "problems": [problem.message for problem in question.problems],
        "outcomes": [verdict.outcome for verdict in verdicts],
        "sheet": render_to_string("desk/_sheet.html", page),
        "key on the sheet": render_to_string(
            "desk/_sheet.html", page | {"view": "solution", "preview": preview(desk(**{"part-p1-simplest": ""}), "m", 1)}
        ),
        "verdict": render_to_string("desk/_tried.html", page | {"part": shown.sheet.parts[0]}),
        "keys": [item.keys[0].key for form in forms.forms for item in form.items],
        "paper": printing.papers(forms.forms)[:4].decode(),
        "key": printing.key(forms.forms)[:4].decode(),
        "chapters": [chapter["title"] for chapter in chapters()],
        "fuzzed": sum(
            check_case({"answer": answer, "response": text}).outcome != "right"
            for answer in ANSWERS if answer["kind"] == "ratio" for text in HOSTILE
        ),
        "changes": [change.place for change in differences(document, loose)],
        "identities": document.parts[0].id,
    },
    sys.stdout,
)  # fmt: skip

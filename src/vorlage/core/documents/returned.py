"""What comes back to a student, as a PDF: each question with their answer and what was let be seen of its marking."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ..notation import Habits, quoted, told
from ..questions import DrawnQuestion, written, written_part, written_solution
from ..text import TYPST
from .drawings import with_pictures
from .markup import content, first_line
from .typesetting import compiled


@dataclass(frozen=True)
class ReturnedPart:
    """What comes back of a part, as rows of a name and words; and whether its key and its solution are shown."""

    rows: Sequence[tuple[str, str]]
    key: str = ""
    solution: bool = False


@dataclass(frozen=True)
class ReturnedWork:
    """The work of one student: what stands above it, and each question with what comes back of its parts, None where
    nothing is asked."""

    title: str
    who: str
    said: Sequence[str]
    questions: Sequence[tuple[DrawnQuestion, Sequence[ReturnedPart | None], str]]


def returned_pdf(work: ReturnedWork, habits: Habits, picture: Callable[[str], bytes] | None = None) -> bytes:
    """The PDF; ``picture`` gives an uploaded picture by its hash."""
    body = "\n".join(
        question_markup(number, drawn, parts, working, habits)
        for number, (drawn, parts, working) in enumerate(work.questions, start=1)
    )
    above = "".join(f"{content(each)}, " for each in work.said)
    markup = f"#returned({content(work.title)}, {content(work.who)}, ({above}), [\n{body}\n])"
    known = {source.digest for drawn, _, _ in work.questions for source in drawn.question.document.pictures}
    return compiled(f"\n#setup({quoted(work.title)}, [\n{with_pictures(markup, known, picture)}\n])\n")


def question_markup(
    number: int, drawn: DrawnQuestion, parts: Sequence[ReturnedPart | None], working: str, habits: Habits
) -> str:
    """A question with what comes back of its parts."""
    document, labels = drawn.question.document, drawn.question.document.labels
    body = written(drawn, drawn.question.wording, TYPST) + "\n" if document.wording.strip() else ""
    head = first_line(body, "block")
    for k, back in enumerate(parts):
        text = written_part(drawn, k, TYPST)
        offers = "".join(f"({content(label)}, [{written(drawn, each, TYPST)}]), " for label, each in drawn.offered(k))
        text += f"\n#items({offers})" if offers else ""
        if back is not None:
            rows = "".join(f"({content(name)}, {content(told(words, habits))}), " for name, words in back.rows)
            key = f"[{back.key}]" if back.key else "none"
            solution = f"[{written_solution(drawn, k, TYPST)}]" if back.solution else "none"
            text += f"\n#came-back(({rows}), {key}, {solution})"
        body += f"#returned-part([{labels[k].short}], [{text}])\n"
    if working.strip():
        body += f"#came-back((([Working], {content(working)}), ), none, none)\n"
    return f"#long-question({number}, {head}[\n{body}\n])"

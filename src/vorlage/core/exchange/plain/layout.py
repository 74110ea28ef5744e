"""The plain layout of questions: which lines say what. Reading and writing use the same tables.

Everything here is about the shape of a line; what the lines mean together is in ``reading``.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ...text import put_right

# What a part of a question says in lines of its own; other names for it that people use. The first is what is written.
PART_LABELS: Mapping[str, tuple[str, ...]] = {
    "answer": (
        "Answer",
        "Answers",
        "Ans",
        "Correct answer",
        "Correct answers",
        "Right answer",
        "Right answers",
        "Key",
        "Result",
    ),
    "kind": ("Kind", "Type", "Kind of answer"),
    "tolerance": ("Tolerance", "Accuracy", "Within"),
    "unit": ("Unit", "Units"),
    "marks": ("Marks", "Mark", "Points", "Point"),
    "before": ("Before the space",),
    "after": ("After the space",),
    "gives": ("Gives",),
    "required": ("Has to be answered",),
    "solution": ("Solution", "Worked solution", "Working", "Explanation", "Model answer"),
    "hint": ("Hint", "Hints", "Help"),
    "right": ("If right",),
    "partly": ("If partly right",),
    "wrong": ("If wrong",),
    "try": ("Try",),
    # what the kinds of answer ask for, by the names of their inputs
    "bands": ("Part marks",),
    "limits": ("Typed only",),
    "slips": ("Slip", "Slips", "Expected mistake"),
    "recognise": ("Recognise",),
    "written": ("Written as",),
    "share": ("Otherwise",),
    "unit_share": ("No unit",),
    "unit_rule": ("Unit is",),
    "same_unit": ("Only this unit",),
    "form": ("Form",),
    "equation_form": ("Form of the equation",),
    "item_form": ("Form of each",),
    "up_to": ("Equal up to",),
    "where": ("Where",),
    "subject": ("Subject of the equation",),
    "solved": ("Solved",),
    "cost": ("Wrong costs",),
    "partial": ("Share for each",),
    "relations": ("Condition",),
    "count": ("Values",),
    "alike": ("Two may be alike",),
    "multiple": ("Any multiple",),
    "states": ("States",),
    "accept": ("Accept", "Also accept", "Accepted"),
    "match": ("Words are compared",),
    "case": ("Capitals matter",),
    "spacing": ("Spaces matter",),
    "gaps": ("Gap",),
    "figure": ("Pointed at in",),
    "clicks": ("Places",),
    "regions": ("Region",),
    "choose": ("Choose",),
    "keep_order": ("Order kept",),
    "score": ("Counted",),
    "words": ("Words", "Length"),
    "rubric": ("Criterion",),
    "low": ("Low end",),
    "steps": ("Steps",),
    "high": ("High end",),
}
QUESTION_LABELS: Mapping[str, tuple[str, ...]] = {
    "title": ("Title",),
    "topics": ("Topic", "Topics"),
    "level": ("Level", "Difficulty"),
    "demand": ("Demand",),
    "calculator": ("Calculator",),
    "minutes": ("Minutes", "Time"),
    "tags": ("Tags", "Tag", "Keywords"),
    "references": ("References", "Reference"),
    "source": ("Source",),
    "licence": ("Licence", "License"),
    "note": ("Note to colleagues",),
    "angles": ("Angles",),
    "numbers": ("Numbers",),
    "signs": ("Signs to type",),
    "keep": ("Keep the draw",),
    "table": ("Table",),
    "picture": ("Picture",),
}
# What a line says only where the kind or the answer is said before it: the words begin lines of texts as well.
LATE = frozenset(PART_LABELS) - {
    "answer", "kind", "tolerance", "unit", "marks", "before", "after", "gives", "required", "solution", "hint",
    "right", "partly", "wrong", "try", "bands", "limits", "slips", "recognise", "accept", "gaps",
}  # fmt: skip
# What goes on over the following lines: a text.
TEXTS = frozenset(["solution", "hint", "right", "partly", "wrong", "note"])
# What may go on over the lines right below.
RUNNING = frozenset(["answer", "accept"])
ASKED = {called[0]: name for name, called in PART_LABELS.items()}
LABELS = {
    each.casefold(): name
    for names in (PART_LABELS, QUESTION_LABELS)
    for name, called in names.items()
    for each in called
}
LABEL = re.compile(
    r"\s*(?:[-*+]\s+)?[*_]{0,3}(?P<name>" + "|".join(sorted(map(re.escape, LABELS), key=len, reverse=True)) + r")"
    r"[*_]{0,3}\s*(?:\((?P<given>[^()]{1,40})\))?\s*[*_]{0,3}\s*(?P<sign>[:=：])[*_]{0,3}(?:\s+|$|(?=\S))(?P<value>.*)$",
    re.IGNORECASE,
)
HEADING = re.compile(r"\s{0,3}(?P<depth>#{1,6})\s+(?P<text>.*?)\s*#*\s*$")
WORDED = r"(?:question|exercise|problem|task|q|ex)"
QUESTION = re.compile(
    rf"(?P<indent>\s*)[*_]{{0,3}}(?:(?P<word>{WORDED})\s*\.?\s*)?(?P<open>\()?(?P<number>\d{{1,4}})"
    r"(?:(?P<sign>\s*[.):])(?=[\s*_]|$)|(?(word)(?P<dash>\s*[-–—]?)(?=[\s*_]|$)|(?!)))[*_]{0,3}\s*(?P<text>.*)$",
    re.IGNORECASE,
)
ASKS = re.compile(r"(?P<indent>\s*)[*_]{0,3}Q(?:uestion)?[*_]{0,3}\s*[:：][*_]{0,3}\s*(?P<text>.+)$")
REPLIES = re.compile(r"\s*[*_]{0,3}A[*_]{0,3}\s*[:：][*_]{0,3}\s*(?P<value>.*)$")
# (a) a) a. A) A. and the numbers of questions before them: 3a) 3.a)
LETTERED = re.compile(
    r"(?P<indent>\s*)(?P<bullet>[-*+]\s+)?(?P<star>\*{0,3}|[✓✔√]\s*)(?:(?P<number>\d{1,3})\s*\.?\s*|part\s+)?"
    r"(?:\((?P<both>[A-Za-z])\)|(?P<one>[A-Za-z])(?P<sign>[.)]))(?:\*{2,3}(?=\s))?(?=[\s*_$]|$)\s*(?P<text>.*)$",
    re.IGNORECASE,
)
ROMAN = re.compile(
    r"\s*[*_]{0,2}(?:\((?P<both>x?(?:ix|iv|v?i{0,3}))\)|(?P<one>x?(?:ix|iv|v?i{0,3}))[.)])[*_]{0,2}(?=[\s$]|$)\s*"
    r"(?P<text>.*)$"
)
OPTION = re.compile(r"\s*(?:[-*+]\s*)?(?:[\[(](?P<tick>[ xX✓✔*]?)[\])]|(?P<box>[☐☑☒✓✔✗✘□■]))\s+(?P<text>.+)$")
BULLET = re.compile(r"\s*[-*+]\s+(?P<text>.+)$")
PAIR = re.compile(r"(?P<left>.*?)\s*(?:->|→|⟶|=>|⇒)\s*(?P<right>.+)$")
FENCE = re.compile(r"\s*(?P<fence>```+|~~~+)\s*(?P<word>\w*)\s*(?P<about>.*?)\s*$")
GIVEN = re.compile(r"\s*(?:[-*+]\s+)?where\s+(?P<rest>.+)$", re.IGNORECASE)
SUCH = re.compile(r"\s*(?:[-*+]\s+)?(?:such|so) that\s+(?P<rest>.+)$", re.IGNORECASE)
NAMED = re.compile(r"(?P<name>[^\W\d]\w{0,39})\s*=\s*(?P<definition>[^=].*)$")
RULE = re.compile(r"\s*(?:-{3,}|\*{3,}|_{3,}|={3,})\s*$")
ROW = re.compile(r"\s*\|.*\|\s*$")
WORTH = re.compile(
    r"\s*(?:[\[(]\s*(?P<worded>\d{1,2}(?:[.,]\d{1,2}|\s*[½¼¾])?|½)\s*(?:marks?|points?|pts?|p|m)\.?\s*[\])]"
    r"|\[\s*(?P<bare>\d{1,2}(?:[.,]\d{1,2})?)\s*\])\s*$",
    re.IGNORECASE,
)
KEY_TITLE = re.compile(
    r"\s*[#*_]*\s*(?:answers?|answer\s+key|key|solutions?|mark\s+scheme)\s*[*_]*\s*:?\s*[*_]*\s*$", re.IGNORECASE
)
# what a protecting stroke stands before
PROTECTED = re.compile(r"\s*\\(?=\s*\S)")
BOLD = re.compile(r"(?P<around>\*\*|__)(?P<text>(?:(?!(?P=around)).)+)(?P=around)\s*$")
# Formulas in the way chat windows write them.
TEX_SPANS = (
    (re.compile(r"\\\(\s*(.+?)\s*\\\)"), "$"),
    (re.compile(r"\\\[\s*(.+?)\s*\\\]", re.DOTALL), "$$"),
)
# A gap of two low lines, or of dots; an answer that stands behind its question on one line.
SHORT_GAP = re.compile(r"(?<=\s)__(?=[\s.,;:?!]|$)|(?<=\s)(?:\.{4,}|…{2,})", re.MULTILINE)
BEHIND = re.compile(
    r"(?<=\S)\s+(?P<open>[\[(])?(?P<said>(?:answer|ans\.?)\s*[:=]\s*[^\s_.…].*?)(?(open)[\])])\s*$", re.IGNORECASE
)
# An answer without a colon; “Answer the following” is none.
ANSWERED = re.compile(
    r"\s*(?:Answer|ANSWER|Ans|ANS)\.?\s+(?!(?:the|all|both|any|each|in|as|this|these|with)\b)(?=\S+(?:\s+\S+){0,2}\s*$)"
)
# A number before a question with nothing behind it.
BARE = re.compile(r"\s{0,3}(?P<number>\d{1,3})\s+(?=[A-Z])")


def tidied(text: str) -> str:
    """A text that was pasted, as it would be typed: bullets, spaces and formulas put right, tabs as blanks."""
    text = put_right(text.replace("\r\n", "\n")).replace("\N{NO-BREAK SPACE}", " ").replace("\t", "  ")
    for pattern, sign in TEX_SPANS:
        text = pattern.sub(rf"{sign}\1{sign}", text)
    return SHORT_GAP.sub("___", with_points(text))


def with_points(text: str) -> str:
    """A text whose questions have bare numbers, with a point behind each; another one stays."""
    lines = text.split("\n")
    bare = [(k, int(found["number"])) for k, line in enumerate(lines) if (found := BARE.match(line))]
    in_order = len(bare) > 1 and [number for _, number in bare] == list(range(1, len(bare) + 1))
    if not in_order or any(QUESTION.match(line) for line in lines):
        return text
    for k, number in bare:
        lines[k] = lines[k].replace(str(number), f"{number}.", 1)
    return "\n".join(lines)


@dataclass
class Label:
    """A line that says one thing of a question or part: what, what stands in brackets, and the value."""

    name: str
    value: str
    line: int
    given: str = ""
    # the lines below it that belong to it
    more: list[str] = field(default_factory=list)

    @property
    def text(self) -> str:
        return "\n".join([self.value, *self.more] if self.value or not self.more else self.more).rstrip()


def read_label(line: str) -> tuple[str, str, str] | None:
    """The name, what is given in brackets, and the value of a line that has a label; None for another line."""
    found = LABEL.match(line) or LABEL.match(ANSWERED.sub("Answer: ", line, count=1))
    if found is None:
        return None
    name = LABELS[found["name"].casefold()]
    if found["sign"] == "=" and (name not in {"answer", "marks"} or found["value"].startswith("=")):
        return None
    return name, (found["given"] or "").strip(), found["value"].strip().removesuffix("**").strip()


def is_structural(line: str) -> bool:
    """Whether a line would be read as anything but text."""
    patterns: Sequence[re.Pattern[str]] = (
        LABEL, HEADING, QUESTION, ASKS, REPLIES, LETTERED, ROMAN, OPTION, BULLET, FENCE, GIVEN, SUCH, RULE, KEY_TITLE,
        PROTECTED,
    )  # fmt: skip
    return any(pattern.match(line) for pattern in patterns) or bool(WORTH.search(line))

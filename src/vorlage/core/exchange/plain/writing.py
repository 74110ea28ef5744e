"""Questions as plain text, in the layout that ``reading`` reads back the same."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from typing import Any

from ...answers import KINDS, Input
from ...answers.spelling import tolerance_words
from ...notation import USUAL, Habits
from ...questions import Filing, QuestionDocument, says_the_same
from ...questions.filing import Path
from ...questions.local import to_place
from . import layout
from .guessing import Around, meant
from .layout import LATE, PART_LABELS, QUESTION_LABELS
from .making import Place
from .pieces import ROMANS
from .reading import read_plain

INDENT = "   "
# Inputs that are said otherwise than by a line of their own.
ELSEWHERE = frozenset(["key", "accept", "mode", "tolerance", "options", "gaps", "unit"])


def write_plain(questions: Sequence[tuple[QuestionDocument, Filing]], habits: Habits = USUAL) -> str:
    """Questions as plain text, under headings by the topic that each stands under first."""
    written: list[str] = []
    path: Path = ()
    for number, (document, filing) in enumerate(questions, start=1):
        if filing.topic != path:
            written += heading(path, filing.topic)
            path = filing.topic
        written.append(one(number, document, filing, habits))
    return "\n\n".join(written) + "\n"


def heading(before: Path, path: Path) -> list[str]:
    """The headings that lead to a topic from the one before."""
    same = next((k for k, (a, b) in enumerate(zip(before, path)) if a != b), min(len(before), len(path)))
    # one that ends where another goes on is named anew
    same = min(same, len(path) - 1)
    return [f"{'#' * (k + 1)} {name}" for k, name in enumerate(path) if k >= same]


def one(number: int, document: QuestionDocument, filing: Filing, habits: Habits) -> str:
    """A question in the layout; as its document where the layout would say something else."""
    raw = document.model_dump(mode="json")
    local = json.loads(json.dumps(raw))
    to_place(local, habits)
    text = Writer(number, local, filing, habits).written()
    under = "\n\n".join([*heading((), filing.topic), text])
    read = read_plain(under, Place(habits))
    if len(read.questions) == 1 and not read.unread and not read.questions[0].unread:
        again = read.questions[0].loaded(habits)
        if again is not None and says_the_same(again[0].model_dump(mode="json"), raw) and again[1] == filing:
            return text
    whole = json.dumps({**raw, "filing": filing.model_dump(mode="json")}, ensure_ascii=False, indent=1)
    fenced = ["```document", *whole.split("\n"), "```"]
    return "\n".join([f"{number}. **{document.title}**", *(INDENT + line for line in fenced)])


class Writer:
    """Writes one question, whose texts are spelt as in a place already."""

    def __init__(self, number: int, raw: dict[str, Any], filing: Filing, habits: Habits) -> None:
        self.number, self.raw, self.filing, self.habits = number, raw, filing, habits
        self.lines: list[str] = []
        self.names = frozenset(each["name"] for each in raw["parameters"])

    def written(self) -> str:
        raw = self.raw
        parts = raw["parts"]
        # a text without parts is that of the only part
        lettered = len(parts) > 1 or bool(raw["wording"])
        self.lines.append(f"{self.number}. **{raw['title']}**")
        stem = raw["wording"] or ("" if lettered else parts[0]["wording"])
        self.text(stem, INDENT)
        self.data()
        letter, numeral = -1, 0
        for k, part in enumerate(parts):
            indent = INDENT
            if lettered:
                self.lines.append("")
                if part["under"] and k:
                    numeral += 1
                    self.lines.append(f"{INDENT}{INDENT}({ROMANS[numeral - 1]})")
                    indent = INDENT * 3
                else:
                    letter, numeral = letter + 1, 0
                    if k + 1 < len(parts) and parts[k + 1]["under"]:
                        # (a) has no text of its own: what stands there is that of (i)
                        self.lines += [f"{INDENT}{chr(97 + letter)})", f"{INDENT}{INDENT}(i)"]
                        numeral, indent = 1, INDENT * 3
                    else:
                        self.lines.append(f"{INDENT}{chr(97 + letter)})")
                        indent = INDENT * 2
                self.begin(part["wording"], indent)
            self.part(part, indent)
        self.filed()
        return "\n".join(line.rstrip() for line in self.lines)

    def begin(self, wording: str, indent: str) -> None:
        """The text of a part, its first line behind the letter."""
        first, *rest = wording.split("\n") if wording else [""]
        if first and not layout.is_structural(first):
            self.lines[-1] += f" {first}"
            self.text("\n".join(rest), indent, keep=True)
        else:
            self.text(wording, indent)

    def text(self, text: str, indent: str, keep: bool = False) -> None:
        if not text and not keep:
            return
        for line in text.split("\n") if text else []:
            guard = "\\" if layout.is_structural(line) and line.strip() else ""
            self.lines.append(f"{indent}{guard}{line}" if line.strip() else "")

    def say(self, name: str, value: str, indent: str, given: str = "") -> None:
        """A line with a label; a text goes on below, deeper."""
        called = (PART_LABELS.get(name) or QUESTION_LABELS[name])[0]
        first, *rest = value.split("\n")
        self.lines.append(f"{indent}{called}{f' ({given})' if given else ''}: {first}")
        self.text("\n".join(rest), indent + INDENT, keep=True)

    def data(self) -> None:
        raw = self.raw
        if raw["angle"] == "radians":
            self.say("angles", "radians", INDENT)
        if raw["complex"]:
            self.say("numbers", "complex", INDENT)
        if raw["no_signs"]:
            self.say("signs", "no", INDENT)
        for figure in raw["figures"]:
            self.lines += ["", f"{INDENT}```figure {figure['name']}"]
            self.lines += [INDENT + line for line in figure["lines"].split("\n")] + [f"{INDENT}```"]
        for table in raw["tables"]:
            heads = [f"{each['name']} [{each['unit']}]" if each["unit"] else each["name"] for each in table["columns"]]
            rows = [heads, ["---"] * len(heads), *table["rows"]]
            self.say("table", table["name"], INDENT)
            self.lines += [INDENT + "| " + " | ".join(each.replace("|", "\\|") for each in row) + " |" for row in rows]
            self.lines.append("")
        for picture in raw["pictures"]:
            self.say(
                "picture", f"{picture['name']} {picture['digest']} {picture['width']} by {picture['height']}", INDENT
            )
        if raw["parameters"] or raw["conditions"]:
            self.lines.append("")
        for each in raw["parameters"]:
            unit = f" [{each['unit']}]" if each["unit"] else ""
            shown = f", shown {each['shown']}" if each["shown"] != "exact" else ""
            note = f", note: {each['note']}" if each["note"] else ""
            self.lines.append(f"{INDENT}where {each['name']} = {each['definition']}{unit}{shown}{note}")
        self.lines += [f"{INDENT}such that {each}" for each in raw["conditions"]]
        for pin in raw["pins"]:
            self.say("keep", "; ".join(f"{name} = {value}" for name, value in pin["values"].items()), INDENT)

    def part(self, part: dict[str, Any], indent: str) -> None:
        answer = part["answer"]
        kind = KINDS[answer["kind"]]
        typed = kind.write(answer)
        blank = {entry.name: entry.default for entry in kind.inputs}
        further = [entry for entry in kind.inputs if entry.name not in ELSEWHERE]
        said = [entry for entry in further if self.tells(entry, typed, blank)]
        listing = kind.name in {"choice", "match", "order"}
        if listing:
            self.lines.append("")
        key = str(typed.get("key") or "")
        unit = str(typed.get("unit") or "")
        if self.needs_kind(kind.name, key, unit, typed, said, part):
            self.lines.append(f"{indent}Kind: {kind.words}")
        if kind.name == "choice":
            self.options(typed["options"], indent)
        elif kind.name == "match":
            for row in typed["options"]:
                share = f" | {row['share']}" if row.get("share") else ""
                self.lines.append(f"{indent}- {row['text']} -> {row['pair']}{share}".replace("-  ->", "- ->"))
        elif kind.name == "order":
            self.lines += [f"{indent}- {row['text']}" for row in typed["options"]]
        if "key" in kind.names:
            self.say("answer", key, indent)
        if unit:
            self.say("unit", unit, indent)
        for line in str(typed.get("accept") or "").split("\n") if typed.get("accept") else []:
            self.say("accept", line, indent)
        if "mode" in kind.names:
            close = tolerance_words(answer["tolerance"]) or "exactly"
            # of one number it is guessed from how it is written where nothing is said
            if close != "exactly" or kind.name in {"number", "quantity"}:
                self.say("tolerance", close.replace(" of the key", ""), indent)
        for row in typed.get("gaps") or []:
            self.gap(row, indent)
        for entry in said:
            self.input(entry, typed[entry.name], indent)
        self.beside(part, indent)

    def needs_kind(
        self, kind: str, key: str, unit: str, typed: dict[str, Any], said: Sequence[Input], part: dict[str, Any]
    ) -> bool:
        """Whether the kind has to be said: where the answer would be taken for another, or lines follow that only a
        kind that is said has."""
        if any(entry.name in LATE for entry in said) and (kind in {"choice", "text", "blanks"} or "key" not in typed):
            return True
        if kind in {"choice", "blanks"}:
            return False
        if kind not in {"number", "quantity"} or "___" in part["wording"]:
            return True
        found = meant(key, Around("", self.names, self.habits), unit, True)
        return found.kind != kind or bool(found.after) or found.typed.get("key") != key

    def options(self, rows: Iterable[dict[str, str]], indent: str) -> None:
        for row in rows:
            share = row["share"]
            right = share not in {"", "0"} and not share.startswith("-")
            cells = [row["text"], "" if share == "1" else share, row["feedback"], "stays" if row["fixed"] else ""]
            while cells and not cells[-1]:
                cells.pop()
            self.lines.append(f"{indent}- [{'x' if right else ' '}] {' | '.join(cells)}")

    def gap(self, row: dict[str, str], indent: str) -> None:
        cells = [row.get("key", ""), row.get("more", ""), row.get("unit", ""), KINDS[row["kind"]].words, row["share"]]
        while not cells[-1]:
            cells.pop()
        self.say("gaps", " | ".join(cells), indent)

    def tells(self, entry: Input, typed: dict[str, Any], blank: dict[str, str]) -> bool:
        value = typed.get(entry.name)
        if isinstance(value, list):
            return bool(value)
        return bool(value) and value != blank.get(entry.name) and not (entry.usual and value == entry.usual)

    def input(self, entry: Input, value: Any, indent: str) -> None:
        if entry.is_list:
            for row in value:
                cells = [row.get(column.name, "") for column in entry.columns]
                while len(cells) > 1 and not cells[-1]:
                    cells.pop()
                self.say(entry.name, " | ".join(cells), indent)
        elif entry.way == "ticks":
            self.say(entry.name, "; ".join(value.replace("_", " ").split("\n")), indent)
        elif entry.way == "tick":
            self.say(entry.name, "yes", indent)
        elif entry.way == "choice":
            self.say(entry.name, value.replace("_", " "), indent)
        else:
            for line in value.split("\n"):
                self.say(entry.name, line, indent)

    def beside(self, part: dict[str, Any], indent: str) -> None:
        """What a part says beside its answer."""
        if KINDS[part["answer"]["kind"]].document.marked:
            self.say("marks", f"{part['marks']:g}", indent)
        if part["before"]:
            self.say("before", part["before"], indent)
        if part["after"]:
            self.say("after", part["after"], indent)
        if part["gives"]:
            self.say("gives", part["gives"], indent)
        if part["required"]:
            self.say("required", "yes", indent)
        for trial in part["trials"]:
            self.say("try", f"{trial['response']} -> {trial['outcome']}", indent)
        for name in ("right", "partly", "wrong"):
            if part["feedback"][name]:
                self.say(name, part["feedback"][name], indent)
        for hint in part["hints"]:
            self.say("hint", hint["text"], indent, "" if hint["cost"] == "0" else hint["cost"])
        if part["solution"]:
            self.say("solution", part["solution"], indent)

    def filed(self) -> None:
        filing = self.filing
        self.lines.append("")
        if len(filing.topics) > 1:
            self.say("topics", "; ".join(" > ".join(path) for path in filing.topics), INDENT)
        self.say("level", str(filing.level), INDENT)
        if filing.demand:
            self.say("demand", str(filing.demand), INDENT)
        if not filing.calculator:
            self.say("calculator", "no", INDENT)
        if filing.minutes is not None:
            self.say("minutes", f"{filing.minutes.normalize():f}", INDENT)
        for name, values in (("tags", filing.tags), ("references", filing.references)):
            if values:
                self.say(name, ", ".join(values), INDENT)
        for name, value in (("source", filing.source), ("licence", filing.licence), ("note", filing.note)):
            if value:
                self.say(name, value, INDENT)

"""The document of a question from its sorted lines: its parts, what each answer means, where it is filed."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ...answers import KINDS, read_rubric
from ...answers.records import to_marks
from ...answers.spelling import tolerance_of
from ...notation import USUAL, Habits
from ...questions import listed, read_paths
from ..drafted import Drafted, Remark
from . import layout
from .guessing import Around, kind_named, lettered_answer, meant, said_close, with_maths
from .layout import Label
from .pieces import LETTERS, Block, Choice, Piece, joined, read_given

PART_SIGN = re.compile(r"(?:^|(?<=[\s,;]))\(?([a-h])\)\s*")
YES = {"yes", "y", "true", "allowed", "on", "1", "with"}
NO = {"no", "n", "false", "not allowed", "off", "0", "without", "none"}
# What is said of a part whatever the kind of its answer.
OF_EVERY_KIND = frozenset([
    "answer", "kind", "marks", "before", "after", "gives", "required", "solution", "hint", "right", "partly", "wrong",
    "try", "gaps",
])  # fmt: skip


@dataclass(frozen=True)
class Place:
    """Where a text is read: how its people write numbers, and what they call the levels and kinds of demand, from 1."""

    habits: Habits = USUAL
    levels: tuple[str, ...] = ()
    demands: tuple[str, ...] = ()


HERE = Place()


class Maker:
    """Makes a question's document of its sorted lines."""

    def __init__(self, block: Block, place: Place) -> None:
        self.block, self.place, self.habits = block, place, place.habits
        self.guesses, self.unread, self.faults = list(block.guesses), list(block.unread), list[Remark]()
        self.angle = "degrees"
        self.parameters = [read_given(rest) for _, rest in block.given]
        self.names = frozenset(str(each["name"]) for each in self.parameters) | self.column_names()
        # one number, as it is printed, where the answer is nothing else
        self.printed = ""
        # whether a part says its own marks
        self.worth_said = False
        # the pieces for which nothing says the answer
        self.lacking: list[Piece] = []
        # parts that are nothing but what others stand under
        self.heads: list[Piece] = []

    def column_names(self) -> frozenset[str]:
        """The names by which the columns of a drawn row are used: ``material.density``."""
        tables = {name.strip(): self.table(name, rows) for _, word, name, rows in self.block.fences if word == "table"}
        drawn = [(each["name"], re.fullmatch(r"row of (\w+)", each["definition"].strip())) for each in self.parameters]
        return frozenset(
            f"{name}.{column['name']}"
            for name, found in drawn
            if found and found[1] in tables
            for column in tables[found[1]]["columns"]
        )

    def guess(self, line: int, words: str) -> None:
        self.guesses.append(Remark(line, words))

    def drafted(self) -> Drafted:
        whole = next((lines for _, word, _, lines in self.block.fences if word == "document"), None)
        if whole is not None:
            return self.from_document(whole)
        self.decide_letters()
        raw = self.document()
        drafted = Drafted(self.block.line, raw, self.guesses, self.unread, self.faults)
        parts = raw.get("parts") or []
        asked = [
            piece for piece in (self.block.parts or [self.block.stem]) if not any(piece is head for head in self.heads)
        ]
        drafted.lacking = [k for k, piece in enumerate(asked) if any(piece is each for each in self.lacking)]
        simple = len(parts) == 1 and not self.names and not raw.get("figures")
        if simple and parts[0].get("answer", {}).get("kind") in {"number", "quantity"} and self.printed:
            # as it was written, its formulas too
            texts = [self.without_marks(joined(piece.text), piece)[0] for piece in (self.block.stem, *self.block.parts)]
            drafted.asked = "\n".join(filter(None, texts))
            drafted.answer = self.printed
        return drafted

    def from_document(self, lines: list[str]) -> Drafted:
        """A question that is written out as its document, because the plain layout could not say all of it."""
        try:
            raw = json.loads("\n".join(lines))
        except ValueError:
            raw = None
        if not isinstance(raw, dict):
            self.faults.append(Remark(self.block.line, "The document that stands here cannot be read."))
            raw = {}
        return Drafted(self.block.line, raw, self.guesses, self.unread, self.faults)

    # options or parts

    def decide_letters(self) -> None:
        """Whether the lines with letters are the options of the question or its parts."""
        block = self.block
        run = block.lettered
        if self.dealt_out() or not run or block.stem.options:
            return
        answers = [part.said("answer") for part in block.parts]
        stem = block.stem.said("answer")
        if block.parts:
            last = answers[-1] if answers else None
            said = stem or (last if last is not None and not any(answers[:-1]) else None)
            picked = said and lettered_answer(
                said.text, [each.letter for each in run], [joined(each.text) for each in run]
            )
            by_letter = said is not None and re.fullmatch(r"[(\s]*[a-zA-Z]([)\s,;&]|and|[a-zA-Z])*", said.text.strip())
            if len(run) < 2 or not ((picked and by_letter) or any(each.right for each in run)):
                return
            block.stem.labels += [label for part in block.parts for label in part.labels]
            block.parts = []
        block.stem.options = run

    def dealt_out(self) -> bool:
        """Whether one answer says those of all parts: ``a) 5  b) 6``; each has its own then."""
        block = self.block
        labels = [label for piece in [block.stem, *block.parts] for label in piece.all_said("answer")]
        if len(labels) != 1:
            return False
        cuts = list(PART_SIGN.finditer(labels[0].text))
        if len(cuts) < 2 or cuts[0].start():
            return False
        if not block.parts:
            self.parts_within([cut[1] for cut in cuts])
        if [cut[1] for cut in cuts] != [part.letter for part in block.parts]:
            return False
        ends = [*(cut.start() for cut in cuts[1:]), len(labels[0].text)]
        for piece in [block.stem, *block.parts]:
            piece.labels = [label for label in piece.labels if label is not labels[0]]
        for part, cut, end in zip(block.parts, cuts, ends):
            value = labels[0].text[cut.end() : end].strip(" ,;\n")
            part.labels.append(Label("answer", value, labels[0].line))
        return True

    def parts_within(self, letters: list[str]) -> None:
        """Make parts of a text that names them in the line: ``Find a) the force b) the energy.``"""
        block = self.block
        text = joined(block.stem.text)
        # what stands in a formula begins no part
        cuts = list(PART_SIGN.finditer(re.sub(r"\$[^$]*\$", lambda span: "·" * len(span[0]), text)))
        if [cut[1] for cut in cuts] != letters:
            return
        ends = [*(cut.start() for cut in cuts[1:]), len(text)]
        block.stem.text = [text[: cuts[0].start()].rstrip()]
        block.parts = [
            Piece(block.line, [text[cut.end() : end].strip(" ,;")], letter=cut[1]) for cut, end in zip(cuts, ends)
        ]

    # the document

    def document(self) -> dict[str, Any]:
        block = self.block
        raw: dict[str, Any] = {"format": "vorlage-question-3"}
        labels = {label.name: label for label in block.labels}
        wording = joined(block.stem.text)
        if "angles" in labels:
            self.angle = "radians" if labels["angles"].value.casefold().startswith("rad") else "degrees"
            raw["angle"] = self.angle
        if "numbers" in labels and labels["numbers"].value.casefold() == "complex":
            raw["complex"] = True
        if "signs" in labels and labels["signs"].value.casefold() in NO:
            raw["no_signs"] = True
        if self.parameters:
            raw["parameters"] = self.parameters
        if block.conditions:
            raw["conditions"] = [text for _, text in block.conditions]
        self.add_fences(raw)
        pictures = [picture for label in block.labels if label.name == "picture" for picture in self.picture(label)]
        if pictures:
            raw["pictures"] = pictures
        pins = [self.pin(label) for label in block.labels if label.name == "keep"]
        if pins:
            raw["pins"] = pins
        if block.parts:
            whole, worth = self.without_marks(wording, block.stem)
            raw["wording"] = self.typeset(whole, block.line)
            raw["parts"] = self.parts(wording)
            if worth is not None:
                self.share_out(worth, raw["parts"])
            for label in block.stem.labels:
                if label.name != "marks":
                    self.unread.append(
                        Remark(label.line, "This stands before the parts: nothing says to which of them it belongs.")
                    )
        else:
            raw["parts"] = [self.part(block.stem, "")]
        title = labels["title"].value if "title" in labels else block.title
        raw["title"] = (title or self.title_of(raw))[:200]
        raw["filing"] = self.filing(labels)
        return raw

    def title_of(self, raw: dict[str, Any]) -> str:
        """A title from the first words."""
        text = raw.get("wording") or next((part.get("wording", "") for part in raw["parts"]), "")
        text = re.sub(r"!\[[^\]]*\]\([^)]*\)|[$*`_#\\]+", " ", text)
        words = text.split()
        return (
            " ".join(words[:7]) + ("…" if len(words) > 7 else "") if words else f"Question {self.block.number}".strip()
        )

    def without_marks(self, wording: str, piece: Piece) -> tuple[str, str | None]:
        """A text without the marks at its end, and these."""
        label = piece.said("marks")
        found = layout.WORTH.search(wording)
        if found:
            wording = wording[: found.start()].rstrip()
        worth = label.value if label else (found["worded"] or found["bare"]) if found else None
        return wording, worth

    def parts(self, stem: str) -> list[dict[str, Any]]:
        pieces = self.block.parts
        made: list[dict[str, Any]] = []
        head: Piece | None = None
        for piece, following in zip(pieces, [*pieces[1:], None]):
            if following is not None and following.under and not (piece.under or piece.labels or piece.options):
                # (a) with nothing but what (i) and (ii) stand under
                head = piece
                self.heads.append(piece)
                continue
            if head is not None:
                piece.text, piece.under, head = [*head.text, "", *piece.text], False, None
            made.append(self.part(piece, stem))
        return made

    def share_out(self, worth: str, parts: list[dict[str, Any]]) -> None:
        """Marks that are said of the whole question, where no part says its own."""
        asked = [part for part in parts if KINDS[part["answer"]["kind"]].document.marked]
        if self.worth_said or not asked:
            return
        try:
            whole = to_marks(self.number(worth))
            each = to_marks(whole / len(asked))
        except ValueError:
            self.guess(self.block.line, f"{worth} marks cannot be shared evenly among {len(asked)} parts: 1 for each.")
            return
        for part in asked:
            part["marks"] = str(each)
        self.guess(self.block.line, f"The {worth} marks were shared evenly among the parts.")

    def number(self, text: str) -> str:
        text = text.replace("½", ".5").replace("¼", ".25").replace("¾", ".75").replace(" ", "")
        found = re.match(r"\d*(?:[.,]\d+)?", text)
        return (found[0] if found else text).replace(",", ".") or text

    def part(self, piece: Piece, stem: str) -> dict[str, Any]:
        wording, worth = self.without_marks(joined(piece.text), piece)
        made: dict[str, Any] = {"wording": wording}
        around = Around(f"{stem}\n{wording}", self.names | self.given_names(), self.habits, self.angle)
        answer, after, solution = self.answer(piece, wording, around)
        if piece.options:
            # a list that became options is not in the text any more
            wording = self.without_marks(joined(piece.text), piece)[0]
        made["wording"] = self.typeset(wording, piece.line)
        made["answer"] = answer
        if piece.under:
            made["under"] = True
        if worth is not None:
            made["marks"], self.worth_said = self.number(worth), True
        elif KINDS.get(answer["kind"]) and KINDS[answer["kind"]].document.marked:
            self.guess(piece.line, "Nothing says how many marks: 1.")
        if label := piece.said("before"):
            made["before"] = label.value
        said = piece.said("after")
        if said is not None or after:
            made["after"] = said.value if said is not None else after
        if label := piece.said("gives"):
            made["gives"] = label.value
        if (label := piece.said("required")) and label.value.casefold() not in NO:
            made["required"] = True
        solutions = [label.text for label in piece.all_said("solution")]
        if solution:
            solutions.append(solution)
        if solutions:
            made["solution"] = "\n\n".join(joined(each.split("\n")) for each in solutions)
        hints = piece.all_said("hint")
        if hints:
            made["hints"] = [
                {"text": joined([label.value, *label.more])} | ({"cost": label.given} if label.given else {})
                for label in hints
            ]
        feedback = {
            name: joined([label.value, *label.more])
            for name in ("right", "partly", "wrong")
            if (label := piece.said(name))
        }
        if feedback:
            made["feedback"] = feedback
        trials = []
        for label in piece.all_said("try"):
            tried = layout.PAIR.match(label.value)
            if tried:
                trials.append({"response": tried["left"], "outcome": tried["right"]})
            else:
                self.unread.append(Remark(label.line, "A sample answer is written `Try: 5 kg -> right`."))
        if trials:
            made["trials"] = trials
        return made

    def typeset(self, text: str, line: int) -> str:
        """A text with spans around its maths where nobody has put any."""
        if self.parameters:
            return text
        typeset, found = with_maths(text, self.names)
        if found:
            self.guess(line, f"“{'”, “'.join(found[:3])}” was taken as maths.")
        return typeset

    def given_names(self) -> frozenset[str]:
        return frozenset(label.value for part in self.block.parts for label in part.all_said("gives"))

    # answers

    def answer(self, piece: Piece, wording: str, around: Around) -> tuple[dict[str, Any], str, str]:
        """The answer of a part, what stands after the space, and a solution that the answer gave."""
        kind_label, label = piece.said("kind"), piece.said("answer")
        kind = kind_named(kind_label.value) if kind_label else ""
        if kind_label and not kind:
            self.unread.append(Remark(kind_label.line, f"There is no kind of answer called “{kind_label.value[:40]}”."))
        further = piece.all_said("answer")[1:]
        if not piece.options and not kind:
            label = label or self.solved(piece)
            wording = self.listed_options(piece, label, wording)
        if piece.options and label is not None and not kind and self.in_order(piece, label):
            kind = "order"
        if piece.options and kind not in {"order", "match"}:
            return self.chosen(piece, label), "", ""
        if piece.options and kind == "order":
            piece.bullets = [(each.line, joined(each.text)) for each in piece.options]
        pairs = [pair for _, text in piece.bullets if (pair := layout.PAIR.match(text))]
        if kind == "match" or (piece.bullets and len(pairs) == len(piece.bullets) and not kind):
            return self.matched(piece), "", ""
        if kind == "order":
            return self.ordered(piece), "", ""
        if kind:
            return self.explicit(kind, piece), "", ""
        if label is None and not piece.all_said("gaps") and not piece.all_said("accept"):
            self.lacking.append(piece)
            return {"kind": "none"}, "", ""
        if label is None and piece.all_said("accept"):
            return self.explicit("text", piece), "", ""
        gaps = len(re.findall(r"_{3,}", wording))
        if piece.all_said("gaps") or gaps > 1:
            return self.gapped(piece, label, gaps, around), "", ""
        text = label.text if label is not None else ""
        unit, close = piece.said("unit"), piece.said("tolerance")
        text, told = said_close(text)
        found = meant(text, around, unit.value if unit else "", close is not None or bool(told))
        if "mode" in KINDS[found.kind].names and close is None:
            found.typed |= told
        line = label.line if label is not None else piece.line
        for words in found.guesses:
            self.guess(line, words)
        for extra in further:
            if found.kind == "text":
                found.typed["accept"] = f"{found.typed['accept']}\n{extra.text}"
            else:
                self.unread.append(
                    Remark(extra.line, "There is another answer above: `Accept:` says what else is right.")
                )
        self.printed = found.printed
        typed = {**found.typed, **self.typed(found.kind, piece)}
        if found.kind == "essay":
            typed.pop("accept", None)
        return KINDS[found.kind].read(typed), found.after, found.model

    def solved(self, piece: Piece) -> Label | None:
        """A short solution where there is no answer: it is the answer."""
        label = piece.said("solution")
        if label is None or piece.all_said("gaps") or piece.all_said("accept") or len(label.text.split()) > 4:
            return None
        piece.labels = [each for each in piece.labels if each is not label]
        self.guess(label.line, "There is no answer but a short solution: that was taken as the answer.")
        return Label("answer", label.text, label.line)

    def listed_options(self, piece: Piece, label: Label | None, wording: str) -> str:
        """A list at the end of a text as its options, where the answer is one of them; the text without them."""
        lines = wording.split("\n")
        first = len(lines)
        while first and layout.BULLET.match(lines[first - 1]):
            first -= 1
        texts = [found["text"] for line in lines[first:] if (found := layout.BULLET.match(line))]
        if len(texts) < 2 or label is None or not (named := lettered_answer(label.text, [], texts)):
            return wording
        piece.options = [Choice(label.line, LETTERS[k], [text]) for k, text in enumerate(texts[: len(LETTERS)])]
        piece.text = lines[:first]
        self.guess(label.line, f"The list was taken as options; “{texts[named[0]]}” is right.")
        return "\n".join(lines[:first]).rstrip()

    def in_order(self, piece: Piece, label: Label) -> bool:
        """Whether an answer names all options in another order than they stand in: then they are to be put in order."""
        letters = [each.letter or LETTERS[k] for k, each in enumerate(piece.options)]
        named = lettered_answer(label.text, letters, [joined(each.text) for each in piece.options])
        if named is None or len(named) < 3 or sorted(named) != list(range(len(letters))):
            return False
        if named == sorted(named) and not re.search(r"\border\b|\barrange\b", "\n".join(piece.text), re.IGNORECASE):
            return False
        piece.options = [piece.options[k] for k in named]
        self.guess(label.line, "The answer names all of them: they are to be put in this order.")
        return True

    def explicit(self, kind: str, piece: Piece) -> dict[str, Any]:
        """An answer whose kind is said."""
        typed = self.typed(kind, piece)
        names = KINDS[kind].names
        label, close = piece.said("answer"), piece.said("tolerance")
        if label is not None and "key" in names:
            if kind == "true_false" and label.text.strip().casefold() in {"true", "false"}:
                typed["key"] = label.text.strip().casefold()
            elif "unit" in names and not typed.get("unit") and (cut := re.search(r"\s*\[([^\[\]]+)\]$", label.text)):
                typed["key"], typed["unit"] = label.text[: cut.start()], cut[1]
            else:
                typed["key"] = label.text
        elif label is not None and "accept" in names:
            typed["accept"] = "\n".join(filter(None, [label.text, typed.get("accept", "")]))
        elif label is not None:
            self.unread.append(Remark(label.line, f"An answer of the kind “{KINDS[kind].words}” has no such line."))
        if kind == "blanks":
            typed["gaps"] = [self.gap(each.value, each.line, None) for each in piece.all_said("gaps")]
        if "mode" in names and close is None and "key" in typed:
            typed["mode"] = "exact"
        return KINDS[kind].read(typed)

    def typed(self, kind: str, piece: Piece) -> dict[str, Any]:
        """What the inputs of a kind hold, from the lines that are called as they are."""
        names, typed = KINDS[kind].names, dict[str, Any]()
        inputs = {entry.name: entry for entry in KINDS[kind].inputs}
        for label in piece.labels:
            name = label.name
            if name in OF_EVERY_KIND:
                continue
            if name == "tolerance" and "mode" in names:
                typed |= self.close(label)
            elif name == "unit" and "unit" not in names and kind == "number":
                continue
            elif name == "rubric" or name not in names:
                self.late(kind, label, typed, names)
            elif name == "form" and "equation_form" in names:
                typed["equation_form"] = self.choice(label, inputs["equation_form"].choices)
            else:
                entry = inputs[name]
                match entry.way:
                    case "rows":
                        typed.setdefault(name, []).extend(entry.rows_of(label.text))
                    case "tick":
                        typed[name] = "on" if label.value.casefold() in YES else ""
                    case "choice":
                        typed[name] = self.choice(label, entry.choices)
                    case "ticks":
                        known = {words.casefold(): each for each, words in entry.choices}
                        pieces = [each.strip() for each in label.value.split(";")]
                        said = [each.partition("|") for each in pieces if each]
                        typed[name] = "\n".join(
                            f"{known.get(each.strip().casefold(), each.strip().replace(' ', '_'))}{bar}{share.strip()}"
                            for each, bar, share in said
                        )
                    case "lines":
                        typed[name] = "\n".join(filter(None, [typed.get(name, ""), label.text]))
                    case _:
                        typed[name] = label.text
        if kind == "essay" and (lines := [lines for _, word, _, lines in self.block.fences if word == "rubric"]):
            typed["rubric"] = self.rubric_rows(lines[0])
        return typed

    def late(self, kind: str, label: Label, typed: dict[str, Any], names: frozenset[str]) -> None:
        if label.name == "rubric" and "rubric" in names:
            typed.setdefault("rubric", []).extend(self.rubric_rows([label.text]))
            return
        self.unread.append(Remark(label.line, f"An answer of the kind “{KINDS[kind].words}” has no such line."))

    def rubric_rows(self, lines: list[str]) -> list[dict[str, str]]:
        text = "\n".join(line.strip() for line in lines)
        try:
            criteria = read_rubric(text)
        except ValueError as problem:
            self.faults.append(Remark(self.block.line, str(problem)))
            return []
        return [
            {"name": each["name"]}
            | {f"level{k}": f"{level['marks']} {level['text']}".strip() for k, level in enumerate(each["levels"], 1)}
            for each in criteria
        ]

    def choice(self, label: Label, choices: Iterable[tuple[str, str]]) -> str:
        plain = " ".join(label.value.casefold().replace("_", " ").split())
        for name, words in choices:
            if plain in {name.replace("_", " "), words.casefold()}:
                return name
        listing = ", ".join(name.replace("_", " ") for name, _ in choices if name)
        self.faults.append(Remark(label.line, f"“{label.value[:40]}” is none of: {listing}."))
        return ""

    def close(self, label: Label) -> dict[str, str]:
        """How close is close enough, from ``2%``, ``±0.5``, ``3 sf``, ``3.1 to 3.3``, ``exactly``."""
        text = label.value.strip().strip(".")
        if text.casefold() in {"exactly", "exact", "none", "0"}:
            return {"mode": "exact", "tolerance": ""}
        between = re.match(r"(?:from|between)?\s*(.+?)\s*(?:\.\.|\bto\b|\band\b|–)\s*(.+)$", text)
        if between and not re.search(r"decimal|signif|figure|place", text):
            return {"mode": "between", "tolerance": f"{between[1]}..{between[2]}"}
        rounded = re.match(r"(?:to\s+)?(\d+)\s*(d|s)", text, re.IGNORECASE)
        if rounded and re.search(r"d\.?p|s\.?f|decimal|signif|figures|places", text, re.IGNORECASE):
            mode = "decimal_places" if rounded[2].lower() == "d" else "significant_figures"
            return {"mode": mode, "tolerance": rounded[1]}
        text = re.sub(r"^(?:within|±|\+/-|\+-|plus or minus)\s*", "", text, flags=re.IGNORECASE)
        text = re.sub(r"\s*%$", "%", text)
        found = tolerance_of(text)
        return {"mode": str(found["mode"]), "tolerance": str(found.get("value", ""))}

    def chosen(self, piece: Piece, label: Label | None) -> dict[str, Any]:
        """A choice: the right options are those with a sign, or those that the answer names."""
        columns = next(each for each in KINDS["choice"].inputs if each.name == "options")
        if len(piece.options) > len(LETTERS):
            self.faults.append(Remark(piece.options[0].line, f"There are more than {len(LETTERS)} options."))
            piece.options = piece.options[: len(LETTERS)]
        # what is split at strokes has shares, feedback, and whether it stays
        rows = [columns.rows_of(" ".join(joined(each.text).split("\n")) or " ")[:1] for each in piece.options]
        cells = [row[0] if row else {"text": "", "share": "", "feedback": "", "fixed": ""} for row in rows]
        picked = [k for k, each in enumerate(piece.options) if each.right]
        if label is not None:
            letters = [each.letter or LETTERS[k] for k, each in enumerate(piece.options)]
            named = lettered_answer(label.text, letters, [cell["text"] for cell in cells])
            if named is None:
                self.faults.append(Remark(label.line, f"“{label.value[:40]}” is none of the options."))
            elif picked and sorted(named) != picked:
                self.faults.append(Remark(label.line, "This answer and the signs at the options say different things."))
            else:
                picked = sorted(named)
        elif picked and not any(each.right is False for each in piece.options):
            signed = ", ".join(piece.options[k].letter.upper() or str(k + 1) for k in picked)
            self.guess(piece.options[picked[0]].line, f"The sign at {signed} was taken to say that it is right.")
        shares = any(cell["share"] for cell in cells)
        if not picked and not shares and not self.faults:
            self.faults.append(
                Remark(
                    piece.options[0].line, "Nothing says which option is right: add “Answer: B”, or `[x]` before it."
                )
            )
        many = len(picked) > 1
        options: list[dict[str, str]] = []
        for k, cell in enumerate(cells):
            share = cell["share"] or ("" if k not in picked else f"1/{len(picked)}" if many else "1")
            if k not in picked and cell["share"] == "":
                share = ""
            cell = {**cell, "text": self.typeset(cell["text"], piece.options[k].line)}
            options.append({**cell, "share": share, "fixed": "on" if cell.get("fixed") else ""})
        typed: dict[str, Any] = {"options": options, "choose": "many" if many else "one"}
        typed |= {
            name: value for name, value in self.typed("choice", piece).items() if name in {"choose", "keep_order"}
        }
        fixed = re.compile(r"\b(?:all|none|both|neither) of (?:the above|these|them)\b", re.IGNORECASE)
        for k, row in enumerate(options):
            if fixed.search(str(row["text"])) and not row["fixed"] and not piece.said("kind"):
                row["fixed"] = "on"
                self.guess(piece.options[k].line, f"“{row['text']}” keeps its place when the options are shuffled.")
        return KINDS["choice"].read(typed)

    def matched(self, piece: Piece) -> dict[str, Any]:
        rows, columns = [], next(each for each in KINDS["match"].inputs if each.name == "options")
        for line, text in piece.bullets:
            pair = layout.PAIR.match(text)
            if pair is None:
                self.unread.append(Remark(line, "A pair is written `left -> right`."))
                continue
            cells = columns.rows_of(f"- | {pair['right']}")[0]
            rows.append({"text": pair["left"], "pair": cells["pair"], "share": cells["share"]})
        return KINDS["match"].read({"options": rows, **self.typed("match", piece)})

    def ordered(self, piece: Piece) -> dict[str, Any]:
        rows = [{"text": text} for _, text in piece.bullets]
        return KINDS["order"].read({"options": rows, **self.typed("order", piece)})

    def gapped(self, piece: Piece, label: Label | None, gaps: int, around: Around) -> dict[str, Any]:
        rows = [self.gap(each.value, each.line, around) for each in piece.all_said("gaps")]
        if label is not None and not rows:
            values = [each.text for each in piece.all_said("answer")]
            if len(values) == 1:
                by_semicolon = [each.strip() for each in values[0].split(";") if each.strip()]
                values = by_semicolon if len(by_semicolon) == gaps else [
                    each.strip() for each in re.split(r",\s+|\n|\band\b", values[0]) if each.strip()
                ]  # fmt: skip
            rows = [self.gap(each, label.line, around) for each in values]
        return KINDS["blanks"].read({"gaps": rows})

    def gap(self, text: str, line: int, around: Around | None) -> dict[str, str]:
        """A gap from ``12 | 2% | kg | number with a unit | 1/2``, or from an answer."""
        pieces = [each.strip() for each in re.split(r"\s\|(?:\s|$)", text)]
        pieces += [""] * (5 - len(pieces))
        key, more, unit, kind, share = pieces[:5]
        if kind or around is None:
            return {"kind": kind_named(kind) or "number", "key": key, "more": more, "unit": unit, "share": share}
        found = meant(key, around, unit, bool(more))
        kind = found.kind if KINDS[found.kind].in_gap is not None else "text"
        for words in found.guesses:
            self.guess(line, words)
        if kind == "text":
            first, *rest = (found.typed.get("accept") or key).split("\n")
            return {"kind": "text", "key": first, "more": more or "; ".join(rest), "unit": "", "share": share}
        close = found.typed.get("tolerance", "")
        if found.typed.get("mode") in {"decimal_places", "significant_figures"}:
            close = f"{close} {'dp' if found.typed['mode'] == 'decimal_places' else 'sf'}"
        return {
            "kind": kind, "key": found.typed.get("key", key), "more": more or close,
            "unit": found.typed.get("unit", ""), "share": share,
        }  # fmt: skip

    # what stands beside

    def add_fences(self, raw: dict[str, Any]) -> None:
        for _, word, about, inside in self.block.fences:
            if word == "figure":
                raw.setdefault("figures", []).append({"name": about, "lines": joined(inside)})
            elif word == "table":
                raw.setdefault("tables", []).append(self.table(about, inside))

    def table(self, name: str, rows: list[str]) -> dict[str, Any]:
        cells = [[cell.strip().replace("\\|", "|") for cell in row.strip().strip("|").split("|")] for row in rows]
        heads = []
        for head in cells[0]:
            unit = re.search(r"\s*[\[(]([^\[\]()]+)[\])]$", head)
            heads.append({"name": head[: unit.start()].strip(), "unit": unit[1]} if unit else {"name": head.strip()})
        return {"name": name.strip(), "columns": heads, "rows": cells[2:]}

    def picture(self, label: Label) -> list[dict[str, Any]]:
        found = re.match(r"(\S+)\s+([0-9a-f]{64})\s+(\d+)\s*(?:by|x)\s*(\d+)$", label.value)
        if not found:
            self.unread.append(Remark(label.line, "A picture cannot come as text: add it to the question later."))
            return []
        return [{"name": found[1], "digest": found[2], "width": int(found[3]), "height": int(found[4])}]

    def pin(self, label: Label) -> dict[str, Any]:
        pieces = [each.partition("=") for each in label.value.split(";") if "=" in each]
        return {"values": {name.strip(): value.strip() for name, _, value in pieces}}

    def filing(self, labels: dict[str, Label]) -> dict[str, Any]:
        filed: dict[str, Any] = {}
        topics = read_paths(labels["topics"].value) if "topics" in labels else []
        if not topics and self.block.topics:
            topics = [self.block.topics]
        if topics:
            filed["topics"] = [list(each) for each in topics]
        for name, called, most in (("level", self.place.levels, 5), ("demand", self.place.demands, 6)):
            if label := labels.get(name):
                known = {words.casefold(): k for k, words in enumerate(called, start=1) if words}
                number = int(label.value) if label.value.isdigit() else known.get(label.value.casefold(), 0)
                if 1 <= number <= most:
                    filed[name] = number
                else:
                    listing = ", ".join(filter(None, called)) or f"1 to {most}"
                    self.unread.append(
                        Remark(label.line, f"“{label.value[:40]}” is no {name} that is known here: {listing}.")
                    )
        if label := labels.get("calculator"):
            said = label.value.casefold().rstrip(".")
            if said in YES | NO:
                filed["calculator"] = said in YES
            else:
                self.unread.append(Remark(label.line, "Calculator: yes or no."))
        if label := labels.get("minutes"):
            filed["minutes"] = self.number(label.value)
        for name in ("tags", "references"):
            if label := labels.get(name):
                filed[name] = listed(label.value)
        for name in ("source", "licence"):
            if label := labels.get(name):
                filed[name] = label.text
        if label := labels.get("note"):
            filed["note"] = joined([label.value, *label.more])
        return filed

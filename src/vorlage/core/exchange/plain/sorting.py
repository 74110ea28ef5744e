"""Which question, and which part of it, every line of a text belongs to."""

from __future__ import annotations

import re
from itertools import pairwise

from ...questions import DEEP, read_paths
from ..drafted import Remark
from . import layout
from .guessing import kind_named
from .layout import LATE, QUESTION_LABELS, RUNNING, TEXTS, Label, read_label
from .pieces import LETTERS, ROMANS, Block, Choice, Piece, inline_options, option_text, split_given

# So often a list of answers is looked for.
MOST_KEYS = 5
# An answer of so few characters does not go on below.
ONE_LINE = 50


class Sorter:
    """Goes through the lines and says which question and part each belongs to."""

    def __init__(self, lines: list[str]) -> None:
        self.lines = lines
        self.found: list[Block] = []
        self.unread: list[Remark] = []
        self.path: tuple[str, ...] = ()
        # where the next line of text goes; None where nothing is open
        self.sink: list[str] | None = None
        self.running = False
        self.headed = True
        self.indent = 0
        numbered = [each for each in map(layout.QUESTION.match, lines) if each]
        self.asked = any(layout.ASKS.match(line) for line in lines)
        self.numbered = bool(numbered) or self.asked
        # 1. before every question, as it is written where the numbers are made by whoever shows it
        self.all_first = len(numbered) > 1 and all(each["number"] == "1" for each in numbered)
        self.skip_to = 0
        self.keys_tried = 0

    @property
    def block(self) -> Block | None:
        return self.found[-1] if self.found else None

    @property
    def piece(self) -> Piece:
        """What is being said: the last part, or the question."""
        block = self.found[-1]
        return block.parts[-1] if block.parts else block.stem

    def blocks(self) -> list[Block]:
        for place, line in enumerate(self.lines):
            if place < self.skip_to:
                continue
            behind = layout.BEHIND.search(line)
            if behind and not read_label(line):
                self.take(place, line[: behind.start()])
                line = behind["said"]
            self.take(place, line)
        return self.found

    def take(self, place: int, line: str) -> None:
        number = place + 1
        block = self.block
        if not line.strip():
            if self.sink is not None and not self.running:
                self.sink.append("")
            elif self.running:
                self.sink, self.running = None, False
            return
        guarded = layout.PROTECTED.match(line)
        if guarded:
            self.say(number, line[: guarded.end() - 1] + line[guarded.end() :])
            return
        fence = layout.FENCE.match(line)
        if fence and self.fenced(place, fence):
            return
        if block is not None and layout.KEY_TITLE.match(line) and self.keys_follow(place):
            return
        for attempt in (self.headline, self.question, self.label, self.option, self.lettered, self.roman, self.given):
            if attempt(number, line):
                return
        if layout.RULE.match(line) and not (self.sink and layout.ROW.match(self.sink[-1])):
            return
        bullet = layout.BULLET.match(line)
        if bullet and block is not None and self.in_list(number, bullet["text"]):
            return
        if self.worth_alone(number, line):
            return
        self.say(number, line)

    # the shapes of lines

    def headline(self, number: int, line: str) -> bool:
        found = layout.HEADING.match(line)
        if found is None:
            return False
        inner = layout.QUESTION.match(found["text"])
        if inner is not None and inner["word"]:
            return self.question(number, found["text"])
        path = read_paths(found["text"].strip("*_ "))
        if not path:
            return True
        depth = min(len(found["depth"]), len(self.path) + 1, DEEP)
        self.path = path[0][:DEEP] if len(path[0]) > 1 else (*self.path[: depth - 1], *path[0])[:DEEP]
        self.sink, self.running, self.headed = None, False, True
        return True

    def question(self, number: int, line: str) -> bool:
        asks = layout.ASKS.match(line)
        if asks is not None:
            self.begin(number, str(len(self.found) + 1), asks["text"])
            return True
        found = layout.QUESTION.match(line)
        if found is None:
            return False
        indent, block = len(found["indent"]), self.block
        if block is not None and not found["word"] and not self.headed:
            if indent > self.indent + 1:
                return False
            if block.number.isdigit() and not self.goes_on(block, int(found["number"])):
                return False
        self.headed, self.indent = False, indent
        self.begin(number, found["number"], found["text"])
        return True

    def goes_on(self, block: Block, number: int) -> bool:
        """Whether a number at the beginning of a line is the next question's, and not a line of a list within one."""
        if number > int(block.number):
            return True
        answered = any(piece.said("answer") or piece.options for piece in [block.stem, *block.parts])
        return number == 1 and (answered or bool(block.lettered) or self.all_first)

    def begin(self, number: int, called: str, text: str) -> None:
        block = Block(number, called, self.path, Piece(number))
        self.found.append(block)
        self.sink, self.running = block.stem.text, False
        # 3a) and 3. a)
        part = layout.LETTERED.match(text) if text else None
        if part and not part["star"] and (part["both"] or part["one"]).islower() and (part["both"] or part["sign"]):
            self.lettered(number, text)
            return
        title = layout.BOLD.match(text)
        if title and title.end() == len(text):
            block.title = title["text"].strip(" :")
        elif text.endswith(("**", "__")) and text.count(text[-2:]) == 1:
            # **3. Harbour crane**: the sign before the number is gone
            block.title = text[:-2].strip(" :")
        elif text:
            self.say(number, text)

    def label(self, number: int, line: str) -> bool:
        block = self.block
        if self.asked and block is not None and (reply := layout.REPLIES.match(line)):
            self.put(Label("answer", reply["value"].strip(), number))
            return True
        found = read_label(line)
        if found is None or block is None:
            return False
        name, given, value = found
        piece = self.piece
        said = piece.said("kind") or piece.said("answer")
        if name in LATE and said is None:
            return False
        if name == "answer" and re.fullmatch(r"[_.…\s]*", value) and (value or self.answer_space(number)):
            # room to write
            return True
        if name in {"marks", "level", "minutes", "calculator"} and not value:
            return False
        if name == "marks" and not re.match(r"\d|½", value):
            return False
        if name == "minutes" and not re.match(r"\d+(?:[.,]\d+)?\s*(?:min(?:ute)?s?\.?)?$", value):
            return False
        if name == "table":
            return self.tabled(number, value)
        if name in {"where", "form"} and not value:
            return False
        self.put(Label(name, value, number, given))
        return True

    def answer_space(self, number: int) -> bool:
        """Whether nothing follows an empty “Answer:” that could be the answer."""
        following = next((line for line in self.lines[number : number + 2] if line.strip()), "")
        return not following or layout.is_structural(following)

    def put(self, label: Label) -> None:
        block = self.block
        if block is None:
            return
        if label.name in QUESTION_LABELS:
            block.labels.append(label)
        elif block.lettered and not block.parts and label.name in {"share"}:
            block.lettered[-1].labels.append(label)
        else:
            self.piece.labels.append(label)
        if label.name in TEXTS:
            self.sink, self.running = label.more, False
        elif label.name in RUNNING:
            # a short answer ends with its line
            short = 0 < len(label.value) <= ONE_LINE
            self.sink, self.running = (None, False) if short else (label.more, True)
        else:
            self.sink, self.running = None, False

    def tabled(self, number: int, name: str) -> bool:
        """A Markdown table below its name is a table of data."""
        rows: list[str] = []
        for line in self.lines[number:]:
            if layout.ROW.match(line):
                rows.append(line)
            elif line.strip() or rows:
                break
        if len(rows) < 3 or self.block is None:
            return False
        self.block.fences.append((number, "table", name, rows))
        self.skip_to = number + next(k for k, line in enumerate(self.lines[number:]) if line == rows[-1]) + 1
        self.sink = None
        return True

    def option(self, number: int, line: str) -> bool:
        found = layout.OPTION.match(line)
        if found is None or self.block is None:
            return False
        sign = found["tick"] if found["box"] is None else found["box"]
        right = sign in set("xX✓✔*☑☒")
        choice = Choice(number, "", [found["text"]], right)
        # ( ) A) 5
        inner = layout.LETTERED.match(found["text"])
        if inner and (inner["sign"] or inner["both"]) and inner["text"]:
            choice.letter, choice.text = (inner["both"] or inner["one"]), [inner["text"]]
        self.piece.options.append(choice)
        self.sink, self.running = choice.text, True
        return True

    def lettered(self, number: int, line: str) -> bool:
        found, block = layout.LETTERED.match(line), self.block
        if found is None or block is None:
            return False
        letter = found["both"] or found["one"]
        piece = self.piece
        if found["number"] and found["number"] != block.number:
            if not letter.islower() or (block.number.isdigit() and int(found["number"]) < int(block.number)):
                return False
            self.begin(number, found["number"], "")
            block = self.found[-1]
        expected = LETTERS[len(block.lettered)] if len(block.lettered) < 26 else ""
        # a numeral below a letter: (i) after (h) is a letter
        if letter.lower() != expected:
            options = piece.options
            expected_option = LETTERS[len(options)] if len(options) < 26 else ""
            if block.parts and letter.lower() == expected_option:
                return self.part_option(number, found, letter)
            return False
        if letter.isupper() and block.parts and not block.parts[-1].options and self.piece.letter.islower():
            return self.part_option(number, found, letter)
        text, right = option_text(found["text"], bool(found["star"].strip()))
        pieces = inline_options(f"{letter}) {text}") if found["text"] else []
        if len(pieces) > 1:
            for one, said in pieces:
                words, marked = option_text(said, False)
                block.lettered.append(Choice(number, one, [words], marked or None, one.isupper()))
            self.sink, self.running = block.lettered[-1].text, True
            if not pieces[0][0].isupper():
                self.parts_of(block, len(pieces))
            return True
        choice = Choice(number, letter, [text] if text else [], right or None, letter.isupper())
        block.lettered.append(choice)
        if letter.isupper():
            self.sink, self.running = choice.text, True
        else:
            self.parts_of(block, 1)
            self.sink, self.running = choice.text, False
        return True

    def parts_of(self, block: Block, count: int) -> None:
        """The last lines with letters as parts; they become options where the answer says so."""
        for choice in block.lettered[-count:]:
            block.parts.append(Piece(choice.line, choice.text, choice.labels, letter=choice.letter))

    def part_option(self, number: int, found: re.Match[str], letter: str) -> bool:
        """An option of a part."""
        text, right = option_text(found["text"], bool(found["star"].strip()))
        for one, said in inline_options(f"{letter}) {text}") or [(letter, text)]:
            words, marked = option_text(said, False)
            self.piece.options.append(Choice(number, one, [words], (right or marked) or None, one.isupper()))
        self.sink, self.running = self.piece.options[-1].text, True
        return True

    def roman(self, number: int, line: str) -> bool:
        """(i) below (a), or where there are no letters a part by itself."""
        found, block = layout.ROMAN.match(line), self.block
        numeral = (found["both"] or found["one"]) if found else ""
        if found is None or block is None or numeral not in ROMANS:
            return False
        alone = all(part.letter in ROMANS and part.numbered for part in block.parts)
        below = 0
        for part in reversed(block.parts):
            if not (part.under or (alone and part.numbered)):
                break
            below += 1
        if ROMANS.index(numeral) != below or (block.lettered and not block.parts):
            return False
        letter = numeral if alone else block.parts[-1].letter
        block.parts.append(Piece(number, letter=letter, under=not alone, numbered=alone))
        self.sink, self.running = block.parts[-1].text, False
        if found["text"]:
            self.say(number, found["text"])
        return True

    def given(self, number: int, line: str) -> bool:
        block = self.block
        if block is None:
            return False
        such = layout.SUCH.match(line)
        if such and re.search(r"[=<>≤≥≠(]", such["rest"]):
            block.conditions.append((number, such["rest"]))
            self.sink = None
            return True
        found = layout.GIVEN.match(line)
        if found is None:
            return False
        known = {name for name, _ in map(split_given, (each for _, each in block.given))}
        name, _ = split_given(found["rest"])
        if name and name not in known:
            block.given.append((number, found["rest"]))
        elif re.search(r"<=|>=|!=|[<>≤≥≠]|\w\(.*\)\s*=", found["rest"]) and not re.search(
            r"[^\W\d_]{4,} [^\W\d_]{3,}", found["rest"]
        ):
            block.conditions.append((number, found["rest"]))
        else:
            return False
        self.sink = None
        return True

    def fenced(self, place: int, fence: re.Match[str]) -> bool:
        block, word = self.block, fence["word"].casefold()
        if word not in {"figure", "rubric", "document", "", "text", "markdown", "md", "plain"}:
            return False
        end = next(
            (k for k in range(place + 1, len(self.lines)) if self.lines[k].strip() == fence["fence"]), len(self.lines)
        )
        inside = self.lines[place + 1 : end]
        if block is None or word not in {"figure", "rubric", "document"}:
            # the text of a chat window stands in a fence
            if word not in {"figure", "rubric", "document"} and end < len(self.lines):
                self.lines[end] = ""
                return True
            return False
        block.fences.append((place + 1, word, fence["about"], inside))
        self.skip_to = end + 1
        self.sink = None
        return True

    def in_list(self, number: int, text: str) -> bool:
        """A line of a list: a pair, or an item, where pairs or items are asked for."""
        piece = self.piece
        kind = kind_named(label.value) if (label := piece.said("kind")) else ""
        if kind in {"match", "order"} or (
            not kind and layout.PAIR.match(text) and re.search(r"\bmatch", "\n".join(self.asking()), re.IGNORECASE)
        ):
            piece.bullets.append((number, text))
            self.sink = None
            return True
        return False

    def asking(self) -> list[str]:
        block = self.found[-1]
        return [block.title, *block.stem.text, *self.piece.text]

    def worth_alone(self, number: int, line: str) -> bool:
        """A line with nothing but the marks: ``(3 marks)``."""
        found = layout.WORTH.match(line)
        if found is None or self.block is None:
            return False
        self.piece.labels.append(Label("marks", found["worded"] or found["bare"], number))
        return True

    def say(self, number: int, line: str) -> None:
        """Text: it goes on with what is open, or begins a question where none has a number."""
        block = self.block
        options = inline_options(line) if block is None or self.sink is not None else []
        if options and block is not None:
            before = line[: line.find(f"{options[0][0]}")].rstrip("( ")
            if before.strip() and self.sink is not None:
                self.sink.append(before)
            self.take_inline(number, options)
            return
        if block is None and self.numbered:
            self.unread.append(Remark(number, f"“{quoted(line)}” stands before the first question."))
            return
        if not self.numbered and (block is None or self.sink is None):
            self.begin(number, "", line)
            if len(self.found) == 1:
                self.found[-1].guesses.append(
                    Remark(number, "The questions have no numbers: a text after an answer begins a new one.")
                )
            return
        if self.sink is None:
            if block is not None:
                block.unread.append(Remark(number, f"Nothing says what “{quoted(line)}” is: it was left out."))
            return
        self.sink.append(line)

    def take_inline(self, number: int, options: list[tuple[str, str]]) -> None:
        block = self.found[-1]
        for letter, said in options:
            words, marked = option_text(said, False)
            choice = Choice(number, letter, [words], marked or None, letter.isupper())
            if block.parts:
                block.parts[-1].options.append(choice)
            else:
                block.lettered.append(choice)
        if not block.parts and not options[0][0].isupper():
            self.parts_of(block, len(options))
        self.sink, self.running = None, False

    # a key at the end

    def keys_follow(self, place: int) -> bool:
        """Whether this line is above a list of answers by the numbers of the questions; they are taken then."""
        if self.keys_tried > MOST_KEYS:
            return False
        rest = [(k + 1, line) for k, line in enumerate(self.lines) if k > place and line.strip()]
        entries = [entry for number, line in rest for entry in key_entries(number, line)]
        numbers = {block.number for block in self.found}
        self.keys_tried += 1
        if not rest or not entries or key_entries(*rest[0]) == []:
            return False
        if sum(entry[1] in numbers for entry in entries) * 2 < len(entries):
            return False
        if any(block.stem.said("answer") or any(p.said("answer") for p in block.parts) for block in self.found):
            return False
        taken = set[int]()
        for number, called, letter, value in entries:
            taken.add(number)
            block = next((each for each in self.found if each.number == called), None)
            target = None
            if block is not None:
                target = next((part for part in block.parts if letter and part.letter == letter), None)
                target = target or (block.parts[-1] if block.parts and not letter else None)
                target = target or (block.stem if not letter else None)
            if target is None:
                self.unread.append(
                    Remark(number, f"There is no question {called}{letter} to which this answer belongs.")
                )
            else:
                target.labels.append(Label("answer", value, number))
        for number, line in rest:
            if number not in taken:
                self.unread.append(Remark(number, f"“{quoted(line)}” among the answers names no question."))
        self.skip_to = len(self.lines)
        return True


def quoted(line: str) -> str:
    """A line, or its beginning, as it is told."""
    words = " ".join(line.split())
    return words if len(words) <= 60 else f"{words[:58]}…"


# 1. and 4a. and 4(a) and 4 a) and Q4:
ENTRY = re.compile(
    r"(?:^|(?<=\s)|(?<=[,;]))(?:q(?:uestion)?\s*)?(?P<number>\d{1,3})"
    r"(?:\.?(?P<one>[a-h])(?=[.):]|\s)[.):]?|\s?\.?\s?\((?P<both>[a-h])\)|\s(?P<open>[a-h])\)|\s*[.):]|\s*[\-–](?=\s*[A-Za-z]\b))"
    r"(?:\s+|(?=[A-Za-z]\b)|$)",
    re.IGNORECASE,
)


def entry_of(cut: re.Match[str]) -> tuple[int, str]:
    """The question and the part of an entry in a list of answers."""
    return int(cut["number"]), (cut["one"] or cut["both"] or cut["open"] or "").lower()


def key_entries(number: int, line: str) -> list[tuple[int, str, str, str]]:
    """The answers in a line of a key: its number, the question, the part, and the answer."""
    line = line.replace("**", "")
    cuts: list[re.Match[str]] = []
    for cut in ENTRY.finditer(line):
        # the numbers grow: what does not is part of an answer
        if not cuts or entry_of(cut) > entry_of(cuts[-1]):
            cuts.append(cut)
    if not cuts or line[: cuts[0].start()].strip():
        return []
    several = len(cuts) > 1 and all(len(line[a.end() : b.start()].strip(" ,;")) <= 12 for a, b in pairwise(cuts))
    cuts = cuts if several else cuts[:1]
    ends = [*(cut.start() for cut in cuts[1:]), len(line)]
    found = []
    for cut, end in zip(cuts, ends):
        value = line[cut.end() : end].strip(" ,;") if several else line[cut.end() :].strip()
        if value:
            called, letter = entry_of(cut)
            found.append((number, str(called), letter, value))
    return found

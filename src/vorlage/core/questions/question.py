"""A question document, compiled: ready to be drawn, shown and checked."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from ..algebra import Compiled, EvaluationError, Value
from ..answers import Answer, Checker, DrawnAnswer, Verdict
from ..budget import Path, at
from ..draws import (
    DataColumn,
    Declaration,
    DrawError,
    Parameters,
    Shown,
    canonical_name,
    read_shown,
)
from ..figures import Figure
from ..notation import (
    AUTHOR_FUNCTIONS,
    USUAL,
    Call,
    Habits,
    Name,
    Node,
    NotationError,
    Settings,
    Sum,
    line,
    names_in,
    read,
    read_authored,
    walk,
    word_with,
)
from ..quantities import Measure, Unit, UnitMismatch, as_read, compared_units, is_unit, measure, read_unit
from ..text import QuestionText, read_text
from .characters import unprintable_in
from .computation import Computation
from .document import DataTable, Part, QuestionDocument, load_document
from .remedies import differences_below


@dataclass(frozen=True, slots=True)
class Problem:
    """Something that keeps a question from being used.

    ``path`` leads to the field in the document, such as ``("parameters", 2, "definition")``; ``code`` is a stable short
    name; ``place`` and ``length`` say which of the field's characters are meant, ``about`` which name, ``instead`` what
    could stand in their place.
    """

    path: Path
    code: str
    message: str
    place: int = 0
    length: int = 0
    about: str = ""
    instead: str = ""


def answer_problem(answer: Answer, path: Path, problem: NotationError | EvaluationError) -> Problem:
    """What keeps an answer from being used, at the field in which it stands."""
    name = problem.field or "key"
    message = f"This limit cannot be used: {problem.message}" if name == "limits" else problem.message
    if isinstance(problem, EvaluationError):
        return Problem((*path, name), problem.code, message, about=problem.about, instead=problem.instead)
    text = next((text for field_name, text in answer.lines() if field_name == name), "")
    place = min(problem.place, len(text))
    return Problem((*path, name), problem.code, message, place, problem.length, problem.about, problem.instead)


def with_factor(formula: str, comes: Unit, wanted: Unit) -> str:
    """A formula that comes out in one unit, so that it comes out in another; empty where no plain factor does that.

    >>> with_factor("m*g*h", read_unit("J"), read_unit("kJ"))
    'm*g*h/1000'
    """
    ratio = comes.factor / wanted.factor
    if comes.pi != wanted.pi or 1 not in (ratio.p, ratio.q):
        return ""
    sum_like = re.search(r"[^(\s*/^]\s*[-+−]|[=<>]", formula)
    plain = f"({formula})" if sum_like else formula
    return f"{plain}/{ratio.q}" if ratio.q != 1 else f"{ratio.p}*{plain}"


def columns_of(table: DataTable) -> tuple[DataColumn, ...]:
    """The columns of a data table; a cell is a number where it can be read as one, and a word otherwise."""
    cells = [[cell_value(cell) for cell in row] for row in table.rows]
    return tuple(
        DataColumn(column.name, column.unit, tuple(row[k] for row in cells)) for k, column in enumerate(table.columns)
    )


def cell_value(text: str) -> Value:
    for mark in ("point", "comma"):
        try:
            return Compiled(read(text.strip(), Settings(mark))).value({})
        except (NotationError, EvaluationError):
            continue
    return text.strip()


def compiled_again(document: str, habits: Habits) -> CompiledQuestion:
    return CompiledQuestion(load_document(json.loads(document)), habits)


class CompiledQuestion:
    """A document whose formulas have been read; ``problems`` is empty when it can be drawn.

    ``habits`` are those of the people who read it and answer it; the document itself is written with the point.
    """

    def __init__(self, document: QuestionDocument, habits: Habits = USUAL) -> None:
        self.document = document
        self.habits = habits
        # how it is printed for whoever reads it
        self.style = habits.style
        self.problems: list[Problem] = []
        rows = [
            Declaration(parameter.name, parameter.definition, read_shown(parameter.shown) or Shown())
            for parameter in document.parameters
        ]
        self.tables = {table.name: columns_of(table) for table in document.tables}
        plain = Settings(angle=document.angle, complex=document.complex)
        self.parameters = Parameters(rows, document.conditions, plain, self.tables)
        for error in self.parameters.errors:
            self.problems.append(self.draw_problem(error))
        # the name by which each part's answer can be used in later parts; empty where it has none
        self.given: list[str] = []
        self.settings = self.read_given(self.parameters.settings)
        self.units: dict[str, str] = {}
        self.shown: dict[str, Shown] = {}
        for name, parameter in zip(self.parameters.names, document.parameters):
            self.units[name] = parameter.unit
            self.shown[name] = read_shown(parameter.shown) or Shown()
            self.units.update(self.column_units(name))
        self.verdicts: dict[tuple[str, str], Verdict] = {}
        # which parameters maths spans show, and what they look like in print with their values; by the tree's identity,
        # which stays as long as the texts that hold them
        self.shown_in: dict[int, tuple[str, ...] | None] = {}
        self.computations: dict[Node, Computation] = {}
        self.printed: dict[tuple[object, ...], str] = {}
        self.pictures = {picture.name: picture for picture in document.pictures}
        # the field of each text, by its identity
        self.paths: dict[int, Path] = {}
        self.figures = self.read_figures()
        self.wording = self.read_text(document.wording, ("wording",))
        self.part_wordings = [
            self.read_text(part.wording, ("parts", k, "wording")) for k, part in enumerate(document.parts)
        ]
        self.solutions = [
            self.read_text(part.solution, ("parts", k, "solution")) for k, part in enumerate(document.parts)
        ]
        self.hints = [
            [self.read_text(hint.text, ("parts", k, "hints", j, "text")) for j, hint in enumerate(part.hints)]
            for k, part in enumerate(document.parts)
        ]
        # what each part offers: options, the left and right sides of pairs, items
        self.options = [
            [self.read_text(text, ("parts", k, "answer", "options", j)) for j, text in enumerate(part.answer.texts())]
            for k, part in enumerate(document.parts)
        ]
        # dollar signs in the texts that look as if they had meant maths, each with its field
        self.unclosed = [(path, found) for path, text in self.texts for found in text.doubts]
        # the names of earlier answers that each part uses
        self.uses: list[frozenset[str]] = []
        self.checkers = [self.make_checker(k, part.answer) for k, part in enumerate(document.parts)]
        # units that look wrong but keep nobody from using the question
        self.doubts: list[Problem] = []
        self.measures: dict[str, Measure] = {}
        if len(self.problems) == sum(error.code == "nothing_left" for error in self.parameters.errors):
            self.check_units()
        told = {problem.path for problem in self.problems}
        self.problems += [
            Problem(path, "unprintable", message, place, length, instead=instead)
            for path, place, length, message, instead in unprintable_in(document)
            if path not in told
        ]

    def __reduce__(self) -> tuple[Any, ...]:
        """As it travels to another process: as its document, which is compiled there anew."""
        return compiled_again, (self.document.model_dump_json(), self.habits)

    def draw_problem(self, error: DrawError) -> Problem:
        kind, row = error.row
        path: Path = ("parameters", row, error.field) if kind == "parameter" else ("conditions", row)
        return Problem(path, error.code, error.message, error.place, error.length, error.about, error.instead)

    def read_text(self, source: str, path: Path) -> QuestionText:
        at(*path)
        text = read_text(as_read(source, self.habits), self.settings)
        self.paths[id(text)] = path
        self.problems.extend(
            Problem(path, found.code, found.message, found.place, found.length, found.about, found.instead)
            for found in text.problems
        )
        there = {f"figure:{figure.name}" for figure in self.document.figures}
        there |= {f"image:{picture.name}" for picture in self.document.pictures}
        for address, _ in text.figures:
            if address not in there and not text.problems:
                what, _, name = address.partition(":")
                message = f"There is no {'picture' if what == 'image' else what} called {name or '…'}."
                self.problems.append(Problem(path, "no_picture", message, max(0, source.find(address)), len(address)))
        return text

    def read_figures(self) -> dict[str, Figure]:
        """The figures by their names."""
        known = frozenset(self.parameters.definitions) if not self.parameters.errors else self.settings.names
        figures: dict[str, Figure] = {}
        for k, source in enumerate(self.document.figures):
            at("figures", k, "lines")
            figure = Figure(source.lines, self.settings, known)
            for problem in figure.problems:
                where = f"Line {problem.line}: " if problem.line else ""
                self.problems.append(
                    Problem(("figures", k, "lines"), problem.code, where + problem.message, about=problem.about)
                )
            if source.name in figures:
                message = f"There are two figures called {source.name}."
                self.problems.append(Problem(("figures", k, "name"), "name_twice", message))
            for name in figure.pictures:
                if name not in self.pictures:
                    message = f"There is no picture called {name}."
                    self.problems.append(Problem(("figures", k, "lines"), "no_picture", message))
            if any(statement.word == "frame" for statement in figure.statements):
                # the lines that can be used are drawn while another is being mended
                figures[source.name] = figure
        return figures

    def read_given(self, settings: Settings) -> Settings:
        """The settings with the names that parts give to their answers."""
        for k, part in enumerate(self.document.parts):
            name = ""
            try:
                name = canonical_name(part.gives, settings) if part.gives else ""
                if name and not part.answer.gives:
                    raise DrawError("gives", "Only a number, a quantity or a formula can be used in later parts.")
                if name and (name in self.parameters.names or name in self.given):
                    raise DrawError("name_twice", f"{name} is taken already.")
            except DrawError as problem:
                found = Problem(("parts", k, "gives"), problem.code, problem.message, 0, len(part.gives))
                self.problems.append(found)
                name = ""
            self.given.append(name)
        return replace(settings, names=settings.names | {name for name in self.given if name})

    def make_checker(self, k: int, answer: Answer) -> Checker | None:
        """The checker of part ``k``; None, with the problems noted, where its answer cannot be used."""
        at("parts", k, "answer", "key")
        places, gaps = self.part_wordings[k].blanks, answer.gaps_in_text
        if gaps is not None and places != gaps:
            message = f"The text has {places} gap{'' if places == 1 else 's'} `___`, and below there are {gaps}."
            self.problems.append(Problem(("parts", k, "wording"), "gaps", message))
        found = [self.make_one(k, inner, ("parts", k, "answer", *path)) for path, inner in answer.inner()]
        self.uses.append(frozenset[str]().union(*(used for _, used in found)))
        checkers = [checker for checker, _ in found]
        if any(checker is None for checker in checkers):
            return None
        own = [inner is answer for _, inner in answer.inner()]
        return checkers[0] if own == [True] else answer.checker(self.settings)

    def make_one(self, k: int, answer: Answer, path: Path) -> tuple[Checker | None, frozenset[str]]:
        """The checker of an answer in part ``k``, and the names of earlier answers that it uses."""
        nothing = frozenset[str]()
        try:
            checker = answer.checker(self.settings)
        except (NotationError, EvaluationError) as problem:
            self.problems.append(answer_problem(answer, path, problem))
            return None, nothing
        self.check_figures(k, answer, path)
        lines = answer.lines()
        used = nothing.union(*(self.names_of(text) for _, text in lines))
        carried = used & set(self.given[:k])
        if self.parameters.errors:
            return checker, carried
        known = self.parameters.definitions.keys() | {name for name in self.given[:k] if name}
        unknown = used - known if answer.numeric else used & set(self.given[k:]) - {""}
        for field_name, text in lines:
            strange = sorted(unknown & self.names_of(text))
            if strange:
                self.problems.append(self.unknown_problem(strange[0], text, (*path, field_name)))
                return None, carried
        if not used & known and lines:
            # the same in every draw: what stands against it is said at the key, and not draw by draw
            try:
                checker.drawn({})
            except EvaluationError as problem:
                self.problems.append(Problem((*path, "key"), problem.code, problem.message))
                return None, carried
        return checker, carried

    def unknown_problem(self, name: str, text: str, path: Path) -> Problem:
        """A name in a line of an answer that nothing is known of there."""
        if name in self.given:
            place = max(0, text.find(name))
            return Problem(path, "later", f"{name} is not known yet in this part.", place, len(name))
        word, place = word_with(name, text, self.settings)
        message = f"{word} is not a parameter of this question."
        alike = [each for each in (*sorted(self.settings.names), "pi") if each.lower() == word.lower() != ""]
        if alike:
            return Problem(
                path, "unknown_name", f"{message} Did you mean {alike[0]}?", place, len(word), word, alike[0]
            )
        behind = text[place:].strip()
        before = text[:place].rstrip()
        apart = before != text[:place] and not before.endswith(tuple("+-*/^(,"))
        if before and apart and "*" not in behind and is_unit(behind):
            # 2*m kg: the unit stands in a cell of its own
            message = f"The unit {behind} has its own place beside the answer."
            return Problem(path, "unknown_name", message, 0, len(text), instead=before)
        return Problem(path, "unknown_name", message, place, len(word), about=word)

    def check_figures(self, k: int, answer: Answer, path: Path) -> None:
        """The figures in which a part is answered are there, and the student sees them."""
        shown = {address for text in (self.wording, self.part_wordings[k]) for address, _ in text.figures}
        for field_name, name in answer.figures:
            if name not in {figure.name for figure in self.document.figures}:
                message = f"There is no figure called {name}."
            elif f"figure:{name}" not in shown:
                message = f"Show the figure in the wording: `![what it shows](figure:{name})`."
            else:
                continue
            self.problems.append(Problem((*path, field_name), "no_figure", message))

    def column_units(self, name: str) -> dict[str, str]:
        """The units of the columns of a drawn row."""
        columns = self.parameters.columns_of(name)
        return {f"{name}.{column.name}": column.unit for column in columns if column.unit}

    def check_units(self) -> None:
        """Carry the units of the parameters through every formula, once for all draws."""
        parameters = self.document.parameters
        declared: dict[str, Unit] = {}
        for k, (name, parameter) in enumerate(zip(self.parameters.names, parameters)):
            try:
                if parameter.unit:
                    declared[name] = read_unit(parameter.unit)
                for column, unit in self.column_units(name).items():
                    declared[column] = read_unit(unit)
            except NotationError as problem:
                place = ("parameters", k, "unit")
                self.doubts.append(Problem(place, problem.code, problem.message, problem.place, problem.length))
        if not declared:
            return
        self.measures = {name: Measure(unit) for name, unit in declared.items()}
        for name in self.parameters.order:
            definition = self.parameters.computed[name]
            path: Path = ("parameters", self.parameters.row_of[name], "definition")
            # a number with a unit is a constant
            if definition.formula is not None and definition.names & self.measures.keys():
                found = self.measured(definition.formula, path)
                if name in declared:
                    written = parameters[self.parameters.row_of[name]]
                    self.compare_units(found, declared[name], written.unit, path, name, written.definition)
                elif found is not None:
                    self.measures[name] = found
        for row, condition, _ in self.parameters.conditions:
            try:
                compared_units(condition.tree, self.measures)
            except UnitMismatch as mismatch:
                self.problems.append(Problem(("conditions", row), "units", mismatch.message))
        for k, part in enumerate(self.document.parts):
            self.check_part_units(k, part)

    def check_part_units(self, k: int, part: Part) -> None:
        if not part.answer.numeric:
            return
        path: Path = ("parts", k, "answer", "key")
        unit: Unit | None = None
        written = part.answer.unit_beside(part.after)
        if written:
            # words after the answer space are no unit, and that is no fault
            with suppress(NotationError):
                unit = read_unit(written)
        key = part.answer.lines()[0][1]
        found = self.measured(read_authored(key, self.settings), path)
        if unit is not None:
            label = self.document.labels[k].full or "The answer"
            self.compare_units(found, unit, written, path, label, key)
        if self.given[k]:
            carried = Measure(unit) if unit is not None else found
            if carried is not None:
                self.measures[self.given[k]] = carried

    def measured(self, tree: Node, path: Path) -> Measure | None:
        try:
            return measure(tree, self.measures)
        except UnitMismatch as mismatch:
            self.problems.append(Problem(path, "units", mismatch.message))
            return None

    def compare_units(
        self, found: Measure | None, unit: Unit, written: str, path: Path, what: str, formula: str
    ) -> None:
        """Say when a formula does not come out in the unit that is written beside it."""
        if found is None or not found.sure:
            # a bare number such as 9.81, or a name without a unit, may stand for what is missing
            return
        if found.unit.dimension != unit.dimension:
            message = f"{what} comes out in {found.words()}, and not in {written}."
            self.problems.append(Problem(path, "units", message))
        elif (found.unit.factor, found.unit.pi) != (unit.factor, unit.pi) and not unit.offset:
            message = f"{what} comes out in another unit than {written}: a factor is missing."
            instead = with_factor(formula, found.unit, unit)
            self.doubts.append(Problem(path, "units", message, length=len(formula), instead=instead))

    def computation(self, tree: Node) -> Computation:
        """A formula of one of the texts, made ready once for all draws."""
        if tree not in self.computations:
            self.computations[tree] = Computation(tree, self.settings.angle)
        return self.computations[tree]

    @cached_property
    def worked_out(self) -> list[tuple[str, Node]]:
        """What stands to be worked out in the texts that are read before answering, each with its line maths."""
        nodes = [node for _, text in self.sheet_texts for node in text.to_be_worked_out]
        trees = [node.arguments[0] if node.function == "value" else node for node in nodes]
        return [(line(tree), tree) for tree in trees]

    def parameters_in(self, tree: Node) -> tuple[str, ...] | None:
        """The parameters whose values say what a maths span of one of the texts shows; None where something is worked
        out from them, since a draw may have kept what it came to."""
        if id(tree) not in self.shown_in:
            names = tuple(sorted(names_in(tree) & self.settings.names))
            worked_out = any(isinstance(node, Call) and node.function in AUTHOR_FUNCTIONS for node in walk(tree))
            self.shown_in[id(tree)] = None if names and worked_out else names
        return self.shown_in[id(tree)]

    @property
    def texts(self) -> Iterator[tuple[Path, QuestionText]]:
        """Every text of the question, with its field."""
        yield ("wording",), self.wording
        for k in range(len(self.document.parts)):
            yield ("parts", k, "wording"), self.part_wordings[k]
            yield ("parts", k, "solution"), self.solutions[k]
            yield from ((("parts", k, "hints", j, "text"), text) for j, text in enumerate(self.hints[k]))
            yield from ((("parts", k, "answer", "options", j), text) for j, text in enumerate(self.options[k]))

    @cached_property
    def answered_in(self) -> frozenset[str]:
        """The figures in which places are answers."""
        return frozenset(name for part in self.document.parts if (name := getattr(part.answer, "figure", "")))

    @cached_property
    def first_numbers(self) -> dict[int, int]:
        """The number of the first figure of each text that shows some, by the identity of the text: they are counted
        through the question, where it shows more than one. Solutions have none."""
        numbers, count = dict[int, int](), 0
        for text in (self.wording, *self.part_wordings):
            if text.figures:
                numbers[id(text)] = count + 1
                count += len(text.figures)
        return numbers if count > 1 else {}

    def number_of(self, text: QuestionText, place: int) -> int:
        """The number by which a figure of a text is called; 0 where it needs none."""
        first = self.first_numbers.get(id(text), 0)
        return first and first + place

    @cached_property
    def sheet_texts(self) -> list[tuple[str, QuestionText]]:
        """Every text that a student reads before answering, and what it is."""
        texts: list[tuple[str, QuestionText]] = [("the wording", self.wording)]
        for k, label in enumerate(self.document.labels):
            of = f" of {label.full}" if label.full else ""
            texts.append((f"the wording{of}", self.part_wordings[k]))
            texts += [(f"an option{of}", text) for text in self.options[k]]
            texts += [(f"a hint{of}", text) for text in self.hints[k]]
        return texts

    @cached_property
    def letters(self) -> list[str]:
        """The letters that stand alone in the wording and are no parameters, in their order."""
        found: dict[str, None] = {}
        for text in (self.wording, *self.part_wordings):
            for tree in text.trees.values():
                if isinstance(tree, Name) and tree.name not in self.settings.names:
                    found[tree.name] = None
        return list(found)

    @cached_property
    def divisors(self) -> list[tuple[str, Sum]]:
        """The sums by which parameters and keys divide, each with whose it is."""
        found: list[tuple[str, Sum]] = []
        for name, definition in self.parameters.computed.items():
            if definition.formula is not None:
                found += [(name, divisor) for divisor in differences_below(definition.formula)]
        for k, part in enumerate(self.document.parts):
            if part.answer.numeric and self.checkers[k] is not None:
                label = self.document.labels[k].full or "The answer"
                tree = read_authored(part.answer.lines()[0][1], self.settings)
                found += [(label, divisor) for divisor in differences_below(tree)]
        return found

    @cached_property
    def checkers_as_typed(self) -> list[Checker | None]:
        """The checkers of what is typed by people who write by the habits; ``checkers`` read as a document is read."""
        settings = self.habits.reading(self.settings)
        if settings == self.settings:
            return self.checkers
        pairs = zip(self.document.parts, self.checkers)
        return [None if checker is None else part.answer.checker(settings) for part, checker in pairs]

    def tried(self, answer: DrawnAnswer, which: str, response: str) -> Verdict:
        """The verdict for a response, worked out once for all draws with the same key; ``which`` names the key."""
        if (which, response) not in self.verdicts:
            self.verdicts[which, response] = answer.check(response)
        return self.verdicts[which, response]

    @cached_property
    def drawn_names(self) -> set[str]:
        """The names of parameters that the figures of the question show or are drawn from."""
        return {name for figure in self.figures.values() for name in figure.names}

    def names_of(self, text: str) -> frozenset[str]:
        """The names in a line of an answer; what only its own kind can read has none that matter here."""
        try:
            return names_in(read_authored(text, replace(self.settings, lists=True)))
        except NotationError:
            return frozenset()

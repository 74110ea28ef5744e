"""A question's parameters, compiled: which draws there are, and what draw n is."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import prod
from types import MappingProxyType

from ..algebra import (
    Compiled,
    Condition,
    EvaluationError,
    OutOfSteps,
    TooCostly,
    Value,
    allowed,
    size,
    spend,
    value_tree,
)
from ..budget import at
from ..notation import NotationError, Settings, line, names_in, read, read_authored, word_with
from .definitions import Computed, DataColumn, Definition, Source, Tables, columns_brought, read_definition
from .errors import DrawError
from .listings import LISTINGS, Listing
from .showing import Shown
from .stream import Stream, permuted, stream_key

# A group of parameters tied by conditions is listed when it has at most so many combinations.
LISTED = 20_000
# Beyond that, draws are tried one after the other; so many tries are made for one draw.
TRIES = 2_000
PILOT = 400
# Up to here different draws are counted; beyond, there are more than anybody will make.
COUNTED = 10**12
# Listed groups are drawn together by one permutation, up to so many combinations.
PERMUTED = 1 << 400
# An author's question whose conditions cannot be tried in so many steps, about a second, is refused; it never draws
# something else instead.
MAXIMUM_STEPS = 1_200_000
MAXIMUM_PARAMETERS = 60
# So many values of a definition are compared with one that is written.
SEARCHED = 2_000

NAME = re.compile(r"[A-Za-zΑ-Ωα-ω][A-Za-z0-9]*(?:_[A-Za-z0-9]+)?\Z")


@dataclass(frozen=True, slots=True)
class Declaration:
    """A parameter as the author wrote it."""

    name: str
    definition: str
    # how it is shown: what a distribution is rounded to
    shown: Shown = Shown()  # noqa: RUF009 (frozen)


@dataclass(frozen=True, slots=True)
class Draw:
    """One full set of values; the same for ever for that number.

    ``problems`` names the parameters that have no value in this draw, with the reason.
    """

    number: int
    values: dict[str, Value]
    problems: dict[str, str] = field(default_factory=dict)


@dataclass
class Group:
    """Drawn parameters that conditions tie together; alone when none does."""

    names: tuple[str, ...]
    sizes: tuple[int, ...]
    conditions: tuple[int, ...] = ()
    # the combinations that meet the conditions, by their mixed-radix number; None when all do,
    # or when there are too many to list
    admitted: list[int] | None = None

    @property
    def combinations(self) -> int:
        return prod(self.sizes)

    @property
    def listed(self) -> bool:
        return self.admitted is not None or (not self.conditions and self.combinations <= COUNTED)

    @property
    def count(self) -> int:
        return self.combinations if self.admitted is None else len(self.admitted)

    def positions(self, index: int) -> list[int]:
        """The position of each parameter in combination ``index``, the last name fastest."""
        if self.admitted is not None:
            index = self.admitted[index]
        found = []
        for count in reversed(self.sizes):
            index, position = divmod(index, count)
            found.append(position)
        return found[::-1]


def canonical_name(text: str, settings: Settings) -> str:
    """The one spelling of a name: ``v0`` becomes ``v_0``, ``mass1`` ``mass_1``, ``θ`` becomes ``theta``."""
    text = text.strip()
    if not text:
        raise DrawError("no_name", "This row needs a name, such as m.", field="name")
    if not NAME.match(text):
        raise DrawError("name", f"“{text}” is not a name: use a letter, such as a, v_0 or θ.", field="name")
    try:
        tree = read(text, settings)
    except NotationError as problem:
        raise DrawError("name", f"“{text}” cannot be a name: it already means something.", field="name") from problem
    named = names_in(tree)
    if len(named) == 1 and type(tree).__name__ == "Name":
        return next(iter(named))
    if type(tree).__name__ in {"Call", "Constant"} and text not in {"e", "i"}:
        raise DrawError("name", f"“{text}” cannot be a name: it already means something.", field="name")
    return re.sub(r"(?<=[A-Za-zΑ-Ωα-ω])(\d+)\Z", r"_\1", text)


class Parameters:
    """All parameters and conditions of a question, compiled once, drawn often.

    Every problem is collected in ``errors`` rather than raised, so that an author sees them all.
    """

    def __init__(
        self,
        rows: Sequence[Declaration],
        conditions: Sequence[str],
        settings: Settings = Settings(),  # noqa: B008
        tables: Tables = MappingProxyType({}),
    ) -> None:
        self.tables = tables
        # all that the draws follow from
        self.written = (tuple(rows), tuple(conditions), settings, repr(tables) if tables else "")
        self.errors: list[DrawError] = []
        # what is drawn, and what follows from it
        self.sources: dict[str, Source] = {}
        self.computed: dict[str, Computed] = {}
        self.row_of: dict[str, int] = {}
        self.settings = self.read_names(rows, settings)
        self.read_rows(rows)
        self.order = self.dependency_order()
        self.compiled: dict[str, Compiled] = {}
        self.formula_sizes: dict[str, int] = {}
        self.compile_formulas()
        self.condition_sizes: list[int] = []
        self.conditions: list[tuple[int, Condition, frozenset[str]]] = []
        self.read_conditions(conditions)
        self.groups: list[Group] = []
        # how often each condition (by its row) was the first to fail
        self.rejections: dict[int, int] = {}
        # parameters whose symbolic work takes too many steps
        self.costly: set[str] = set()
        if not self.errors:
            self.group()

    # reading

    def read_names(self, rows: Sequence[Declaration], settings: Settings) -> Settings:
        names: list[str] = []
        for k, row in enumerate(rows[:MAXIMUM_PARAMETERS]):
            try:
                names.append(canonical_name(row.name, settings))
            except DrawError as problem:
                problem.row = ("parameter", k)
                self.errors.append(problem)
                names.append("")
                continue
            if names[-1] in names[:-1]:
                self.errors.append(
                    DrawError("name_twice", f"{row.name.strip()} is defined twice.", ("parameter", k), "name")
                )
        if len(rows) > MAXIMUM_PARAMETERS:
            message = f"A question has at most {MAXIMUM_PARAMETERS} parameters."
            self.errors.append(DrawError("too_many", message, ("parameter", MAXIMUM_PARAMETERS)))
        self.names = names
        declared = settings.names | {name for name in names if name}
        for name, row in zip(names, rows):
            columns = columns_brought(row.definition, self.tables) if name else ()
            declared |= {f"{name}.{column.name}" for column in columns}
        return Settings(settings.decimal_mark, settings.angle, settings.complex, frozenset(declared))

    @property
    def definitions(self) -> Mapping[str, Definition]:
        """Everything that is defined, by its name."""
        return {**self.sources, **self.computed}

    def columns_of(self, name: str) -> tuple[DataColumn, ...]:
        """The columns of the table that a parameter draws a row of; none for other parameters."""
        return self.sources[name].columns if name in self.sources else ()

    def read_rows(self, rows: Sequence[Declaration]) -> None:
        for k, (name, row) in enumerate(zip(self.names, rows)):
            if not name:
                continue
            self.row_of[name] = k
            if not row.definition.strip():
                message = f"{name} needs a definition, such as `2..9`."
                self.errors.append(DrawError("empty", message, ("parameter", k)))
                continue
            try:
                self.define(name, k, read_definition(row.definition, self.settings, row.shown, self.tables))
            except DrawError as problem:
                problem.row = ("parameter", k)
                self.errors.append(problem)
            except NotationError as problem:
                self.errors.append(
                    DrawError(
                        problem.code,
                        problem.message,
                        ("parameter", k),
                        "definition",
                        problem.place,
                        problem.length,
                        problem.about,
                        problem.instead,
                    )
                )

    def define(self, name: str, row: int, definition: Definition) -> None:
        self.row_of[name] = row
        if isinstance(definition, Computed):
            self.computed[name] = definition
        elif isinstance(definition, Source):
            self.sources[name] = definition
            for member, computed in definition.members(name).items():
                self.define(member, row, computed)

    def dependency_order(self) -> list[str]:
        """The computed parameters so that each comes after what it needs; a circle is an error."""
        order: list[str] = []
        state: dict[str, int] = {}

        def visit(name: str, path: list[str]) -> None:
            if name not in self.computed or state.get(name) == 2:
                return
            if state.get(name) == 1:
                circle = [*path[path.index(name) :], name]
                message = f"This goes round in a circle: {' needs '.join(circle)}."
                self.errors.append(DrawError("circle", message, ("parameter", self.row_of[name])))
                state[name] = 2
                return
            state[name] = 1
            for needed in sorted(self.computed[name].names & self.computed.keys()):
                visit(needed, [*path, name])
            if state[name] != 2:
                order.append(name)
            state[name] = 2

        for name in self.computed:
            visit(name, [])
        return order

    def compile_formulas(self) -> None:
        """Numbers are compiled; what speaks of undeclared letters stays a formula."""
        numeric = {name for name, source in self.sources.items() if source.is_numeric}
        for name in self.order:
            if not self.computed[name].is_numeric_where(numeric):
                continue
            try:
                made = self.computed[name].compiled(self.settings.angle)
            except EvaluationError as problem:
                self.errors.append(DrawError(problem.code, problem.message, ("parameter", self.row_of[name])))
                continue
            if made is not None:
                self.compiled[name], self.formula_sizes[name] = made
            numeric.add(name)

    def read_conditions(self, conditions: Sequence[str]) -> None:
        for k, text in enumerate(conditions):
            row = ("condition", k)
            try:
                tree = read_authored(text, self.settings)
                condition = Condition(tree, self.settings.angle)
            except NotationError as problem:
                self.errors.append(
                    DrawError(
                        problem.code,
                        problem.message,
                        row,
                        "definition",
                        problem.place,
                        problem.length,
                        problem.about,
                        problem.instead,
                    )
                )
                continue
            except EvaluationError as problem:
                self.errors.append(DrawError(problem.code, problem.message, row, "definition", 0, len(text)))
                continue
            names = names_in(tree)
            unknown = sorted(names - self.definitions.keys())
            if set(unknown) & set(self.names):
                # the row that defines it is named already
                continue
            if unknown:
                word, place = word_with(unknown[0], text, self.settings)
                message = f"{word} is not a parameter of this question."
                self.errors.append(DrawError("unknown_name", message, row, "definition", place, len(word), word))
                continue
            self.conditions.append((k, condition, names))
            self.condition_sizes.append(size(tree))

    # grouping and listing

    def drawn(self, name: str) -> frozenset[str]:
        """The drawn parameters that a name depends on."""
        if name in self.computed:
            return frozenset[str]().union(*(self.drawn(needed) for needed in self.computed[name].names))
        return frozenset([name]) if name in self.sources else frozenset()

    def group(self) -> None:
        leader = {name: name for name in self.sources}

        def find(name: str) -> str:
            while leader[name] != name:
                name = leader[name]
            return name

        roots_of: list[frozenset[str]] = []
        for _, _, names in self.conditions:
            roots = frozenset[str]().union(*(self.drawn(name) for name in names))
            roots_of.append(roots)
            first, *rest = sorted(roots) or [""]
            for other in rest:
                leader[find(other)] = find(first)
        members: dict[str, list[str]] = {}
        for name in self.sources:
            members.setdefault(find(name), []).append(name)
        for head, tied_names in members.items():
            tied = tuple(k for k, roots in enumerate(roots_of) if roots and find(next(iter(roots))) == head)
            sizes = tuple(self.sources[name].size for name in tied_names)
            self.groups.append(Group(tuple(tied_names), sizes, tied))
        for group in self.groups:
            if group.conditions:
                self.list_group(group)
        for k, roots in enumerate(roots_of):
            if not roots and not self.holds((k,), {}):
                self.reject(k, 1.0)

    def needed(self, conditions: tuple[int, ...]) -> list[str]:
        """The computed parameters that some conditions speak of, in order."""
        wanted = set[str]()
        waiting = [name for k in conditions for name in self.conditions[k][2]]
        while waiting:
            name = waiting.pop()
            if name in self.computed and name not in wanted:
                wanted.add(name)
                waiting.extend(self.computed[name].names & self.computed.keys())
        return [name for name in self.order if name in wanted]

    def list_group(self, group: Group) -> None:
        computed = self.needed(group.conditions)
        if group.combinations > LISTED:
            self.pilot(group, computed)
            return
        key = (self.written, group.names)
        known = LISTINGS.get(key)
        if known is None:
            sources = [self.sources[name] for name in group.names]
            values = [[source.value(k) for k in range(source.size)] for source in sources]
            try:
                with allowed(MAXIMUM_STEPS):
                    admitted = self.admitted(group, values, computed)
            except OutOfSteps:
                self.errors.append(self.too_costly(group))
                return
            known = Listing(admitted, self.rejected_by(group))
            LISTINGS.keep(key, known, known.weight)
        group.admitted = known.admitted
        self.rejections |= known.rejections
        self.check_share(group, len(group.admitted), group.combinations)

    def admitted(self, group: Group, values: list[list[Value]], computed: list[str]) -> list[int]:
        """The places of the combinations that the conditions keep, in the order of their product.

        A condition is tried as soon as all that it speaks of is chosen, so that whole branches fall away.
        Raises ``OutOfSteps``.
        """
        chosen = [frozenset(group.names[: depth + 1]) for depth in range(len(group.names))]

        def due(roots: frozenset[str]) -> int:
            return next(depth for depth, names in enumerate(chosen) if roots & frozenset(group.names) <= names)

        work: list[tuple[list[str], list[int]]] = [([], []) for _ in group.names]
        for name in computed:
            work[due(self.drawn(name))][0].append(name)
        for k in group.conditions:
            roots = frozenset[str]().union(*(self.drawn(name) for name in self.conditions[k][2]))
            work[due(roots)][1].append(k)
        strides = [prod(len(each) for each in values[depth + 1 :]) for depth in range(len(values))]
        kept: list[int] = []
        drawn: dict[str, Value] = {}

        def descend(depth: int, place: int) -> None:
            name, (formulas, conditions), stride = group.names[depth], work[depth], strides[depth]
            for k, value in enumerate(values[depth]):
                spend(1)
                drawn[name] = value
                try:
                    for formula in formulas:
                        drawn[formula] = self.compute(formula, drawn)
                except EvaluationError:
                    continue
                if self.holds(conditions, drawn, stride):
                    if stride == 1 and depth == len(values) - 1:
                        kept.append(place + k)
                    else:
                        descend(depth + 1, place + k * stride)

        descend(0, 0)
        return kept

    def admits(self, group: Group, computed: list[str], drawn: dict[str, Value]) -> bool:
        try:
            for name in computed:
                drawn[name] = self.compute(name, drawn)
        except EvaluationError:
            return False
        return self.holds(group.conditions, drawn)

    def holds(self, conditions: Sequence[int], values: Mapping[str, Value], weight: int = 1) -> bool:
        """Whether all conditions hold; one that does not is noted, for as many combinations as ``weight`` says."""
        for k in conditions:
            at("conditions", self.conditions[k][0])
            spend(self.condition_sizes[k])
            try:
                fulfilled = self.conditions[k][1].holds(values)
            except EvaluationError:
                fulfilled = False
            if not fulfilled:
                self.rejections[k] = self.rejections.get(k, 0) + weight
                return False
        return True

    def pilot(self, group: Group, computed: list[str]) -> None:
        """Too many combinations to list: try some, to learn how many the conditions keep."""
        key = (self.written, group.names)
        known = LISTINGS.get(key)
        if known is None:
            kept, stream, names = 0, stream_key("pilot", 0), ",".join(group.names)
            try:
                with allowed(MAXIMUM_STEPS):
                    for number in range(PILOT):
                        kept += self.admits(group, computed, self.tried(group, Stream(stream, number, names)))
            except OutOfSteps:
                self.errors.append(self.too_costly(group))
                return
            known = Listing([], self.rejected_by(group), kept)
            LISTINGS.keep(key, known, known.weight)
        self.rejections |= known.rejections
        self.check_share(group, known.kept, PILOT)

    def rejected_by(self, group: Group) -> dict[int, int]:
        """How often each condition of a group was the first to fail."""
        return {k: self.rejections.get(k, 0) for k in group.conditions}

    def tried(self, group: Group, stream: Stream) -> dict[str, Value]:
        """One combination of a group, from a stream."""
        return {name: self.sources[name].value(stream.below(count)) for name, count in zip(group.names, group.sizes)}

    def too_costly(self, group: Group) -> DrawError:
        costliest = max(group.conditions, key=lambda k: self.condition_sizes[k])
        what = "values" if len(group.names) == 1 else "combinations"
        message = (
            f"Trying this condition takes too many steps: there are {group.combinations} {what} of "
            f"{', '.join(group.names)}. Make it simpler, or draw from fewer values."
        )
        return DrawError("too_costly", message, ("condition", self.conditions[costliest][0]))

    def check_share(self, group: Group, kept: int, tried: int) -> None:
        if kept == 0:
            worst = max(group.conditions, key=lambda k: self.rejections.get(k, 0))
            self.reject(worst, self.rejections.get(worst, 0) / tried)

    def reject(self, condition: int, share: float) -> None:
        row = self.conditions[condition][0]
        for name in self.needed((condition,)):
            letters = self.computed[name].letters(self.definitions.keys())
            if letters:
                # a letter without a value, where a number is compared
                message = f"{letters[0]} is not a parameter of this question. Condition {row + 1} needs its value."
                row_of_name = ("parameter", self.row_of[name])
                self.errors.append(DrawError("nothing_left", message, row_of_name, about=letters[0]))
                return
        message = f"No draw meets the conditions; this one alone rejects {share:.0%} of what is tried."
        self.errors.append(DrawError("nothing_left", message, ("condition", row)))

    # drawing

    @property
    def count(self) -> int | None:
        """How many different draws there are; None when they are too many to list."""
        if not all(group.listed for group in self.groups):
            return None
        total = prod(group.count for group in self.groups)
        return total if total <= COUNTED else None

    @property
    def share_kept(self) -> float | None:
        """The share of combinations that the conditions keep, where it was listed."""
        tied = [group for group in self.groups if group.conditions and group.admitted is not None]
        if not tied:
            return None
        return min(group.count / group.combinations for group in tied)

    def draw(self, question: str, revision: int, number: int) -> Draw:
        """Draw ``number`` (from 1) of a question's revision.

        Raises ``DrawError`` when no admissible values were found within bounds.
        """
        return Drawing(self, question, revision).draw(number)

    def drawn_values(self, values: Mapping[str, Value]) -> dict[str, str]:
        """What of a draw was drawn and not computed, as line maths: enough to make the draw again."""
        return {name: line(value_tree(values[name])) for name in self.sources if name in values}

    def with_values(self, given: Mapping[str, str], number: int) -> tuple[Draw, list[str]]:
        """The draw with these drawn values (line maths), and why the question would not draw it any more.

        A parameter that is not given has the first of its values.
        """
        values: dict[str, Value] = {}
        objections: list[str] = []
        for name, source in self.sources.items():
            values[name], still = value_written(source, given.get(name))
            if not still:
                objections.append(f"{name} = {given[name]} is not drawn any more")
        problems: dict[str, str] = {}
        for name in self.order:
            try:
                values[name] = self.compute(name, values)
            except EvaluationError as problem:
                problems[name] = problem.message
                objections.append(f"{name} has no value")
        for row, condition, _ in self.conditions:
            try:
                fulfilled = condition.holds(values)
            except EvaluationError:
                fulfilled = False
            if not fulfilled:
                objections.append(f"condition {row + 1} is not met")
        return Draw(number, values, problems), objections

    def compute(self, name: str, values: Mapping[str, Value]) -> Value:
        at("parameters", self.row_of[name], "definition")
        compiled = self.compiled.get(name)
        if compiled is not None:
            spend(self.formula_sizes[name])
            return compiled.value(values)
        if name in self.costly:
            raise TooCostly
        try:
            return self.computed[name].value(values, self.settings.angle)
        except TooCostly:
            # one draw that takes so much is enough: the author is told, the others are not waited for
            self.costly.add(name)
            raise


def value_written(source: Source, text: str | None) -> tuple[Value, bool]:
    """The value of a source that is written so, and whether it is one of those that can be drawn."""
    if text is None:
        return source.value(0), True
    searched = min(source.size, SEARCHED)
    for k in range(searched):
        value = source.value(k)
        if line(value_tree(value)) == text:
            return value, True
    try:
        return Compiled(read(text)).value({}), source.size > SEARCHED
    except (NotationError, EvaluationError):
        return source.value(0), False


class Drawing:
    """Draws of one revision, one after the other."""

    def __init__(self, parameters: Parameters, question: str, revision: int) -> None:
        self.parameters = parameters
        self.key = stream_key(question, revision)
        self.listed: list[Group] = []
        self.others: list[Group] = []
        self.total = 1
        for group in parameters.groups:
            if group.listed and self.total * group.count <= PERMUTED:
                self.listed.append(group)
                self.total *= group.count
            else:
                self.others.append(group)

    def draw(self, number: int) -> Draw:
        parameters = self.parameters
        values: dict[str, Value] = {}
        epoch, position = divmod(number - 1, self.total)
        place = permuted(self.key, epoch, position, self.total)
        for group in self.listed:
            place, index = divmod(place, group.count)
            for name, k in zip(group.names, group.positions(index)):
                values[name] = parameters.sources[name].value(k)
        for group in self.others:
            self.try_group(group, number, values)
        problems: dict[str, str] = {}
        for name in parameters.order:
            try:
                values[name] = parameters.compute(name, values)
            except EvaluationError as problem:
                problems[name] = problem.message
        return Draw(number, values, problems)

    def try_group(self, group: Group, number: int, values: dict[str, Value]) -> None:
        parameters = self.parameters
        computed = parameters.needed(group.conditions)
        stream = Stream(self.key, number, ",".join(group.names))
        try:
            with allowed(MAXIMUM_STEPS):
                for _ in range(TRIES):
                    drawn = parameters.tried(group, stream)
                    if parameters.admits(group, computed, drawn):
                        values.update({name: drawn[name] for name in group.names})
                        return
        except OutOfSteps:
            raise parameters.too_costly(group) from None
        row = parameters.conditions[group.conditions[0]][0]
        message = f"The conditions reject nearly everything: no draw was found in {TRIES} tries."
        raise DrawError("nothing_left", message, ("condition", row))

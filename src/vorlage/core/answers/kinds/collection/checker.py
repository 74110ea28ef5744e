"""Answers of several values: sets in any order; lists, points, vectors and matrices place by place."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import count
from typing import TYPE_CHECKING

from flint import fmpq

from ....algebra import (
    Certainty,
    Compiled,
    EvaluationError,
    Values,
    complex_value,
    equal_as_complex,
    equivalent,
    to_fraction,
    with_sign,
    with_values,
)
from ....budget import charge
from ....notation import (
    Collection,
    Logic,
    Matrix,
    Name,
    Neg,
    Node,
    NotationError,
    Number,
    PlusMinus,
    Product,
    Quotient,
    Relation,
    Settings,
    Sum,
    authored,
    line,
    literal,
    names_in,
    read,
    walk,
)
from ...answer import DrawnAnswer
from ...checking import checked
from ...printed import folded
from ...tolerance import CompiledTolerance, DrawnTolerance
from ...typed import answerable, plain_collection, with_letters
from ...verdict import NOTHING, PARTLY, RIGHT, WRONG, Verdict, of_share, unread
from ..number import near

if TYPE_CHECKING:
    from .document import CollectionAnswer

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")
UNIT_VECTORS = ("i", "j", "k")
ZERO, ONE = Number(Fraction(0)), Number(Fraction(1))
# So many values of a set may be given beyond twice as many as are asked for.
MAXIMUM_TOO_MANY = 20
# The values of so many numbers are remembered.
REMEMBERED = 2_000
# What looking one of them up and comparing it takes, in steps.
STEPS_OF_LOOKING = 4
SHAPES = {
    "set": "values such as {2, -5}",
    "list": "a list such as 1, 4, 9",
    "point": "a point such as (3, 4)",
    "vector": "a vector such as vec(3, 4)",
    "matrix": "a matrix such as matrix(1, 2; 3, 4)",
}


def read_values(text: str, kind: str, settings: Settings) -> tuple[tuple[Node, ...], tuple[int, int]]:
    """The values and the shape (rows, columns) of what was typed."""
    return checked_values(read_collection(text, kind, settings), kind, settings)


def read_collection(text: str, kind: str, settings: Settings, size: int = 2) -> Node:
    """What was typed as a tree; ``3i + 4j`` is the vector (3, 4) unless the question is about complex numbers.

    ``size`` is how many components a vector has when k does not stand in it.
    """
    tree = read(plain_collection(text, kind), replace(settings, lists=True))
    if kind == "vector" and not settings.complex and not settings.names & set(UNIT_VECTORS):
        tree = by_components(tree, size) or tree
    return tree


def numbered(key: Node) -> str:
    """Several values of the shape of a key, which say nothing of it: 1, 2, 3 in the place of its values."""
    counted = count(1)

    def replaced(tree: Node) -> Node:
        if isinstance(tree, Collection):
            return Collection(tree.kind, tuple(map(replaced, tree.items)))
        if isinstance(tree, Matrix):
            return Matrix(tuple(tuple(map(replaced, row)) for row in tree.rows))
        return Number(Fraction(next(counted)))

    return line(replaced(key))


def checked_values(tree: Node, kind: str, settings: Settings) -> tuple[tuple[Node, ...], tuple[int, int]]:
    values, shape = values_of(tree, kind)
    for value in values:
        if isinstance(value, Relation | Logic | Matrix) or (isinstance(value, Collection) and not is_point(value)):
            raise NotationError("no_values", f"This answer is asked for as {SHAPES[kind]}.")
        if isinstance(value, Collection) and kind not in {"set", "list"}:
            raise NotationError("no_values", f"This answer is asked for as {SHAPES[kind]}.")
    return values, shape


def is_point(tree: Node) -> bool:
    return isinstance(tree, Collection) and tree.kind in {"point", "vector"}


def by_components(tree: Node, size: int) -> Node | None:
    """A sum of multiples of the unit vectors i, j and k as a vector; None when it is no such sum."""
    names = names_in(tree)
    if isinstance(tree, Relation | Collection | Matrix | Logic) or not names & set(UNIT_VECTORS):
        return None
    found = multiples(tree)
    if found is None:
        return None
    parts = tuple(worked_out(found.get(unit, ZERO)) for unit in UNIT_VECTORS)
    return Collection("vector", parts if "k" in names or size == 3 else parts[:2])


def multiples(tree: Node) -> dict[str, Node] | None:
    """What each unit vector is multiplied by in a formula that is linear in them; None for any other."""
    if isinstance(tree, Name) and tree.name in UNIT_VECTORS:
        return {tree.name: ONE}
    if isinstance(tree, Neg):
        inner = multiples(tree.operand)
        return inner and {name: Neg(part) for name, part in inner.items()}
    if isinstance(tree, Sum):
        found: dict[str, Node] = {}
        for term in tree.terms:
            inner = multiples(term)
            if inner is None:
                return None
            for name, part in inner.items():
                found[name] = Sum((found[name], part)) if name in found else part
        return found
    if isinstance(tree, Product):
        vectors = [factor for factor in tree.factors if names_in(factor) & set(UNIT_VECTORS)]
        inner = multiples(vectors[0]) if len(vectors) == 1 else None
        rest = tuple(factor for factor in tree.factors if factor is not vectors[0]) if inner else ()
        return inner and {name: Product((*rest, part), ("*",) * len(rest)) for name, part in inner.items()}
    if isinstance(tree, Quotient) and not names_in(tree.denominator) & set(UNIT_VECTORS):
        inner = multiples(tree.numerator)
        return inner and {name: Quotient(part, tree.denominator) for name, part in inner.items()}
    return None


def worked_out(tree: Node) -> Node:
    """A number as a figure where it is a fraction."""
    if isinstance(tree, Number):
        return tree
    try:
        value = Compiled(tree).value({})
    except EvaluationError:
        return tree
    return literal(to_fraction(value)) if isinstance(value, fmpq) else tree


def values_of(tree: Node, kind: str) -> tuple[tuple[Node, ...], tuple[int, int]]:
    if isinstance(tree, Matrix):
        if kind == "matrix":
            return tuple(cell for row in tree.rows for cell in row), (len(tree.rows), len(tree.rows[0]))
        if kind == "vector" and (len(tree.rows) == 1 or len(tree.rows[0]) == 1):
            cells = tuple(cell for row in tree.rows for cell in row)
            return cells, (1, len(cells))
    if kind == "set":
        values = set_values(tree)
        return values, (1, len(values))
    if isinstance(tree, Relation) and tree.signs == ("=",) and isinstance(tree.terms[0], Name):
        tree = tree.terms[1]
    if kind == "point":
        tree = without_coordinates(tree)
    if isinstance(tree, Collection) and kind != "matrix" and allowed(tree.kind, kind):
        return tree.items, (1, len(tree.items))
    if kind == "list" and not isinstance(tree, Collection):
        return (tree,), (1, 1)
    raise NotationError("no_values", f"This answer is asked for as {SHAPES[kind]}.")


def without_coordinates(tree: Node) -> Node:
    """``x = 3, y = 4`` is the point (3, 4), in the order of the letters."""
    terms = tree.items if isinstance(tree, Collection) else tree.terms if isinstance(tree, Logic) else ()
    found: dict[str, Node] = {}
    for term in terms:
        if not isinstance(term, Relation) or term.signs != ("=",) or not isinstance(term.terms[0], Name):
            return tree
        found[term.terms[0].name] = term.terms[1]
    if len(found) < 2 or len(found) != len(terms) or (isinstance(tree, Logic) and tree.word != "and"):
        return tree
    return Collection("point", tuple(found[name] for name in sorted(found)))


def allowed(typed: str, kind: str) -> bool:
    """A point may be typed as a vector and the reverse; lists without brackets too."""
    return typed == kind or (kind in {"point", "vector", "list"} and typed in {"point", "vector", "list"})


def set_values(tree: Node) -> tuple[Node, ...]:
    """``{2, -5}``, ``2, -5``, ``x = 2 or x = -5`` and ``x = ±2`` list their values; ``x = 1 and y = 2`` is a point."""
    point = without_coordinates(tree)
    if point is not tree and not are_numbered(tree):
        return (point,)
    if isinstance(tree, Logic) and (tree.word == "or" or of_one_letter(tree.terms)):
        return tuple(value for term in tree.terms for value in set_values(term))
    if isinstance(tree, Relation):
        if tree.signs in {("=",), ("in",)} and isinstance(tree.terms[0], Name):
            return set_values(tree.terms[1])
        raise NotationError("no_values", f"This answer is asked for as {SHAPES['set']}.")
    if isinstance(tree, Collection) and tree.kind in {"set", "list"}:
        return tuple(value for item in tree.items for value in set_values(item))
    if any(isinstance(node, PlusMinus) for node in walk(tree)):
        return (with_sign(tree, True), with_sign(tree, False))
    return (tree,)


def are_numbered(tree: Node) -> bool:
    """Whether ``x_1 = 2, x_2 = -5`` numbers the values of one letter."""
    stems = {name.partition("_")[0] for name in names_in(tree)}
    return len(stems) == 1


def of_one_letter(terms: tuple[Node, ...]) -> bool:
    """Whether terms joined by "and" list values: ``2 and -5``, or ``x = 2 and x = -5`` as a pupil says it."""
    letters = {name.partition("_")[0] for term in terms if isinstance(term, Relation) for name in names_in(term)}
    return len(letters) <= 1 and all(not isinstance(term, Relation) or term.signs == ("=",) for term in terms)


class CollectionChecker:
    """An answer of several values, read once."""

    def __init__(self, answer: CollectionAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        in_document = authored(settings)
        self.key = read_collection(answer.key, answer.kind, in_document)
        self.values, self.shape = checked_values(self.key, answer.kind, in_document)
        self.tolerance = CompiledTolerance(answer.tolerance, settings)
        self.slips = [read_values(slip.key, answer.kind, in_document) for slip in answer.slips]

    def drawn(self, values: Values) -> DrawnCollection:
        """The answer for one draw."""
        return DrawnCollection(
            self,
            with_values(self.key, values),
            tuple(with_values(value, values) for value in self.values),
            tuple(tuple(with_values(value, values) for value in slip) for slip, _ in self.slips),
            self.tolerance.drawn(values),
        )


@dataclass(frozen=True, slots=True)
class DrawnCollection(DrawnAnswer):
    """An answer of several values for one draw."""

    checker: CollectionChecker
    key: Node
    values: tuple[Node, ...]
    slips: tuple[tuple[Node, ...], ...]
    tolerance: DrawnTolerance
    # the values of nodes that are rational numbers, by their identity
    numbers: dict[int, tuple[Node, fmpq | None]] = field(default_factory=dict, compare=False, repr=False)

    def key_tree(self) -> Node:
        """The key as it is printed."""
        return folded(self.key)

    def closeness(self) -> str:
        """How close each value has to be, in words."""
        return f"each value {self.tolerance.words}"

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        answer, settings = self.checker.answer, self.checker.settings
        try:
            settings = with_letters(settings, self.key)
            tree = answerable(read_collection(response, answer.kind, settings, len(self.values)))
            values, shape = checked_values(tree, answer.kind, settings)
            if answer.kind == "set" and len(values) > MAXIMUM_TOO_MANY + 2 * len(self.values):
                raise NotationError("too_many", "These are more values than can be meant here.")
            of_points = any(is_point(value) for value in self.values)
            if values and self.values and any(is_point(value) for value in values) != of_points:
                wanted = "points such as {(1, 2), (3, 4)}" if of_points else SHAPES[answer.kind]
                raise NotationError("no_values", f"This answer is asked for as {wanted}.")
        except NotationError as problem:
            return unread(problem)
        reading = line(tree)
        try:
            verdict = self.as_set(values) if answer.kind == "set" else self.by_place(values, shape)
        except EvaluationError as problem:
            return unread(problem, "it has no value", reading=reading, tree=tree)
        if verdict.outcome != RIGHT:
            for slip, expected in sorted(zip(answer.slips, self.slips), key=lambda pair: -pair[0].share):
                if slip.share >= verdict.share and self.equals(values, expected):
                    told = (slip.feedback,) if slip.feedback else ()
                    verdict = Verdict(of_share(slip.share), slip.share, "", told, f"slip {slip.key}", PROVED, "slip")
                    break
        return replace(verdict, reading=reading, tree=tree)

    def equals(self, values: tuple[Node, ...], expected: tuple[Node, ...]) -> bool:
        if self.checker.answer.kind == "set":
            return len(values) == len(expected) and all(self.among(value, expected) for value in values)
        return len(values) == len(expected) and all(self.same(a, b) for a, b in zip(expected, values))

    def among(self, value: Node, expected: tuple[Node, ...]) -> bool:
        return any(self.same(candidate, value) for candidate in expected)

    def same(self, key: Node, value: Node) -> bool:
        """By the tolerance when both are numbers, by equivalence otherwise."""
        angle = self.checker.settings.angle
        one, other = self.exact(value), self.exact(key)
        if one is not None and other is not None:
            return self.tolerance.admits(one, other)
        if isinstance(key, Collection) or isinstance(value, Collection):
            if not isinstance(key, Collection) or not isinstance(value, Collection):
                return False
            return len(key.items) == len(value.items) and all(map(self.same, key.items, value.items))
        if names_in(key) or names_in(value):
            return equivalent(key, value, (), angle).holds
        if self.checker.settings.complex:
            close = near(complex_value(value, {}), complex_value(key, {}), self.tolerance)
            return close and (self.tolerance.mode != "exact" or equal_as_complex(key, value).holds)
        return self.tolerance.admits(Compiled(value, angle).value({}), Compiled(key, angle).value({}))

    def exact(self, node: Node) -> fmpq | None:
        """The value of a node that is a rational number, worked out once; None for all others."""
        charge(STEPS_OF_LOOKING)
        known = self.numbers.get(id(node))
        if known is not None:
            return known[1]
        found = None
        if not (self.checker.settings.complex or isinstance(node, Collection) or names_in(node)):
            # what has no value is told where it is compared
            with suppress(EvaluationError):
                value = Compiled(node, self.checker.settings.angle).value({})
                found = value if isinstance(value, fmpq) else None
        if len(self.numbers) > REMEMBERED:
            self.numbers.clear()
        # the node is kept with its value, so that its identity stays its own
        self.numbers[id(node)] = node, found
        return found

    def distinct(self, values: tuple[Node, ...]) -> list[Node]:
        """A set counts each of its values once."""
        found: list[Node] = []
        # of numbers, what they are tells whether they are there; all others are compared one by one
        numbers, others = set[fmpq](), list[Node]()
        for value in values:
            number = self.exact(value)
            if number is not None and (number in numbers or any(self.identical(known, value) for known in others)):
                continue
            if number is None and any(self.identical(known, value) for known in found):
                continue
            found.append(value)
            if number is None:
                others.append(value)
            else:
                numbers.add(number)
        return found

    def identical(self, left: Node, right: Node) -> bool:
        one, other = (self.exact(node) for node in (left, right))
        if one is not None and other is not None:
            return bool(one == other)
        if isinstance(left, Collection) or isinstance(right, Collection):
            return self.same(left, right)
        return left == right or equivalent(left, right, (), self.checker.settings.angle).holds

    def as_set(self, values: tuple[Node, ...]) -> Verdict:
        """Each value found earns its share; each one too many costs."""
        wanted, given = self.distinct(self.values), self.distinct(values)
        pairs = match(wanted, given, self.same)
        found, extra = len(pairs), len(given) - len(pairs)
        total = max(1, len(wanted))
        if found == len(wanted) and not extra:
            return Verdict(RIGHT, Fraction(1), "", (), self.closeness(), PROVED)
        # what stands in the place of a missing value has cost that value already
        cost = self.checker.answer.cost
        lost = extra * cost if cost is not None else Fraction(max(0, len(given) - len(wanted)), total)
        share = max(Fraction(0), Fraction(found, total) - lost)
        told = []
        if found < len(wanted) and found:
            told.append(f"{found} of {len(wanted)} values found.")
        if extra and found:
            told.append(f"{extra} value{' does' if extra == 1 else 's do'} not belong.")
        # a set with something too many is never fully right
        outcome = PARTLY if share > 0 else WRONG
        return Verdict(
            outcome, min(share, Fraction(total * 2 - 1, total * 2)), "", tuple(told), "values found", REFUTED
        )

    def by_place(self, values: tuple[Node, ...], shape: tuple[int, int]) -> Verdict:
        if shape != self.checker.shape:
            told = ("This has another number of values than asked for.",)
            return Verdict(WRONG, Fraction(0), "", told, "another size", REFUTED)
        right = sum(self.same(key, value) for key, value in zip(self.values, values))
        if right == len(self.values):
            return Verdict(RIGHT, Fraction(1), "", (), self.closeness(), PROVED)
        if not self.checker.answer.partial or not right:
            return Verdict(WRONG, Fraction(0), "", (), self.closeness(), REFUTED)
        told = (f"{right} of {len(self.values)} values are right.",)
        return Verdict(PARTLY, Fraction(right, len(self.values)), "", told, "values right", REFUTED)


def match(wanted: list[Node], given: list[Node], same: Callable[[Node, Node], bool]) -> list[tuple[int, int]]:
    """As many pairs of a wanted and a given value as possible (augmenting paths)."""
    taken: dict[int, int] = {}
    fits = [[k for k, value in enumerate(given) if same(key, value)] for key in wanted]

    def place(key: int, seen: set[int]) -> bool:
        for k in fits[key]:
            if k in seen:
                continue
            seen.add(k)
            if k not in taken or place(taken[k], seen):
                taken[k] = key
                return True
        return False

    for key in range(len(wanted)):
        place(key, set())
    return [(key, k) for k, key in taken.items()]

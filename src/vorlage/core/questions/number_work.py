"""How much number work a draw of a question asks: what is counted to compare forms with one another.

Every operation in the key and in the worked solution counts once, with the numbers of the draw in it. What is counted
is said in ``COMPONENTS``; nothing of it is a judgement of how hard a question is, only of what has to be done.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, reduce
from itertools import pairwise
from math import isqrt, prod, sqrt
from operator import add, mul, truediv

from flint import fmpq

from ..algebra import EvaluationError, Real, approximate, is_symbolic
from ..notation import Call, Name, Neg, Node, NotationError, Number, Power, Product, Quotient, Sum, names_in, walk
from .drawn import DrawnQuestion
from .question import CompiledQuestion

# What is counted, in the order of a vector, and what it is called.
COMPONENTS = ("steps", "digits", "carries", "signs", "fractions", "decimals", "roots and powers", "words")
OPERATIONS = (Sum, Product, Quotient, Power, Call)
# What has a worth without being worked out whole.
SIMPLE = (Number, Name, Neg, Sum, Product, Quotient, Power)
# Digits beyond these are not handled by anybody: a calculator shows no more.
MOST_DIGITS = 8

Work = tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Digits:
    """A number as it is written: figures that count, places behind the mark, whether it is negative or a fraction."""

    figures: int
    places: int
    negative: bool
    fraction: bool
    # the number times a power of ten that makes it whole; 0 where it is no decimal that ends
    whole: int = 0


def digits_of(value: fmpq | float) -> Digits:
    """How a value is written; what does not end is taken on as a calculator shows it."""
    if isinstance(value, float):
        return Digits(MOST_DIGITS // 2, MOST_DIGITS // 2, value < 0, False)
    top, below, places = abs(int(value.p)), int(value.q), 0
    while below % 10 == 0:
        below, places = below // 10, places + 1
    while below > 1 and (below % 2 == 0 or below % 5 == 0):
        top, below = (top * 5, below // 2) if below % 2 == 0 else (top * 2, below // 5)
        places += 1
    if below > 1:
        figures = len(str(abs(int(value.p)))) + len(str(int(value.q)))
        return Digits(min(figures, MOST_DIGITS), 0, value < 0, True)
    if places > MOST_DIGITS:
        return Digits(MOST_DIGITS, MOST_DIGITS, value < 0, False)
    figures = len(str(top).strip("0")) or 1
    return Digits(min(figures, MOST_DIGITS), places, value < 0, False, top if value >= 0 else -top)


def carries(one: Digits, other: Digits) -> int:
    """How often a column of an addition, or of a subtraction where the signs differ, passes something on.

    >>> carries(Digits(2, 0, False, False, 58), Digits(2, 0, False, False, 67))
    2
    >>> carries(Digits(2, 0, False, False, 52), Digits(2, 0, True, False, -37))
    1
    """
    places = max(one.places, other.places)
    first = abs(one.whole) * 10 ** (places - one.places)
    second = abs(other.whole) * 10 ** (places - other.places)
    adding, found, passed = one.negative == other.negative, 0, 0
    first, second = max(first, second), min(first, second)
    while first or second:
        (first, a), (second, b) = divmod(first, 10), divmod(second, 10)
        passed = int(a + b + passed > 9) if adding else int(a - b - passed < 0)
        found += passed
    return found


class NumberWork:
    """The operations of a question, ready to be counted in many draws."""

    def __init__(self, question: CompiledQuestion) -> None:
        self.question = question
        # every piece of the formulas once, what it works on before it, by their numbers
        self.pieces: list[tuple[Node, tuple[int, ...]]] = []
        self.numbers: dict[Node, int] = {}
        # the names in those that are worked out whole
        self.names: dict[Node, frozenset[str]] = {}
        self.operations = [self.piece(node) for node in operations_of(question)]

    def piece(self, node: Node) -> int:
        """The number of a piece, which is noted with all that it works on."""
        if node not in self.numbers:
            parts = (node.operand,) if isinstance(node, Neg) else parts_of(node)
            inside = tuple(self.piece(each) for each in parts)
            self.numbers[node] = len(self.pieces)
            self.pieces.append((node, inside))
            if not isinstance(node, SIMPLE) and not is_symbolic(node):
                self.names[node] = frozenset(names_in(node))
        return self.numbers[node]

    @cached_property
    def words(self) -> int:
        """How many words are read."""
        document = self.question.document
        texts = [document.wording, *(part.wording for part in document.parts)]
        texts += [text for part in document.parts for text in part.answer.texts()]
        return sum(len(text.split()) for text in texts)

    def of(self, drawn: DrawnQuestion) -> Work:
        """The number work of a draw, as ``COMPONENTS`` names it."""
        steps = digits = carried = signs = fractions = decimals = powers = 0
        worths = self.worths(drawn)
        written = [None if worth is None else digits_of(worth) for worth in worths]
        for number in self.operations:
            node, inside = self.pieces[number]
            steps += max(1, len(inside) - 1 if isinstance(node, Sum) else 1)
            powers += isinstance(node, Call | Power)
            operands = [found for found in (written[k] for k in inside) if found is not None]
            for found in operands:
                signs += found.negative
                fractions += found.fraction
                decimals += found.places
            if isinstance(node, Sum):
                digits += max((found.figures for found in operands), default=0)
                carried += sum(carries(a, b) for a, b in pairwise(operands) if a.whole and b.whole)
            elif isinstance(node, Product | Quotient):
                digits += min(prod(found.figures for found in operands), MOST_DIGITS**2) if operands else 0
            else:
                digits += sum(found.figures for found in operands)
        return tuple(map(float, (steps, digits, carried, signs, fractions, decimals, powers, self.words)))

    def worths(self, drawn: DrawnQuestion) -> list[fmpq | float | None]:
        """What every piece is worth in a draw: exactly where it is rational, nearly where it is not, None where it is
        no number or has no value."""
        found: list[fmpq | float | None] = []
        for node, inside in self.pieces:
            try:
                found.append(worth(node, [found[k] for k in inside], drawn, self.names.get(node)))
            except (ArithmeticError, ValueError):
                found.append(None)
        return found


def operations_of(question: CompiledQuestion) -> list[Node]:
    """Every operation of the keys and the worked solutions, each once."""
    found = dict[Node, None]()
    for part, solution in zip(question.document.parts, question.solutions):
        trees = list(solution.trees.values())
        try:
            key = part.answer.key_as_read(question.settings)
        except NotationError:
            key = None
        for tree in ([key] if key is not None else []) + trees:
            found.update(dict.fromkeys(node for node in walk(tree) if isinstance(node, OPERATIONS)))
    return list(found)


def worth(
    node: Node, inside: list[fmpq | float | None], drawn: DrawnQuestion, names: frozenset[str] | None
) -> fmpq | float | None:
    """What a piece is worth, from those that it works on; ``names`` are in one that is worked out whole."""
    if isinstance(node, Number):
        return fmpq(node.value.numerator, node.value.denominator)
    if isinstance(node, Name):
        return plain(drawn.values.get(node.name, drawn.worked.get(node.name)))
    known = [each for each in inside if each is not None]
    if isinstance(node, Neg | Sum | Product | Quotient | Power):
        if len(known) < len(inside):
            return None
        if isinstance(node, Neg):
            return -known[0]
        if isinstance(node, Power):
            return power(*known)
        combine = add if isinstance(node, Sum) else mul if isinstance(node, Product) else truediv
        return reduce(lambda a, b: combine(*alike(a, b)), known)
    if isinstance(node, Call) and node.function == "sqrt" and known:
        return root(known[0])
    if names is not None and all(name in drawn.values or name in drawn.worked for name in names):
        value = drawn.computation(node)
        return None if isinstance(value, EvaluationError) else plain(value)
    return None


def power(below: fmpq | float, above: fmpq | float) -> fmpq | float | None:
    if isinstance(below, fmpq) and isinstance(above, fmpq) and above.q == 1 and abs(above.p) <= 12:
        return below ** int(above.p)
    found = float_of(below) ** float_of(above)
    return found if isinstance(found, float) else None


def root(inner: fmpq | float) -> fmpq | float | None:
    if not isinstance(inner, fmpq) or inner < 0:
        return None if inner < 0 else sqrt(inner)
    top, below = isqrt(int(inner.p)), isqrt(int(inner.q))
    return fmpq(top, below) if (top * top, below * below) == (inner.p, inner.q) else sqrt(float_of(inner))


def plain(value: object) -> fmpq | float | None:
    """A value of a draw as a number; None for what is none."""
    if isinstance(value, fmpq):
        return value
    return approximate(value) if isinstance(value, Real) else None


def float_of(value: fmpq | float) -> float:
    return value if isinstance(value, float) else int(value.p) / int(value.q)


def alike(a: fmpq | float, b: fmpq | float) -> tuple[fmpq | float, fmpq | float]:
    """Two numbers of one sort."""
    return (a, b) if type(a) is type(b) else (float_of(a), float_of(b))


def parts_of(node: Node) -> tuple[Node, ...]:
    """What an operation works on."""
    match node:
        case Sum(terms):
            return terms
        case Product(factors, _):
            return factors
        case Quotient(top, below):
            return top, below
        case Power(base, exponent):
            return base, exponent
        case Call(_, arguments):
            return arguments
    return ()

"""What authors ask for by name: expand, factor, simplify, solve, diff, integral, sum, limit, substitute.

SymPy does the work, always built from our tree and never from a string, in a helper process with bounds on time and
memory; polynomials are multiplied out and differentiated here. Students' input never comes here.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction
from functools import cmp_to_key
from math import comb, prod
from typing import Any

import sympy

from ..notation import (
    Call,
    Collection,
    Constant,
    Drawn,
    Interval,
    Matrix,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quotient,
    Relation,
    Sum,
    Text,
    children,
    fraction,
    names_in,
    rebuild,
    substitute,
    tidy,
    walk,
)
from .balls import rational_constant
from .errors import EvaluationError
from .evaluation import Compiled, Value, Values, value_tree
from .helper import in_helper
from .rationals import NotRational, Ratio, RationalReader
from .steps import size, spend
from .values import Exact, compare

SYMBOLIC = frozenset("expand factor simplify diff integral substitute sum product limit solve sorted".split())
ZERO = Number(Fraction(0))
# Results that stay what they are when they hold no letters.
NO_NUMBERS = (Collection, Matrix, Interval, Relation, Text)
MAXIMUM_NODES = 300
# More terms than this are not even worked out: few of them will fall away.
MOST_TERMS = 5_000
MAXIMUM_RESULT = 3000
MAXIMUM_EXPONENT = 200

FUNCTIONS: dict[str, Callable[..., Any]] = {
    "sqrt": sympy.sqrt, "abs": sympy.Abs, "exp": sympy.exp, "ln": sympy.log, "sin": sympy.sin, "cos": sympy.cos,
    "tan": sympy.tan, "sec": sympy.sec, "csc": sympy.csc, "cot": sympy.cot, "asin": sympy.asin, "acos": sympy.acos,
    "atan": sympy.atan, "sinh": sympy.sinh, "cosh": sympy.cosh, "tanh": sympy.tanh,
    "root": lambda order, value: sympy.real_root(value, order),
    "log": lambda value, base=10: sympy.log(value, base),
}  # fmt: skip
NAMES_BACK = {"log": "ln", "Abs": "abs"}


def is_symbolic(tree: Node) -> bool:
    """Whether a formula asks for symbolic work."""
    return any(isinstance(node, Call) and node.function in SYMBOLIC for node in walk(tree))


def stripped(node: Node) -> Node:
    """The tree without the marks of drawing."""
    return stripped(node.value) if isinstance(node, Drawn) else rebuild(node, stripped)


def with_values(tree: Node, values: Values) -> Node:
    """The formula with a draw's values in it, tidied; symbolic calls are carried out."""
    named = {name: value_tree(value) for name, value in values.items()}
    return stripped(tidy(worked(substitute(tree, named, mark=True))))


def symbolic_value(tree: Node, values: Mapping[str, Value], angle: str) -> Value:
    """The value of a formula that speaks of undeclared letters: a tree, or a number when they are gone."""
    result = with_values(tree, values)
    return result if names_in(result) or isinstance(result, NO_NUMBERS) else Compiled(result, angle).value({})


class Worked:
    """A formula that has to be worked out with letters before it is a number, as ``Compiled`` is one that has not."""

    def __init__(self, tree: Node, angle: str) -> None:
        self.tree, self.angle = tree, angle

    def value(self, values: Values) -> Exact:
        """Its number for some values. Raises ``EvaluationError`` where it is none."""
        result = symbolic_value(self.tree, values, self.angle)
        if isinstance(result, Node | str):
            raise EvaluationError("no_value", "This is not a formula with a value.")
        return result


def program(tree: Node, angle: str) -> Compiled | Worked:
    """A formula ready to be worked out for every draw."""
    return Worked(tree, angle) if is_symbolic(tree) else Compiled(tree, angle)


def worked(node: Node) -> Node:
    """The tree with every symbolic call replaced by its result, the innermost first."""
    inner = rebuild(node, worked)
    if isinstance(inner, Call) and inner.function in SYMBOLIC:
        return OPERATIONS[inner.function](*map(stripped, inner.arguments))
    return inner


def to_sympy(node: Node) -> Any:
    """A SymPy expression over real symbols."""
    method = BUILDERS.get(type(node))
    if method is None:
        raise EvaluationError("no_symbolic", "This cannot be worked out with letters.")
    return method(node)


def build_power(node: Power) -> Any:
    exponent = to_sympy(node.exponent)
    if exponent.is_number and abs(exponent) > MAXIMUM_EXPONENT:
        raise EvaluationError("too_large", "This power is too large to be worked out.")
    return to_sympy(node.base) ** exponent


def build_call(node: Call) -> Any:
    function = FUNCTIONS.get(node.function)
    if function is None:
        raise EvaluationError("no_symbolic", f"{node.function} cannot be worked out with letters.")
    return function(*map(to_sympy, node.arguments))


def build_postfix(node: Postfix) -> Any:
    inner = to_sympy(node.operand)
    return {
        "%": lambda: inner / 100,
        "°": lambda: inner * sympy.pi / 180,
        "!": lambda: sympy.factorial(inner),
    }[node.sign]()


def rational_of(value: Fraction) -> Any:
    return sympy.Rational(value.numerator, value.denominator)


BUILDERS: dict[type[Node], Callable[[Any], Any]] = {
    Number: lambda node: rational_of(node.value),
    Mixed: lambda node: rational_of(node.whole.value + node.numerator.value / node.denominator.value),
    Name: lambda node: sympy.Symbol(node.name, real=True),
    Constant: lambda node: {"pi": sympy.pi, "e": sympy.E, "i": sympy.I, "infinity": sympy.oo}[node.name],
    Sum: lambda node: sympy.Add(*map(to_sympy, node.terms)),
    Neg: lambda node: -to_sympy(node.operand),
    Product: lambda node: sympy.Mul(*map(to_sympy, node.factors)),
    Quotient: lambda node: to_sympy(node.numerator) / to_sympy(node.denominator),
    Power: build_power,
    Postfix: build_postfix,
    Call: build_call,
    Drawn: lambda node: to_sympy(node.value),
}


def from_sympy(expression: Any) -> Node:
    """Our tree for a SymPy expression, written the way a teacher would."""
    if expression.is_Rational:
        return fraction(Fraction(int(expression.p), int(expression.q)))
    if expression.is_Symbol:
        return Name(expression.name)
    if expression is sympy.pi:
        return Constant("pi")
    if expression is sympy.E:
        return Constant("e")
    if expression.is_Add:
        return Sum(tuple(map(from_sympy, expression.as_ordered_terms())))
    if expression.is_Mul:
        return from_product(expression)
    if expression.is_Pow:
        return from_power(expression)
    if isinstance(expression, sympy.exp):
        return Power(Constant("e"), from_sympy(expression.args[0]))
    name = type(expression).__name__
    name = NAMES_BACK.get(name, name)
    if name in FUNCTIONS:
        return Call(name, tuple(map(from_sympy, expression.args)))
    raise EvaluationError("no_symbolic", "This result cannot be written as line maths.")


def from_product(expression: Any) -> Node:
    if expression.could_extract_minus_sign():
        return Neg(from_sympy(-expression))
    top, bottom = sympy.fraction(expression)
    if bottom != 1:
        return Quotient(from_sympy(top), from_sympy(bottom))
    coefficient, factors = expression.as_coeff_mul()
    ordered = [] if coefficient == 1 else [coefficient]
    trees = [from_sympy(factor) for factor in (*ordered, *sorted(factors, key=factor_order))]
    return trees[0] if len(trees) == 1 else Product(tuple(trees), ("",) * (len(trees) - 1))


def factor_order(factor: Any) -> tuple[int, str]:
    """Numbers, then letters, then brackets, then functions."""
    base = factor.base if factor.is_Pow else factor
    rank = 0 if base.is_number else 1 if base.is_Symbol else 2 if base.is_Add else 3
    return rank, str(factor)


def from_power(expression: Any) -> Node:
    base, exponent = expression.as_base_exp()
    if exponent == sympy.Rational(1, 2):
        return Call("sqrt", (from_sympy(base),))
    if exponent.is_Rational and exponent < 0:
        return Quotient(from_sympy(sympy.Integer(1)), from_sympy(base**-exponent))
    return Power(from_sympy(base), from_sympy(exponent))


def in_sympy(operation: Callable[..., Any]) -> Callable[..., Node]:
    """An operation on trees from one on SymPy expressions."""

    def run(*arguments: Node) -> Node:
        return from_sympy(operation(*map(to_sympy, arguments)))

    return run


def bounded(name: str) -> Callable[..., Node]:
    """An operation carried out by the helper, with its input bounded in size and its work in time and memory."""

    def run(*arguments: Node) -> Node:
        if sum(map(size, arguments)) > MAXIMUM_NODES:
            raise EvaluationError("too_large", "This formula is too large to be worked out with letters.")
        return in_helper(name, arguments)

    return run


def closed(result: Any, unevaluated: Any) -> Any:
    """The result, unless SymPy only wrote the question down again."""
    if result.has(unevaluated) or result.has(sympy.nan, sympy.zoo):
        raise EvaluationError("no_symbolic", "No value in closed form was found.")
    return result


def differentiate(expression: Any, variable: Any, times: Any = 1) -> Any:
    if not variable.is_Symbol:
        raise EvaluationError("no_symbolic", "diff(f, x) needs a letter to differentiate by.")
    return sympy.diff(expression, variable, int(times))


def integrate(expression: Any, variable: Any, *limits: Any) -> Any:
    if not variable.is_Symbol:
        raise EvaluationError("no_symbolic", "integral(f, x) needs a letter to integrate by.")
    result = sympy.integrate(expression, (variable, *limits) if limits else variable, meijerg=False)
    if result.has(sympy.Integral):
        raise EvaluationError("no_symbolic", "No antiderivative in closed form was found.")
    return result


def polynomial_tree(ratio: Ratio, names: list[str]) -> Node:
    """A polynomial multiplied out: the highest powers first, then in the order of the letters."""
    ratio = ratio.reduced()
    bottom = int(ratio.bottom.leading_coefficient())
    terms = [
        (tuple(map(int, exponents)), Fraction(int(coefficient), bottom))
        for exponents, coefficient in ratio.top.to_dict().items()
    ]
    if not terms:
        return Number(Fraction(0))
    terms.sort(key=lambda term: (-sum(term[0]), tuple(-exponent for exponent in term[0])))
    trees = [monomial_tree(names, exponents, coefficient) for exponents, coefficient in terms]
    return trees[0] if len(trees) == 1 else Sum(tuple(trees))


def monomial_tree(names: list[str], exponents: tuple[int, ...], coefficient: Fraction) -> Node:
    factors: list[Node] = []
    if abs(coefficient) != 1 or not any(exponents):
        factors.append(fraction(abs(coefficient)))
    for name, exponent in zip(names, exponents):
        if exponent:
            letter = Name(name)
            factors.append(letter if exponent == 1 else Power(letter, Number(Fraction(exponent))))
    tree = factors[0] if len(factors) == 1 else Product(tuple(factors), ("",) * (len(factors) - 1))
    return Neg(tree) if coefficient < 0 else tree


def polynomial(tree: Node) -> tuple[Ratio, list[str]] | None:
    """The tree as a polynomial with rational coefficients, or None."""
    names = sorted(names_in(tree))
    try:
        ratio = RationalReader(names).of(tree)
    except (NotRational, EvaluationError):
        return None
    return (ratio, names) if ratio.bottom.is_constant() else None


def expand(tree: Node) -> Node:
    """Multiplied out: by FLINT where it is a polynomial, by SymPy otherwise."""
    terms, signs = expanded_size(tree)
    if terms > MOST_TERMS:
        raise EvaluationError("too_large", "Multiplied out, this has too many terms to be shown.")
    spend(2 * terms)
    found = polynomial(tree)
    if found:
        return polynomial_tree(*found)
    if terms * signs > MAXIMUM_RESULT:
        raise EvaluationError("too_large", "Multiplied out, this has too many terms to be shown.")
    return bounded("expand")(tree)


def expanded_size(tree: Node) -> tuple[int, int]:
    """At most how many terms a formula has when it is multiplied out, and how many signs a term; both end far beyond
    what is shown."""
    terms, signs = expanded(tree)
    return min(terms, MAXIMUM_RESULT + 1), min(signs, MAXIMUM_RESULT + 1)


def expanded(tree: Node) -> tuple[int, int]:
    if isinstance(tree, Sum):
        found = [expanded_size(term) for term in tree.terms]
        return sum(terms for terms, _ in found), max(signs for _, signs in found)
    if isinstance(tree, Product):
        found = [expanded_size(factor) for factor in tree.factors]
        return prod(terms for terms, _ in found), sum(signs for _, signs in found)
    if isinstance(tree, Power):
        terms, signs = expanded_size(tree.base)
        exponent = rational_constant(tree.exponent)
        if exponent is not None and exponent.q == 1 and 1 < exponent <= MAXIMUM_EXPONENT:
            times = int(exponent)
            return comb(times + terms - 1, times), signs * min(times, terms)
        return terms, signs + 1
    if isinstance(tree, Neg):
        return expanded_size(tree.operand)
    if isinstance(tree, Drawn):
        return expanded_size(tree.value)
    if isinstance(tree, Quotient):
        terms, signs = expanded_size(tree.numerator)
        below, signs_below = expanded_size(tree.denominator)
        return terms, signs + below * signs_below
    # what stands in a function is multiplied out as well
    return 1, 1 + sum(terms * signs for terms, signs in map(expanded_size, children(tree)))


def derivative(tree: Node, variable: Node, times: Node | None = None) -> Node:
    """The derivative: of a polynomial by FLINT, otherwise by SymPy."""
    found = polynomial(tree)
    if found and times is None and isinstance(variable, Name) and variable.name in found[1]:
        ratio, names = found
        return polynomial_tree(Ratio(ratio.top.derivative(names.index(variable.name)), ratio.bottom), names)
    arguments = (tree, variable) if times is None else (tree, variable, times)
    return bounded("diff")(*arguments)


def solve(equation: Node, variable: Node) -> Node:
    """The real solutions of an equation in a letter, as a set in their order."""
    if not isinstance(variable, Name):
        raise EvaluationError("no_symbolic", "solve(equation, x) needs a letter to solve for.")
    sides = equation.terms if isinstance(equation, Relation) and equation.signs == ("=",) else (equation, ZERO)
    symbol = to_sympy(variable)
    found = sympy.solve(to_sympy(sides[0]) - to_sympy(sides[1]), symbol)
    if not isinstance(found, list) or any(isinstance(root, dict) for root in found):
        raise EvaluationError("no_symbolic", "No solutions in closed form were found.")
    if not any(root.free_symbols for root in found):
        found = sorted((root for root in found if root.is_real is not False), key=lambda root: float(root))
    return Collection("set", tuple(map(from_sympy, found)))


def in_order(given: Node) -> Node:
    """A list with its values in order, the least first."""
    items = given.items if isinstance(given, Collection) else (given,)
    spend(len(items))
    try:
        values = [Compiled(each).value({}) for each in items]
    except EvaluationError:
        raise EvaluationError("no_symbolic", "Only numbers can be put in order.") from None

    def by_size(one: int, other: int) -> int:
        return compare(values[one], values[other])

    return Collection("list", tuple(items[k] for k in sorted(range(len(items)), key=cmp_to_key(by_size))))


# What the helper carries out.
IN_SYMPY: dict[str, Callable[..., Node]] = {
    "expand": in_sympy(sympy.expand),
    "factor": in_sympy(sympy.factor),
    "simplify": in_sympy(sympy.simplify),
    "diff": in_sympy(differentiate),
    "integral": in_sympy(integrate),
    "sum": in_sympy(lambda term, index, low, high: closed(sympy.summation(term, (index, low, high)), sympy.Sum)),
    "product": in_sympy(lambda term, index, low, high: closed(sympy.product(term, (index, low, high)), sympy.Product)),
    "limit": in_sympy(
        lambda expression, variable, value: closed(sympy.limit(expression, variable, value), sympy.Limit)
    ),
    "substitute": in_sympy(lambda expression, variable, value: expression.subs(variable, value)),
    "solve": solve,
}
OPERATIONS: dict[str, Callable[..., Node]] = {
    **{name: bounded(name) for name in IN_SYMPY},
    "expand": expand,
    "diff": derivative,
    "sorted": in_order,
}

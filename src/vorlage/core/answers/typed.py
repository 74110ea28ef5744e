"""What people put around an answer, taken off before it is read."""

from __future__ import annotations

import re
from dataclasses import replace

from flint import fmpq

from ..algebra import Compiled, EvaluationError, compare
from ..notation import (
    Name,
    Node,
    NotationError,
    Number,
    Postfix,
    Power,
    Product,
    Quantity,
    Relation,
    Settings,
    names_in,
    walk,
)

# 3.2 x 10^5, where a pupil's x stands for the multiplication sign
LETTER_TIMES = re.compile(r"(?<=\d)(\s*)[xX](\s*)(?=10\s*(?:\^|\*\*|[⁰¹²³⁴⁵⁶⁷⁸⁹⁻]))")
# Exponents of numbers, and whole numbers whose factorial is taken, are never larger in an answer.
MAXIMUM_EXPONENT, MAXIMUM_FACTORIAL = 10_000, 5_000
# letters that a school gives to functions
FUNCTION_LETTERS = frozenset("fghpqsvyFGHPQV")
FULL_STOP = re.compile(r"(?<=[^\s.])\.\s*\Z")
# what stands before the equals sign of an answer: dy/dx, y', f'(x), f^-1(x), P(X > 2)
NAMING = re.compile(
    r"\s*(?:\\?d(?:\^?\{?[2-9²³]\}?)?\s*[A-Za-z]?\s*/\s*d\s*[A-Za-z](?:\^?\{?[2-9²³]\}?)?"
    r"|\\frac\{\s*d[^{}]{0,12}\}\{\s*d[^{}]{0,12}\}"
    r"|[A-Za-z]\w{0,3}\s*['′’]{1,3}\s*(?:\(\s*[^()=]{1,12}\))?"
    r"|[A-Za-z]\s*(?:\^\s*\(?\{?\s*[-−]\s*1\s*\}?\)?|⁻¹)\s*\([^()=]{1,12}\)"
    r"|[A-Z]\s*\([^()=]{1,24}\))\s*=(?![=<>])"
)


# what says that a number is not exact: before a formula "ca" is a product and "Ca" calcium
ABOUT = re.compile(
    r"\s*(?:(?P<letters>ca|approx)(?:\.\s*|\s+)(?=[-−–+]?\s*[.,]?\d)"
    r"|(?:circa|about|approximately|roughly|ungefähr|etwa|rund)\b)",
    re.IGNORECASE,
)
ABOUT_SIGN = re.compile(r"\s*[≈~]")
PER_HUNDRED = re.compile(r"(?<=[\d)])\s*(?:per ?cent|prozent)\b", re.IGNORECASE)


def plain_answer(text: str) -> str:
    """The answer without an equals or "about" sign before it or a full stop after it; every character keeps its place.

    >>> plain_answer("= 12."), plain_answer("0.5")
    ('  12', '0.5')
    """
    stripped = text.lstrip()
    if stripped.startswith("=") and not stripped.startswith("=="):
        text = text.replace("=", " ", 1)
    elif found := ABOUT_SIGN.match(text):
        text = " " * found.end() + text[found.end() :]
    if "er" in text or "ro" in text:
        text = PER_HUNDRED.sub(lambda found: "%".rjust(len(found[0])), text)
    return FULL_STOP.sub("", text) if text.rstrip().endswith(".") else text


def plain_value_answer(text: str) -> str:
    """As ``plain_answer``, and without what the answer is a value of; every character keeps its place.

    >>> plain_value_answer("dy/dx = 2x.")
    '        2x'
    """
    text = plain_answer(text)
    if text.count("=") == 1 and (found := NAMING.match(text)):
        return " " * found.end() + text[found.end() :]
    return text


def with_letters(settings: Settings, *trees: Node) -> Settings:
    """The settings in which names with a subscript that stand in a key are known: ``v_xt`` is v_x·t where v_x is."""
    known = {name for tree in trees for name in names_in(tree) if "_" in name}
    return replace(settings, names=settings.names | known) if known - settings.names else settings


# f(2) = 12: a number is the value of a function there
VALUE_OF = re.compile(r"\s*[A-Za-z]\w?\s*\([^()=]{1,24}\)\s*=(?![=<>])")


def plain_number(text: str, settings: Settings) -> str:
    """As ``plain_answer``, without words that say "about", and with the letter x read as a multiplication sign before a
    power of ten.

    >>> plain_number("3.2 x 10^5", Settings())
    '3.2 × 10^5'
    >>> plain_number("ca. 12", Settings()), plain_number("ca2b", Settings())
    ('    12', 'ca2b')
    """
    text = plain_value_answer(text)
    if text.count("=") == 1 and (found := VALUE_OF.match(text)):
        text = " " * found.end() + text[found.end() :]
    if (found := ABOUT.match(text)) and not (found["letters"] and {"c", "a"} <= settings.names):
        text = " " * found.end() + text[found.end() :]
    return text if "x" in settings.names or ("x" not in text and "X" not in text) else LETTER_TIMES.sub(r"\1×\2", text)


def without_name(tree: Node, key: Node | None = None) -> Node:
    """``x = 5`` answers with 5, and ``f(x) = 2x`` with 2x, unless the name belongs to the key."""
    if not isinstance(tree, Relation) or tree.signs not in {("=",), ("≈",)}:
        return tree
    left, right = tree.terms
    taken = names_in(key) if key is not None else frozenset[str]()
    if isinstance(left, Name) and left.name not in taken:
        return right
    function = applied_function(left)
    return right if function and function not in taken and function not in names_in(right) else tree


def answerable(tree: Node) -> Node:
    """The tree, refused where something stands in it that no answer of this kind has: a unit, or a number that nobody
    could write down."""
    if type(tree) is Number:
        return tree
    for node in walk(tree):
        if isinstance(node, Quantity):
            message = f"The unit {node.unit} cannot stand here: leave it out, or write it once, at the end."
            raise NotationError("unit", message)
        if isinstance(node, Power) and is_tower(node):
            raise NotationError("too_large", "This power is too large to be worked out.")
        if isinstance(node, Postfix) and node.sign == "!" and not is_below(node.operand, MAXIMUM_FACTORIAL):
            raise NotationError("too_large", "This factorial is too large to be worked out.")
    return tree


def is_tower(power: Power) -> bool:
    """Whether a number is raised to an exponent beyond all use, such as 9^9^9."""
    return not names_in(power.base) and not is_below(power.exponent, MAXIMUM_EXPONENT)


def is_below(tree: Node, most: int) -> bool:
    """Whether a number is at most so large in size; what has letters in it is."""
    if isinstance(tree, Number):
        return tree.value <= most
    if names_in(tree):
        return True
    try:
        value = Compiled(tree).value({})
        return compare(value, fmpq(most)) <= 0 and compare(value, fmpq(-most)) >= 0
    except EvaluationError as problem:
        return problem.code != "too_large"


def applied_function(tree: Node) -> str:
    """The f of ``f(x)``, which is read as a product of two letters; empty for anything else."""
    if not isinstance(tree, Product) or tree.signs != ("",):
        return ""
    function, variable = tree.factors
    if isinstance(function, Name) and isinstance(variable, Name) and function.name in FUNCTION_LETTERS:
        return function.name
    return ""


# what is said of sizes, and its sign
SAID = [
    (re.compile(rf"\b(?:is\s+)?{words}(?=\s|\Z)", re.IGNORECASE), sign)
    for words, sign in (
        (r"(?:greater|more|larger|bigger)\s+than\s+or\s+(?:is\s+)?equal\s+to", "≥"),
        (r"(?:less|smaller|fewer)\s+than\s+or\s+(?:is\s+)?equal\s+to", "≤"),
        (r"(?:at\s+least|not\s+less\s+than|no\s+less\s+than)", "≥"),
        (r"(?:at\s+most|not\s+more\s+than|no\s+more\s+than)", "≤"),
        (r"(?:greater|more|larger|bigger)\s+than", ">"),
        (r"(?:less|smaller|fewer)\s+than", "<"),
        (r"not\s+equal\s+to", "≠"),
    )
]


# every number: x in R, all real numbers
EVERY_NUMBER = re.compile(r"\s*(?:(?:[a-z]\s*(?:in\b|∈)\s*)?(?:R\b|ℝ)|all\s+real(?:s|\s+numbers))\s*")


def in_signs(text: str) -> str:
    """An inequality said in words, in signs.

    >>> in_signs("x is greater than 2")
    'x > 2'
    >>> in_signs("x in R")
    '(-infinity, infinity)'
    """
    if EVERY_NUMBER.fullmatch(text):
        return "(-infinity, infinity)"
    for words, sign in SAID:
        text = words.sub(sign, text)
    return text


SQUARE = re.compile(r"\s*\[([^\[\]]*)\]\s*\Z")
ANGLE = re.compile(r"\s*[<⟨]([^<>⟨⟩]*)[>⟩]\s*\Z")
ROWS = re.compile(r"\s*(?:\[\s*\[(.*)\]\s*\]|\(\s*\((.*)\)\s*\))\s*\Z", re.DOTALL)
BETWEEN_ROWS = re.compile(r"[\])]\s*[,;]?\s*[\[(]")
NAMED_POINT = re.compile(r"\s*[A-Z]\s*=?\s*(?=\()")
STROKED_POINT = re.compile(r"\(([^()|]*)\|([^()|]*)\)")
NONE = re.compile(r"(?:there (?:is|are) )?no (?:real )?(?:solutions?|roots?|values?)\.?|none\.?", re.IGNORECASE)


# (x, y) = (2, -1), a = 3i - 4j, AB = (1, 2), A = [[1, 2], [3, 4]]
POINT_NAMING = re.compile(r"\(\s*[A-Za-z](?:\s*[,;]\s*[A-Za-z]){1,2}\s*\)\s*=\s*(?=\()")
STRUCTURE_NAMING = re.compile(
    r"\s*(?:\(\s*[A-Za-z](?:\s*[,;]\s*[A-Za-z]){1,2}\s*\)|[A-Za-z]\w?(?:_\w+)?|\\vec\{\w+\})\s*=\s*(?=[^=]*\Z)"
)


def plain_collection(text: str, kind: str) -> str:
    """Several values in the other usual brackets as line maths reads them.

    >>> plain_collection("[1, 2, 3]", "vector"), plain_collection("[1, 2; 3, 4]", "matrix")
    ('vec(1, 2, 3)', 'matrix(1, 2; 3, 4)')
    >>> plain_collection("P(3|4)", "point"), plain_collection("no solution", "set")
    ('(3; 4)', '{}')
    """
    text = plain_answer(text)
    text = POINT_NAMING.sub("", text) if kind in {"set", "list"} else text
    if kind in {"point", "vector", "matrix", "list"} and (found := STRUCTURE_NAMING.match(text)):
        text = text[found.end() :]
    if kind == "set" and NONE.fullmatch(text.strip()):
        return "{}"
    if kind in {"point", "set", "list"} and "|" in text:
        text = STROKED_POINT.sub(r"(\1; \2)", text)
    if kind == "point":
        return NAMED_POINT.sub("", text)
    if kind == "vector" and (found := SQUARE.match(text) or ANGLE.match(text)):
        return f"vec({found[1]})"
    if kind == "list" and (found := SQUARE.match(text)):
        return f"list({found[1]})"
    if kind == "matrix" and (found := ROWS.match(text)):
        return f"matrix({BETWEEN_ROWS.sub('; ', found[1] or found[2])})"
    if kind == "matrix" and (found := SQUARE.match(text)):
        return f"matrix({found[1]})"
    return text

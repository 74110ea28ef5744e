"""What people put around an answer, taken off before it is read."""

from __future__ import annotations

import re

from ..notation import Name, Node, Product, Relation, Settings, names_in

# 3.2 x 10^5, where a pupil's x stands for the multiplication sign
LETTER_TIMES = re.compile(r"(?<=\d)(\s*)[xX](\s*)(?=10\s*(?:\^|\*\*|[⁰¹²³⁴⁵⁶⁷⁸⁹⁻]))")
# letters that a school gives to functions
FUNCTION_LETTERS = frozenset("fghpqsvyFGHPQV")
FULL_STOP = re.compile(r"(?<=\d)\.\s*\Z")


def plain_answer(text: str) -> str:
    """The answer without an equals sign before it or a full stop after it; every character keeps its place.

    >>> plain_answer("= 12."), plain_answer("0.5")
    ('  12', '0.5')
    """
    stripped = text.lstrip()
    if stripped.startswith("=") and not stripped.startswith("=="):
        text = text.replace("=", " ", 1)
    return FULL_STOP.sub("", text)


def plain_number(text: str, settings: Settings) -> str:
    """As ``plain_answer``, and with the letter x read as a multiplication sign before a power of ten.

    >>> plain_number("3.2 x 10^5", Settings())
    '3.2 × 10^5'
    """
    text = plain_answer(text)
    return text if "x" in settings.names else LETTER_TIMES.sub(r"\1×\2", text)


def without_name(tree: Node, key: Node | None = None) -> Node:
    """``x = 5`` answers with 5, and ``f(x) = 2x`` with 2x, unless the name belongs to the key."""
    if not isinstance(tree, Relation) or tree.signs != ("=",):
        return tree
    left, right = tree.terms
    taken = names_in(key) if key is not None else frozenset[str]()
    if isinstance(left, Name) and left.name not in taken:
        return right
    function = applied_function(left)
    return right if function and function not in taken and function not in names_in(right) else tree


def applied_function(tree: Node) -> str:
    """The f of ``f(x)``, which is read as a product of two letters; empty for anything else."""
    if not isinstance(tree, Product) or tree.signs != ("",):
        return ""
    function, variable = tree.factors
    if isinstance(function, Name) and isinstance(variable, Name) and function.name in FUNCTION_LETTERS:
        return function.name
    return ""


SQUARE = re.compile(r"\s*\[([^\[\]]*)\]\s*\Z")
ANGLE = re.compile(r"\s*[<⟨]([^<>⟨⟩]*)[>⟩]\s*\Z")
ROWS = re.compile(r"\s*(?:\[\s*\[(.*)\]\s*\]|\(\s*\((.*)\)\s*\))\s*\Z", re.DOTALL)
BETWEEN_ROWS = re.compile(r"[\])]\s*[,;]?\s*[\[(]")
NAMED_POINT = re.compile(r"\s*[A-Z]\s*=?\s*(?=\()")
STROKED_POINT = re.compile(r"\(([^()|]*)\|([^()|]*)\)")
NONE = re.compile(r"(?:there (?:is|are) )?no (?:real )?(?:solutions?|roots?|values?)\.?|none\.?", re.IGNORECASE)


def plain_collection(text: str, kind: str) -> str:
    """Several values in the other usual brackets as line maths reads them.

    >>> plain_collection("[1, 2, 3]", "vector"), plain_collection("[1, 2; 3, 4]", "matrix")
    ('vec(1, 2, 3)', 'matrix(1, 2; 3, 4)')
    >>> plain_collection("P(3|4)", "point"), plain_collection("no solution", "set")
    ('(3; 4)', '{}')
    """
    text = plain_answer(text)
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

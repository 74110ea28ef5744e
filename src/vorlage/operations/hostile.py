"""Questions that are meant to take too long or too much: each is refused at the row that costs, or worked out in time.

They are tried in steps by the tests and in seconds by ``./vorlage fuzz``.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

INTEGRAL = "integral(sin({j}*x^3+k)*exp(x^a)/ln(x+1), x)"
ROOTS = "sqrt(a)+sqrt(b)=sqrt(a+b+2*sqrt(a*b))+0"
TEXT = "A long text with $a^2+b$ and $value(a*b)$ in it. " * 40


def question(
    parameters: Sequence[tuple[str, str]] = (("a", "1..90"),),
    conditions: Sequence[str] = (),
    key: str = "a",
    kind: str = "number",
    wording: str = "Work $a$ out.",
    figures: Sequence[str] = (),
) -> dict[str, Any]:
    """A question document."""
    return {
        "title": "Hostile",
        "wording": wording,
        "parameters": [{"name": name, "definition": definition} for name, definition in parameters],
        "conditions": list(conditions),
        "parts": [{"marks": "2", "answer": {"kind": kind, "key": key}}],
        "figures": [{"name": f"F{k}", "lines": lines} for k, lines in enumerate(figures)],
    }


def curves(count: int, formula: str = "sin({k}*x)+{k}/50") -> str:
    """The lines of a figure with so many curves."""
    return "\n".join(["frame -5..5, -5..5", *(f"curve y = {formula.format(k=k)}" for k in range(count))])


def shown(count: int) -> str:
    return "".join(f"![x](figure:F{k})\n\n" for k in range(count))


def many_parts(count: int) -> dict[str, Any]:
    """A question with so many parts, and much to read in each."""
    document = question([("a", "1..90"), ("b", "1..90")], wording=TEXT, key="a*b")
    part = {**document["parts"][0], "wording": TEXT, "solution": TEXT}
    return document | {"parts": [part] * count}


TWO = [("a", "1..90"), ("b", "1..90")]
HOSTILE: dict[str, dict[str, Any]] = {
    "one integral": question([("a", "2..9"), ("k", "1..5"), ("f", INTEGRAL.format(j=1))], wording="Find $f$."),
    "six integrals": question(
        [("a", "2..9"), ("k", "1..5"), *[(f"f_{j}", INTEGRAL.format(j=j)) for j in range(1, 7)]], wording="Find $f_1$."
    ),
    "an integral as the key": question([("a", "2..9"), ("k", "1..5")], key=INTEGRAL.format(j=1), kind="formula"),
    "an integral in the text": question(
        [("a", "2..9"), ("k", "1..5")], wording=f"Find $value({INTEGRAL.format(j=1)})$."
    ),
    "roots of 90": question(TWO, [ROOTS]),
    "roots of 140": question([("a", "1..140"), ("b", "1..140")], [ROOTS]),
    "forty waves": question(TWO, [f"sin(a*{k}+b)^2+cos(a*{k}+b)^2 = 1" for k in range(1, 41)]),
    "sixty letters": question(
        [(f"a_{k}", "1..1000") for k in range(60)], [" + ".join(f"a_{k}" for k in range(60)) + " = 31"], key="a_1"
    ),
    "too many roots to list": question(
        [(f"a_{k}", "1..1000") for k in range(20)],
        ["+".join(f"sqrt(a_{k})" for k in range(20)) + " = sqrt(7)"],
        key="a_1",
        wording="Work it out.",
    ),
    "a set of 100": question(key="{" + ", ".join(f"a+{k}" for k in range(100)) + "}", kind="set"),
    "a set of 200": question(key="{" + ", ".join(f"a+{k}" for k in range(200)) + "}", kind="set"),
    "a set of 80 roots": question(key="{" + ", ".join(f"sqrt(a+{k})" for k in range(80)) + "}", kind="set"),
    "a list of letters": question(key=", ".join(f"(x+{k})^9-x^9" for k in range(80)), kind="list"),
    "58 curves": question(figures=[curves(58)], wording="$a$" + shown(1)),
    "ten figures of 58 curves": question(figures=[curves(58)] * 10, wording="$a$" + shown(10)),
    "curves without quick functions": question(
        figures=[curves(50, "binomial(floor(x)+9, 3)/{k}-x!")], wording="$a$" + shown(1)
    ),
    "a figure placed 900 times": question(figures=[curves(3)], wording="$a$ ![x](figure:F0) " * 600),
    "twenty long parts": many_parts(20),
    "multiplied out": question(
        [("a", "1..90"), ("p", "expand((x+y+z+1)^a)")], wording="Expand $expand((x+y+z+a)^40)$ and $p$."
    ),
    "multiplied out by a letter": question([("a", "1..90"), ("p", "factor((x+y+a)^30-(x-y)^30)")], wording="$p$"),
    "beyond all algebra": question(
        [("a", "1..900"), ("b", "1..900")], key="exp(sin(a))*ln(b+2)^a+atan(b)*sqrt(a)", wording="$a$ $b$"
    ),
    "powers": question([("a", "1..9"), ("b", "(a+1)^4000"), ("c", "b^9")], key="c"),
    "powers beside a broken row": question([("a", "1..9"), ("b", "(a+1)^4000"), ("c", "b^9"), ("d", "a+")], key="c"),
    "choices": question([("a", "1..9"), ("s", "binomial(5000, 2500)^a")], key="s"),
    "a long sum": question([("a", "1..9"), ("s", "sum(k^a, k, 1, 100000)")], key="s"),
    "a long product": question([("a", "1..9"), ("s", "product(k+a, k, 1, 5000)")], key="s"),
    "towers": question([("a", "2..9"), ("s", "a^a^a^a")], key="s"),
    "deep": question(key="sqrt(" * 50 + "a" + ")" * 50),
}

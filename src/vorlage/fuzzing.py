"""Random answers to every kind of question, looking for what crashes or takes long: ``./vorlage fuzz``."""

from __future__ import annotations

import random
import time
from typing import Any

from vorlage.core.answers import CaseError, check_case

ANSWERS: list[dict[str, Any]] = [
    {"kind": "number", "key": "3"},
    {"kind": "number", "key": "sqrt(2)", "recognise": ["rounding", "truncation", "sign", "power_of_ten", "digit_swap"]},
    {"kind": "formula", "key": "x^2"},
    {"kind": "formula", "key": "sin(x)", "up_to": "constant"},
    {"kind": "formula", "key": "x^2-1", "form": "factorised"},
    {"kind": "quantity", "key": "1", "unit": "m"},
    {"kind": "equation", "key": "y=x", "form": "standard"},
    {"kind": "inequality", "key": "x>1"},
    {"kind": "set", "key": "{1,x}"},
    {"kind": "matrix", "key": "matrix(1,2;3,4)"},
    {"kind": "chemical", "key": "2 H2 + O2 -> 2 H2O"},
    {"kind": "point", "key": "(1,2)"},
    {"kind": "vector", "key": "vec(1,2)"},
    {"kind": "list", "key": "1,2"},
    {"kind": "text", "accept": ["(a+)+b"], "match": "pattern"},
]
CHARACTERS = list("0123456789.,xyeiHOC+-*/^()[]{}|!%° =<>\\_²½√±πµ&;'\"\u202e\u00a0\u0301")
PIECES = (
    "sin |cos(|ln |sqrt(|exp(|abs(|log_2 |e^|x^2|10^|vec(|matrix(|or |and |in |infinity|asin |tan(|root(3,|min(|floor(|"
    "binomial(|->|m/s|\\frac{|}|sinh(|x^(1/2)|2^x|!!|gcd(|mod(|acosh |1e5|<=|diff(|if(|chem:|kJ/(kg K)|\\begin{pmatrix}"
).split("|")
# Longer than this, in seconds, is told.
LONG = 0.25


def timed(case: dict[str, Any]) -> float:
    """How long it takes to check a case."""
    before = time.perf_counter()
    check_case(case)
    return time.perf_counter() - before


def run(seconds: float, seed: int) -> int:
    """Try random answers for so long; exit status 1 when anything crashed or took long."""
    chance = random.Random(seed)
    # the first quantity loads the units
    check_case({"answer": {"kind": "quantity", "key": "1", "unit": "m"}, "response": "1 m"})
    started, tried, troubles = time.monotonic(), 0, 0
    while time.monotonic() - started < seconds:
        response = "".join(chance.choice(CHARACTERS + PIECES) for _ in range(chance.randint(1, 14)))
        settings = {
            "angle": chance.choice(["radians", "degrees"]),
            "decimal_mark": chance.choice(["point", "comma"]),
            "complex": chance.random() < 0.2,
        }
        answer = chance.choice(ANSWERS)
        tried += 1
        case = {"answer": answer, "response": response, "settings": settings}
        try:
            # what was long only once was the machine's doing
            spent = timed(case)
            spent = min(spent, timed(case)) if spent > LONG else spent
            trouble = f"{spent:.2f} s" if spent > LONG else ""
        except CaseError as problem:
            trouble = f"refused ({problem})"
        except Exception as problem:
            trouble = f"crash ({type(problem).__name__}: {problem})"
        if trouble:
            troubles += 1
            print(f"{trouble}: {answer['kind']} {response!r} {settings}")
    print(f"{tried} answers tried, {troubles} troubles")
    return 1 if troubles else 0

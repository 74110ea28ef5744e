"""Random answers to every kind of question, looking for what crashes or takes too many steps, and right answers with
one thing made wrong, looking for one that is accepted: ``./vorlage fuzz``."""

from __future__ import annotations

import random
import time
from typing import Any

from vorlage.core.algebra import start_helper
from vorlage.core.answers import KINDS, CaseError, check_case
from vorlage.core.questions import CompiledQuestion, QuestionDrawing, load_document, soundness, survey

from .hostile import HOSTILE as HOSTILE_QUESTIONS
from .perturbing import faults

ANSWERS: list[dict[str, Any]] = [{"kind": kind.name, **sample} for kind in KINDS.values() for sample in kind.samples]
# Kinds whose response need not be a string.
CHOSEN = frozenset(kind.name for kind in KINDS.values() if not kind.document.typed)
CHARACTERS = list("0123456789.,xyeiHOC+-*/^()[]{}|!%° =<>\\_²½√±πµ&;'\"\u202e\u00a0\u0301")
PIECES = (
    "sin |cos(|ln |sqrt(|exp(|abs(|log_2 |e^|x^2|10^|vec(|matrix(|or |and |in |infinity|asin |tan(|root(3,|min(|floor(|"
    "binomial(|->|m/s|\\frac{|}|sinh(|x^(1/2)|2^x|!!|gcd(|mod(|acosh |1e5|<=|diff(|if(|chem:|kJ/(kg K)|\\begin{pmatrix}"
).split("|")
# What somebody tries who wants to break it: nesting, length, huge powers, tricks of Unicode, patterns that backtrack.
HOSTILE: list[str] = [
    "√{}",
    "9^9^9^9",
    "2^99999",
    "(x+y+z)^5000",
    "(x+y)^200",
    "1000!",
    "99999!!",
    "5000!",
    "4999!/4998!",
    "1/0",
    "0^0",
    "x^x^x",
    "{" * 50,
    "sqrt(-1)",
    "ln(0) m",
    "|" * 40,
    "1e99999",
    "sin(10^400)",
    "\u202e3",
    "∞",
    "H" * 290,
    "(" * 59 + "x" + ")" * 59,
    "(" * 10000 + "x" + ")" * 10000,
    "1 m^99",
    "=",
    "<",
    ",",
    "\\",
    "x^60-3x^59+1>0",
    "7/1e510^9",
    "1e4000*1e4000",
    "±±3",
    "e^e^e^e^e",
    "{1,2,3,4,5,6,7,8,9,10,11,12}",
    "a" * 3000,
    "1" * 5000,
    "x" * 2000,
    "1" * 1000 + "." + "2" * 1000,
    "((x+1)^50+1)^50",
    "sin(" * 60 + "x" + ")" * 60,
    "sqrt(" * 50 + "x" + ")" * 50,
    "x^(1/2)^(1/3)^(1/5)",
    "tan(x)^99",
    "x^999-1",
    "(x^40+y^40+z^40+1)(a+b+c+d+f+g)^8",
    "sin(x)^40+cos(x)^40",
    "sin(40x)",
    "sin(200x)",
    "cos(99x)^9",
    "e^(x^99)",
    "ln(ln(ln(ln(ln x))))",
    "|x|+|x-1|+|x-2|+|x-3|+|x-4|+|x-5|+|x-6|",
    "|x|+|y|+|z|+|x-1|+|y-1|+|z-1|>3",
    "max(" + ",".join(["x"] * 45) + ")",
    "gcd(10^300,3^400)",
    "binomial(5000,2500)",
    "binomial(10^9,10^8)",
    "0.1^4000",
    "(1/3)^3000",
    "x=±±±±1",
    "±x±y±z±1±2±3±4",
    "x=" + " or x=".join(map(str, range(60))),
    "{" + ",".join(map(str, range(300))) + "}",
    "{" + ",".join(f"x+{k}" for k in range(40)) + "}",
    "matrix(" + ";".join([",".join(["1"] * 12)] * 12) + ")",
    "\x00",
    "e\u0301" * 20,
    "\ufeff3",
    "３",
    "²²²²",
    "½½½",
    "\\frac{" * 30,
    "\\begin{pmatrix}" * 20,
    "\\int_" * 50,
    "\\sum_{k=1}^{" * 10,
    "\\left" * 100,
    "\\text{or}" * 60,
    "1 or " * 200 + "1",
    "x<1 and " * 100 + "x<2",
    "a_" * 200,
    "log_" * 100,
    "5 kg" * 50,
    "5 " + "m/" * 60,
    "5 " + "kg m " * 30,
    "((((x^2)^2)^2)^2)^2",
    "(((((x+1)^2+1)^2+1)^2+1)^2+1)^2",
    "10^(10^(10))",
    "0.000000001^-400",
    "root(1000,x)",
    "root(99999,2)",
    "x^(1/9999)",
    "sqrt(2)+sqrt(3)+sqrt(5)+sqrt(7)+sqrt(11)+sqrt(13)+sqrt(17)+sqrt(19)",
    "(sqrt(2)+sqrt(3)+sqrt(5)+sqrt(7))^20",
    "1/(1+1/(1+1/(1+1/(1+1/(1+1/(1+x))))))",
    "if(" * 30,
    "sum(k,k,1,10^9)",
    "product(k,k,1,10^9)",
    "integral(e^(x^2),x,0,1)",
    "mod(10^400,7)",
    "floor(10^300 pi)",
    "round(pi,300)",
    "round(1,10^9)",
    "asin(asin(asin(x)))",
    "sinh(sinh(sinh(sinh(9))))",
    "x!!!!!",
    "3!!!!",
    "(x+1)!",
    "normal_cdf(1e300,0,1e-300)",
    "quantile(1,2,3,0.5)",
    "1e510",
    "-1e-510",
    "4^0.5^0.5^0.5^100",
    "vec(" * 50,
    "[[[[[[",
    "<" * 80,
    "x<" * 80 + "x",
    "1<x<" * 40 + "2",
]


def timed(case: dict[str, Any]) -> float:
    """How long it takes to check a case."""
    before = time.perf_counter()
    check_case(case)
    return time.perf_counter() - before


def slowest() -> list[tuple[float, str, str]]:
    """Every hostile response to every kind: seconds, kind and response, the slowest first."""
    check_case({"answer": {"kind": "quantity", "key": "1", "unit": "m"}, "response": "1 m"})
    found = []
    for answer in ANSWERS:
        for response in HOSTILE:
            case = {"answer": answer, "response": response}
            # what was long only once was the machine's doing
            spent = min(timed(case) for _ in range(3))
            found.append((spent, str(answer["kind"]), response))
    return sorted(found, reverse=True)


# What looking at a question and a survey of it may take, in seconds of the processor.
SECONDS_OF_A_QUESTION, SECONDS_OF_A_SURVEY = 4.0, 5.0


def too_slow() -> list[str]:
    """The hostile questions that take longer than they may, or crash."""
    start_helper()
    found = []
    for name, document in HOSTILE_QUESTIONS.items():
        before, compiled = time.process_time(), CompiledQuestion(load_document(document))
        try:
            soundness(compiled, name, 1)
            spent, before = time.process_time() - before, time.process_time()
            surveyed = 0.0
            if not compiled.problems:
                survey(QuestionDrawing(compiled, name, 1))
                surveyed = time.process_time() - before
        except Exception as problem:
            found.append(f"crash ({type(problem).__name__}: {problem}): {name}")
            continue
        if spent > SECONDS_OF_A_QUESTION or surveyed > SECONDS_OF_A_SURVEY:
            found.append(f"too slow ({spent:.1f} s, its survey {surveyed:.1f} s): {name}")
    return found


def typed(chance: random.Random) -> str:
    return "".join(chance.choice(CHARACTERS + PIECES) for _ in range(chance.randint(1, 14)))


def structured(chance: random.Random, depth: int = 0) -> Any:
    """A list, an object or something in them, of the kinds that JSON has."""
    pick = chance.random()
    if depth < 3 and pick < 0.45:
        return [structured(chance, depth + 1) for _ in range(chance.randint(0, 4))]
    if depth < 3 and pick < 0.6:
        return {chance.choice(["1", "2", "3", "9", "x", ""]): structured(chance, depth + 1) for _ in range(3)}
    return chance.choice(
        [1, 2, 0, -1, 1.5, 1e300, float("nan"), True, None, "", "A", "b", "1", "(1, 2)", "3; x^2; A", typed(chance)]
    )


def trouble_with(case: dict[str, Any]) -> str:
    """What goes wrong with a case; empty for nothing."""
    try:
        verdict = check_case(case)
    except CaseError as problem:
        return f"refused ({problem})"
    except Exception as problem:
        return f"crash ({type(problem).__name__}: {problem})"
    return "too many steps" if verdict.code == "too_costly" else ""


def run(seconds: float, seed: int, perturbed: int) -> int:
    """Try random answers for so long, and so many perturbed ones; exit status 1 when anything crashed, took too many
    steps, or was accepted though it is wrong."""
    chance = random.Random(seed)
    tried, troubles = 0, 0
    for answer in ANSWERS:
        for hostile in HOSTILE:
            told = trouble_with({"answer": answer, "response": hostile})
            # what is meant to take long may use its steps up, and no more
            if told and told != "too many steps":
                troubles += 1
                print(f"{told}: {answer['kind']} {hostile[:60]!r}")
    for told in too_slow():
        troubles += 1
        print(told)
    # what is hostile takes its time; the seconds are for random answers
    started = time.monotonic()
    while time.monotonic() - started < seconds:
        settings = {
            "angle": chance.choice(["radians", "degrees"]),
            "decimal_mark": chance.choice(["point", "comma"]),
            "complex": chance.random() < 0.2,
        }
        answer = chance.choice(ANSWERS)
        response = structured(chance) if answer["kind"] in CHOSEN and chance.random() < 0.6 else typed(chance)
        tried += 1
        told = trouble_with({"answer": answer, "response": response, "settings": settings})
        if told:
            troubles += 1
            print(f"{told}: {answer['kind']} {response!r} {settings}")
    print(f"{tried} answers tried, {troubles} troubles")
    wrong = faults(perturbed, seed)
    for each in wrong:
        print(f"{each.what}: {each.case.response!r} for {each.case.answer}")
    print(f"{perturbed} perturbed answers tried, {len(wrong)} troubles")
    return 1 if troubles or wrong or not tried else 0

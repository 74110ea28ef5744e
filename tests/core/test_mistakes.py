"""Finding the mistake: what was done to known keys is named, and chance names nothing."""

from __future__ import annotations

import math
import random
from typing import Any
from unittest import TestCase

from vorlage.core.algebra import Compiled, EvaluationError, approximate
from vorlage.core.answers import case_values
from vorlage.core.mistakes import Claim, ClassError, class_mistakes
from vorlage.core.notation import Settings, read_authored

METALS = [("7800", "450"), ("2700", "897"), ("8960", "385"), ("11340", "129"), ("19300", "128")]


def whole(low: int, high: int, step: int = 1) -> Any:
    return lambda chosen: str(chosen.randrange(low, high + 1, step))


def decimal(low: float, high: float, places: int) -> Any:
    return lambda chosen: f"{chosen.uniform(low, high):.{places}f}"


def metal(chosen: random.Random) -> dict[str, str]:
    return dict(zip(("density", "heat"), chosen.choice(METALS)))


# A key, its unit, whether angles are in degrees, how its parameters are drawn, and what students do instead.
KEYS: list[tuple[str, str, bool, dict[str, Any], list[str]]] = [
    ("m*v^2/2", "J", False, {"m": whole(2, 40), "v": whole(3, 30)},
     ["m*v/2", "m*v^2", "m*v^2/2/1000", "-m*v^2/2", "(m*v)^2/2"]),
    ("pi*r^2*h", "cm^3", False, {"r": decimal(1, 9, 1), "h": decimal(2, 20, 1)},
     ["pi*(2*r)^2*h", "pi*(r/2)^2*h", "pi*r*h", "2*pi*r*h", "r^2*h"]),
    ("U/I", "ohm", False, {"U": whole(3, 240), "I": decimal(0.1, 5, 2)}, ["I/U", "U*I", "U/I*1000", "U-I"]),
    ("1/(1/R_1 + 1/R_2)", "ohm", False, {"R_1": whole(10, 400), "R_2": whole(10, 400)},
     ["R_1+R_2", "1/R_1+1/R_2", "(R_1+R_2)/2", "R_1*R_2"]),
    ("F*sin(alpha)", "N", True, {"F": whole(20, 400), "alpha": whole(10, 80)},
     ["F*cos(alpha)", "F*sin(alpha*180/pi)", "F/sin(alpha)", "F*round(sin(alpha), 1)", "F*round(sin(alpha), 2)"]),
    ("sqrt(a^2+b^2)", "cm", False, {"a": decimal(2, 20, 1), "b": decimal(2, 20, 1)},
     ["a+b", "a^2+b^2", "sqrt(abs(a^2-b^2))", "(a^2+b^2)/2"]),
    ("K*(1+p/100)^n", "", False, {"K": whole(500, 9000, 50), "p": decimal(1, 7, 1), "n": whole(2, 12)},
     ["K*(1+p*n/100)", "K*(1-p/100)^n", "K*(1+p/100)^(n-1)", "K*(1+p/100)^n-K"]),
    ("V*mat.density", "kg", False, {"V": decimal(0.1, 3, 2), "mat": metal},
     ["mat.density/V", "V*mat.heat", "V*7800", "V*mat.density*1000"]),
    ("m*mat.heat*(T_2-T_1)/1000", "kJ", False,
     {"m": decimal(0.2, 3, 1), "mat": metal, "T_1": whole(5, 30), "T_2": whole(50, 99)},
     ["m*mat.heat*(T_2+T_1)/1000", "m*mat.heat*T_2/1000", "m*mat.heat*(T_2-T_1)",
      "m*mat.heat*(T_2-T_1+273)/1000"]),
    ("(-b-sqrt(b^2-4*a*c))/(2*a)", "", False, {"a": whole(1, 5), "b": whole(12, 20), "c": whole(1, 6)},
     ["(b-sqrt(b^2-4*a*c))/(2*a)", "(-b-sqrt(b^2+4*a*c))/(2*a)", "(-b-sqrt(b^2-4*a*c))/2",
      "(-b+sqrt(b^2-4*a*c))/(2*a)"]),
    ("p*(1-r/100)", "", False, {"p": whole(20, 400), "r": whole(5, 40, 5)}, ["p*r/100", "p*(1+r/100)", "p-r"]),
    ("2*pi*sqrt(l/9.81)", "s", False, {"l": decimal(0.2, 4, 2)},
     ["2*pi*sqrt(9.81/l)", "2*pi*l/9.81", "pi*sqrt(l/9.81)", "2*pi*sqrt(l*100/9.81)"]),
]  # fmt: skip


def worth(formula: str, values: dict[str, Any], degrees: bool) -> float:
    flat: dict[str, Any] = {}
    for name, value in values.items():
        flat |= (
            {f"{name}.{column}": cell for column, cell in value.items()} if isinstance(value, dict) else {name: value}
        )
    settings = Settings("point", "degrees" if degrees else "radians", False, frozenset(flat))
    return approximate(Compiled(read_authored(formula, settings), settings.angle).value(case_values(flat, settings)))


def figures(value: float, count: int) -> str:
    """A value as a student writes it, to so many figures."""
    if not value:
        return "0"
    places = count - 1 - math.floor(math.log10(abs(value)))
    return f"{value:.{places}f}" if places >= 0 else str(round(value / 10**-places) * 10**-places)


def class_of(number: int, mistake: str, chosen: random.Random, size: int, made_it: int, count: int) -> dict[str, Any]:
    """A class in which so many made a mistake; of the others some are right, and the rest wrong anyhow."""
    key, unit, degrees, parameters, _ = KEYS[number]
    answers = []
    for k in range(size):
        values = {name: draw(chosen) for name, draw in parameters.items()}
        answer = worth(key, values, degrees) * (1 if chosen.random() < 0.6 else chosen.uniform(0.3, 2.5))
        if k < made_it:
            answer = worth(mistake, values, degrees)
        answers.append({"values": values, "response": f"{figures(answer, count)} {unit}".strip()})
    chosen.shuffle(answers)
    settings = {"angle": "degrees" if degrees else "radians"}
    return {"key": key, "unit": unit, "settings": settings, "answers": answers}


def names_it(claim: Claim, number: int, mistake: str, chosen: random.Random) -> bool:
    """Whether the formula of a claim is the mistake, by their values in other draws."""
    _, _, degrees, parameters, _ = KEYS[number]
    same = 0
    for _ in range(8):
        values = {name: draw(chosen) for name, draw in parameters.items()}
        try:
            one, other = worth(claim.formula, values, degrees), worth(mistake, values, degrees)
        except EvaluationError:
            continue
        same += math.isclose(one, other, rel_tol=1e-9)
    return same >= 3


def random_class(chosen: random.Random) -> dict[str, Any]:
    """A class in which nobody did anything in particular: what they wrote lies near the key, anywhere, or is small."""
    key, unit, degrees, parameters, _ = KEYS[chosen.randrange(len(KEYS))]
    kind, count = chosen.choice(["near", "close", "anywhere", "small"]), chosen.choice([2, 3, 4])
    answers = []
    for _ in range(chosen.choice([12, 25, 30])):
        values = {name: draw(chosen) for name, draw in parameters.items()}
        right = worth(key, values, degrees)
        answer = {
            "near": right * chosen.uniform(0.6, 1.4), "close": right * chosen.gauss(1, 0.05),
            "anywhere": right * 10 ** chosen.uniform(-2, 2), "small": float(chosen.randint(-20, 60)),
        }[kind]  # fmt: skip
        answers.append({"values": values, "response": f"{figures(answer, count)} {unit}".strip()})
    settings = {"angle": "degrees" if degrees else "radians"}
    return {"key": key, "unit": unit, "settings": settings, "answers": answers}


class Known(TestCase):
    """Classes in which something known was done."""

    def test_nine_of_ten_known_mistakes_are_among_the_first_two(self) -> None:
        chosen, missed, tried = random.Random(7), [], 0
        for number, (*_, mistakes) in enumerate(KEYS):
            for mistake in mistakes:
                size, made_it, count = chosen.choice([(30, 20, 3), (28, 9, 3), (25, 6, 4)])
                claims = class_mistakes(class_of(number, mistake, chosen, size, made_it, count))
                tried += 1
                if not any(names_it(claim, number, mistake, chosen) for claim in claims[:2]):
                    missed.append((KEYS[number][0], mistake, [claim.formula for claim in claims]))
        self.assertLessEqual(len(missed), tried // 10, missed)

    def test_a_claim_says_whom_it_explains_and_what_was_done(self) -> None:
        draws = [("2", "3"), ("4", "7"), ("5", "9"), ("6", "2"), ("8", "5")]
        answers = [{"values": {"m": m, "v": v}, "response": f"{int(m) * int(v) / 2} J"} for m, v in draws]
        answers.insert(2, {"values": {"m": "3", "v": "4"}, "response": "24 J"})
        answers.append({"values": {"m": "3", "v": "8"}, "response": "I do not know"})
        first = class_mistakes({"key": "m*v^2/2", "unit": "J", "answers": answers})[0]
        self.assertEqual(first, Claim("m*v/2", (0, 1, 3, 4, 5), "the square was left out: v instead of v^2"))

    def test_two_mistakes_of_one_class_are_two_claims(self) -> None:
        chosen = random.Random(3)
        given = class_of(0, "m*v/2", chosen, 12, 12, 4)
        given["answers"] += class_of(0, "m*v^2", chosen, 10, 10, 4)["answers"]
        one, other = class_mistakes(given)[:2]
        self.assertEqual([names_it(one, 0, "m*v/2", chosen), names_it(other, 0, "m*v^2", chosen)], [True, True])
        self.assertEqual((set(one.explains), set(other.explains)), (set(range(12)), set(range(12, 22))))

    def test_another_row_is_found_though_whoever_drew_it_is_right(self) -> None:
        chosen = random.Random(5)
        answers = []
        for k in range(20):
            own = METALS[k % 5]
            volume = chosen.uniform(0.2, 3)
            taken = METALS[(k + 1) % 5]
            answers.append(
                {
                    "values": {"V": f"{volume:.2f}", "mat": {"density": own[0]}},
                    "response": figures(float(f"{volume:.2f}") * float(taken[0]), 4) + " kg",
                }
            )
        first = class_mistakes({"key": "V*mat.density", "unit": "kg", "answers": answers})[0]
        self.assertEqual((len(first.explains), first.because), (20, "another row of the table mat"))

    def test_another_unit_of_the_answer_is_no_mistake(self) -> None:
        answers = [{"values": {"m": str(m)}, "response": f"{m / 1000} km"} for m in (3, 5, 8, 13)]
        self.assertEqual(class_mistakes({"key": "m", "unit": "m", "answers": answers}), [])


class Chance(TestCase):
    """Nothing is claimed where nothing was done."""

    def test_random_classes_yield_hardly_a_claim(self) -> None:
        chosen, claimed = random.Random(11), []
        for _ in range(45):
            given = random_class(chosen)
            claimed += [(given["key"], claim) for claim in class_mistakes(given)]
        self.assertLessEqual(len(claimed), 1, claimed)

    def test_the_same_wrong_number_of_all_is_no_formula(self) -> None:
        answers = [{"values": {"m": str(m), "v": str(m + 3)}, "response": "12"} for m in range(2, 20)]
        self.assertEqual(class_mistakes({"key": "m*v^2/2", "answers": answers}), [])

    def test_one_draw_that_all_had_says_too_little(self) -> None:
        answers = [{"values": {"m": "4", "v": "3"}, "response": "12"} for _ in range(20)]
        self.assertEqual(class_mistakes({"key": "m*v^2/2", "answers": answers}), [])


class Hostile(TestCase):
    """What is no class, and what takes long."""

    def test_values_that_are_none_are_passed_over(self) -> None:
        hostile: list[Any] = [None, 3, {"m": "1/0"}, {"m": {"a": None}}, {"m": "9" * 500}]
        for values in hostile:
            try:
                found = class_mistakes({"key": "m", "answers": [{"values": values, "response": ["x"]}] * 3})
            except ClassError as problem:
                self.assertTrue(str(problem))
            else:
                self.assertEqual(found, [])

    def test_a_key_that_takes_long_holds_nobody(self) -> None:
        key = "integral(sin(x^3+m)*exp(x)/ln(x+m), x, 2, 3)"
        answers = [{"values": {"m": str(m)}, "response": str(m * 1.7)} for m in range(3, 40)]
        self.assertEqual(class_mistakes({"key": key, "answers": answers}), [])

"""Every ready question's answers, worked out once more by plain Python written from what its wording says."""

import math
import statistics
from collections.abc import Callable
from fractions import Fraction
from itertools import combinations
from types import SimpleNamespace
from typing import Any
from unittest import TestCase

from flint import fmpq

from vorlage.core.algebra import Compiled, Real, approximate, to_fraction
from vorlage.core.answers.kinds.quantity import DrawnQuantity
from vorlage.core.notation import Collection, Node, line
from vorlage.core.questions import CompiledQuestion, DrawnQuestion, QuestionDrawing
from vorlage.library import ready_questions

DRAWS = 30
# One list for each question, an answer for each part: a number is compared with the key and typed, other answers are
# typed or chosen; None where nothing is asked.
SECOND: dict[str, Callable[[Any], list[Any]]] = {}


def second(name: str) -> Callable[[Callable[[Any], list[Any]]], Callable[[Any], list[Any]]]:
    def keep(function: Callable[[Any], list[Any]]) -> Callable[[Any], list[Any]]:
        SECOND[name] = function
        return function

    return keep


def lowest(top: int, bottom: int) -> str:
    common = math.gcd(top, bottom)
    return f"{top // common}/{bottom // common}" if bottom != common else str(top // common)


def signed(number: float) -> str:
    return f"+ {number:g}" if number >= 0 else f"- {-number:g}"


def roots_of(b: float, c: float) -> tuple[float, float]:
    """The roots of x² + bx + c."""
    half = math.sqrt(b * b / 4 - c)
    return -b / 2 - half, -b / 2 + half


# Each line: what is varied, read from the wording, and the answer by another way than the key's.
SECOND |= {
    "how-many-nets": lambda v: [sum(1 for _ in range(int(v.r), int(v.L) + 1, int(v.r)))],
    "share-of-the-catch": lambda v: [lowest(int(v.k), int(v.n))],
    "winter-price-of-the-ferry": lambda v: [v.p - v.q * v.p / 100],
    "two-brackets": lambda v: [f"x^2 {signed(v.a + v.b)} x {signed(v.a * v.b)}"],
    "when-is-the-quay-dry": lambda v: [f"x > {(v.b - v.c) / v.a:g}"],
    "between-the-tides": lambda v: [f"[{v.p:g}, {v.q:g})"],
    "doubling-of-the-algae": lambda v: [math.log2(v.b) / math.log2(v.a)],
    "how-fast-the-tide-rises": lambda v: [f"{3 * v.a:g} x^2 {signed(2 * v.b)} x {signed(v.c)}"],
    "from-speed-to-distance": lambda v: [f"{v.a:g} x^3/3 {signed(v.b)} x + 7"],
    "wind-and-current": lambda v: [f"({v.a + v.c:g}, {v.b + v.d:g})"],
    "stock-of-two-sheds": lambda v: [
        "matrix({:g}, {:g}; {:g}, {:g})".format(*(v.k * entry for entry in (v.a, v.b, v.c, v.d)))
    ],
    "the-slope-of-the-ramp": lambda v: [f"y = {v.m:g} x {signed(v.c)}"],
    "sand-on-the-beach": lambda v: [v.a * v.b * 10**9],
    "does-it-divide": lambda v: ["true" if int(v.n) in range(0, int(v.n) + 1, int(v.a)) else "false"],
    "two-from-the-crate": lambda v: [math.comb(int(v.r), 2) / math.comb(int(v.r + v.g), 2)],
    "ten-lobster-pots": lambda v: [
        math.comb(10, int(v.k)) * (v.p / 100) ** v.k * (1 - v.p / 100) ** (10 - v.k)
    ],
    "height-of-the-mast": lambda v: [math.sin(math.radians(v.w)) * v.d / math.cos(math.radians(v.w))],
    "speed-of-a-ferry": lambda v: [v.s / v.t],
    "from-force-to-work": lambda v: [v.m * 9.81, v.m * v.h * 9.81],
    "pressure-on-the-sea-bed": lambda v: [[1]],
    "energy-of-a-dinghy": lambda v: [0.5 * v.m * v.v * v.v],
    "two-lamps-on-the-pier": lambda v: [1 / (1 / v.R_1 + 1 / v.R_2)],
    "the-period-of-a-pendulum": lambda v: ["L = T^2 g/(4 pi^2)"],
    "a-tracer-decays": lambda v: [v.A * math.exp(-math.log(2) * v.t / v.h)],
    "which-unit-belongs-to-what": lambda v: [[1, 2, 3, 4]],
    "kind-of-wave": lambda v: ["Longitudinal"],
    "burning-the-stove-gas": lambda v: ["5 O2 + C3H8 -> 4 H2O + 3 CO2"],
    "salt-in-the-brine": lambda v: [v.m / 58.5],
    "how-sour-is-the-bilge": lambda v: [v.n - math.log10(v.a)],
    "which-are-metals": lambda v: [[1, 3, 5]],
    "why-ice-floats": lambda v: [None],
    "the-hauled-rope": lambda v: [(v.v - v.u) / v.t, v.u * v.t + (v.v - v.u) * v.t / 2],
    "the-top-of-the-throw": lambda v: [[(v.m, v.h + v.a * v.m**2)]],
    "gas-in-a-bottle": lambda v: [[[1], repr(v.T_2 / v.T_1), "quicker"]],
    "up-the-crane-s-ladder": lambda v: [None, v.m * 9.8, 9.8 * v.h * v.m, v.h * v.m * 9.8 / v.t],
    "the-stay-of-the-mast": lambda v: [math.hypot(v.h, v.b), math.degrees(math.atan2(v.h, v.b))],
    "who-keeps-what-at-the-harbour": lambda v: [[1, 2, 3]],
    "crates-in-rows": lambda v: [", ".join(f"{n} * {v.n / n:g}" for n in (2, 3, 4))],
    "brine-dilution": lambda v: [v.V / (v.s / v.c)],
    "brine-concentration": lambda v: [v.m / 58.5 / v.V],
    "anchor-rust": lambda v: [v.m / 55.8 * 2 / 4 * 159.6],
    "ferry-bearing": lambda v: [
        v.d * math.cos(math.radians(90 - v.b)), v.d * math.sin(math.radians(90 - v.b))
    ],
    "swing-bridge": lambda v: [f"{v.w:g}/360 * 2 pi * {v.r:g}"],
    "crates-equation": lambda v: [(v.T - v.s) / v.n],
    "catch-mean": lambda v: [
        statistics.fmean([v.a, v.b, v.c, v.d, v.f]), statistics.median([v.a, v.b, v.c, v.d, v.f])
    ],
    "catch-price": lambda v: [(v.p + v.p * v.u / 100) - (v.p + v.p * v.u / 100) * v.w / 100],
    "tide-gauge": lambda v: [v.m + v.a * math.sin(math.pi * v.h / 6)],
    "foghorn": lambda v: [v.v * (1 / v.f)],
    "harbour-crane": lambda v: [v.m * 9.81 * v.h * 1e-3, v.m * 9.81 * v.h / v.t * 1e-3],
    "ice-plant": lambda v: [(4.18 * v.m * v.w + 334 * v.m) / 1000],
    "lighthouse-lamps": lambda v: [1 / (1 / v.R + 1 / v.S), v.U / v.R + v.U / v.S],
    "lock-gate": lambda v: [v.F * v.d, v.F * v.d / v.s],
    "sea-chest": lambda v: [v.m / v.V / 1025 * 100],
}  # fmt: skip


@second("loaves-for-the-crew")
def loaves(v: Any) -> list[Any]:
    loaves = sum((Fraction(int(v.a), int(v.b)) for _ in range(int(v.n))), Fraction(0))
    whole, rest = divmod(loaves.numerator, loaves.denominator)
    return [f"{whole} {rest}/{loaves.denominator}"]


@second("a-loan-for-a-boat")
def loan(v: Any) -> list[Any]:
    owed = v.K
    for _ in range(int(v.n)):
        owed += owed * v.r / 100
    return [owed]


@second("back-to-two-brackets")
def brackets(v: Any) -> list[Any]:
    first, other = roots_of(*v.f)
    return [f"(x {signed(-other)})(x {signed(-first)})"]


@second("a-square-made-whole")
def square(v: Any) -> list[Any]:
    b, c = v.f
    return [f"(x {signed(b / 2)})^2 {signed(c - b * b / 4)}"]


@second("where-the-arch-meets-the-water")
def arch(v: Any) -> list[Any]:
    return ["{{{:g}, {:g}}}".format(*roots_of(*v.f))]


@second("two-kinds-of-ticket")
def tickets(v: Any) -> list[Any]:
    paid = [
        (child, adult)
        for child in range(1, 40)
        for adult in range(1, 40)
        if v.a * child + v.b * adult == v.c and v.p * child + v.q * adult == v.d
    ]
    assert len(paid) == 1 and paid[0][0] < paid[0][1]
    return [str(paid[0])]


@second("a-line-through-two-buoys")
def buoys(v: Any) -> list[Any]:
    return [f"({v.y_2 - v.y_1:g}) x - ({v.x_2 - v.x_1:g}) y = {v.x_1 * v.y_2 * -1 + v.x_2 * v.y_1:g} * -1"]


@second("under-the-wave")
def wave(v: Any) -> list[Any]:
    # Simpson's rule is exact for a parabola
    return [v.h / 6 * (0 + 4 * v.a * (v.h / 2) ** 2 + v.a * v.h**2)]


@second("eight-mackerel")
def mackerel(v: Any) -> list[Any]:
    assert len(v.d) == 8
    ordered = sorted(v.d)
    return [sum(v.d) / 8, (ordered[3] + ordered[4]) / 2]


@second("from-the-smallest-to-the-largest")
def order(v: Any) -> list[Any]:
    values = [1 / (v.n + 1), 1 / v.n, v.n / (v.n + 1), (v.n + 1) / v.n]
    return [[1 + values.index(value) for value in sorted(values)]]


@second("sine-of-a-special-angle")
def sine(v: Any) -> list[Any]:
    # the square of the sine is 1/4, 1/2 or 3/4
    quarters = round(4 * math.sin(math.radians(v.w)) ** 2)
    return [{1: "1/2", 2: "sqrt(2)/2", 3: "sqrt(3)/2"}[quarters]]


@second("a-product-of-complex-numbers")
def product(v: Any) -> list[Any]:
    found = complex(v.a, v.b) * complex(v.c, v.d)
    return [f"{found.real:g} {signed(found.imag)} i"]


@second("mass-of-a-block")
def block(v: Any) -> list[Any]:
    return [{"oak": 710, "steel": 7850, "cork": 240, "granite": 2700}[v.material_name] * v.V]


@second("formula-of-a-salt")
def salt(v: Any) -> list[Any]:
    # charges of the ions, and how many of each make them even
    metals = {"calcium": ("Ca", 2), "sodium": ("Na", 1), "magnesium": ("Mg", 2), "aluminium": ("Al", 3),
              "potassium": ("K", 1)}  # fmt: skip
    others = {"chloride": ("Cl", 1), "sulphate": ("SO4", 2), "oxide": ("O", 2), "nitrate": ("NO3", 1)}
    (metal, plus), (other, minus) = (table[word] for table, word in zip((metals, others), v.salt_name.split()))
    common = math.lcm(plus, minus)
    return [
        "".join(
            ion + (str(count) if count > 1 else "")
            for ion, count in ((metal, common // plus), (other, common // minus))
        )
    ]


@second("a-crate-for-the-far-shelf")
def shelf(v: Any) -> list[Any]:
    return [str(next(n for n in range(int(v.low) + 1, int(v.high)) if n % v.n == 0))]


@second("ferry-vans")
def vans(v: Any) -> list[Any]:
    vehicles = ["van"] * int(v.k) + ["car"] * int(v.n - v.k)
    pairs = list(combinations(vehicles, 2))
    return [lowest(sum(pair == ("van", "van") for pair in pairs), len(pairs))]


@second("deck-area")
def deck(v: Any) -> list[Any]:
    return [f"x^2 + {v.a + v.b:g} x + {v.a * v.b:g}"]


@second("quay-quadratic")
def quay(v: Any) -> list[Any]:
    b, c = -(v.r + v.s), v.r * v.s
    first, other = roots_of(b, c)
    return [f"(x {signed(-first)})(x {signed(-other)})", first]


@second("rope-slope")
def slope(v: Any) -> list[Any]:
    # level where the parabola has its axis, half way between its zeros 0 and b/a
    return [f"{v.a + v.a:g} x - {v.b:g}", v.b / v.a / 2]


def values_of(item: DrawnQuestion) -> SimpleNamespace:
    """The values as Python's; a quadratic in x as its two lower coefficients, a list as a list."""
    found: dict[str, Any] = {}
    for name, value in item.values.items():
        plain: Any = value
        if isinstance(value, fmpq):
            plain = float(to_fraction(value))
        elif isinstance(value, Real):
            plain = approximate(value)
        elif not isinstance(value, str):
            plain = (
                [approximate(worth(item)) for item in value.items] if isinstance(value, Collection) else lower(value)
            )
        found[name.replace(".", "_")] = plain
    return SimpleNamespace(**found)


def worth(tree: Node, **values: int) -> Any:
    return Compiled(tree).value({name: fmpq(value) for name, value in values.items()})


def lower(tree: Node) -> tuple[float, float]:
    """b and c of x² + b x + c, from its values at 0, 1 and -1."""
    at = {x: approximate(worth(tree, x=x)) for x in (-1, 0, 1)}
    return (at[1] - at[-1]) / 2, at[0]


class Compared(TestCase):
    """Answers that were worked out otherwise beside the keys."""

    def compare(self, item: DrawnQuestion, part: int, wanted: Any) -> None:
        answer: Any = item.answers[part]
        if wanted is None:
            return
        response = wanted
        if isinstance(wanted, int | float):
            number = answer.number if isinstance(answer, DrawnQuantity) else answer
            self.assertAlmostEqual(approximate(number.key) / wanted if wanted else 1, 1, 9)
            response = line(answer.key_tree())
        verdict = answer.check(response)
        self.assertEqual(verdict.outcome, "right", (response, verdict.feedback))


class SecondWay(Compared):
    def test_every_ready_question_has_one(self) -> None:
        self.assertEqual(set(SECOND), set(ready_questions()))

    def test_every_key_is_what_the_wording_says(self) -> None:
        for name, ready in ready_questions().items():
            question = CompiledQuestion(ready.document)
            for number in range(1, min(DRAWS, question.parameters.count or DRAWS) + 1):
                item = QuestionDrawing(question, name, 1).draw(number)
                for part, wanted in enumerate(SECOND[name](values_of(item))):
                    with self.subTest(name, draw=number, part=part):
                        self.compare(item, part, wanted)

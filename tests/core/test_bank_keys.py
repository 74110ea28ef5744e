"""The answers of every question of the demo's bank, worked out once more by plain Python from what its wording says."""

import math
import statistics
from collections.abc import Callable
from fractions import Fraction
from itertools import product
from typing import Any

from vorlage.core.forms import make_forms
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import CompiledQuestion, QuestionDrawing, diagnose
from vorlage.library import bank, ready_questions, samples

from .test_second_way import Compared, lowest, roots_of, signed, values_of

DRAWS = 8
G, DENSITY = 9.81, 1025


def sin(degrees: float) -> float:
    return math.sin(math.radians(degrees))


def cos(degrees: float) -> float:
    return math.cos(math.radians(degrees))


def meeting(a: float, b: float) -> int:
    """The first minute after the start at which both leave."""
    return next(t for t in range(1, 10_000) if t % a == 0 and t % b == 0)


def common(a: float, b: float) -> int:
    return max(n for n in range(1, int(min(a, b)) + 1) if a % n == 0 and b % n == 0)


def primes(n: float) -> bool:
    return all(n % k for k in range(2, int(n)))


def summed(rate: Callable[[float], float], end: float, steps: int = 2_000) -> float:
    """The area below a graph, by Simpson's rule."""
    width = end / steps
    weights = [*[1, *([4, 2] * (steps // 2))][:steps], 1]
    return width / 3 * sum(weight * rate(k * width) for k, weight in enumerate(weights))


def slope(function: Callable[[float], float], x: float) -> float:
    return (function(x + 1e-5) - function(x - 1e-5)) / 2e-5


def chance_above(z: float) -> float:
    """How much of a normal distribution lies above so many standard deviations."""
    return 0.5 - summed(lambda x: math.exp(-x * x / 2) / math.sqrt(2 * math.pi), z)


def half(number: float) -> str:
    return f"{number / 2:g}"


def combined(*numbers: float) -> float:
    """Resistances, or focal lengths, of which the reciprocals add up."""
    return 1 / sum(1 / number for number in numbers)


KEYS: dict[str, Callable[[Any], list[Any]]] = {
    # mathematics
    "boxes-on-a-pallet": lambda v: [len(range(0, int(v.k), int(v.n)))],
    "when-both-ferries-leave": lambda v: [meeting(v.a, v.b)],
    "rope-in-equal-pieces": lambda v: [common(v.a, v.b), v.a / common(v.a, v.b) + v.b / common(v.a, v.b)],
    "herring-between-two-boats": lambda v: [v.T * v.p / (v.p + v.q)],
    "a-wide-sea-in-standard-form": lambda v: [f"{v.m:g}*10^{v.n:g}"],
    "fractions-of-a-tank": lambda v: [
        str(Fraction(int(v.a), int(v.b)) - Fraction(int(v.c), int(v.d)))
    ],
    "is-it-a-prime-number": lambda v: ["true" if primes(v.n) else "false"],
    "a-number-for-the-gate": lambda v: [
        str(next(n for n in range(10, 100) if n % v.a == 0 and n % v.b == 1))
    ],
    "the-lift-at-the-shipyard": lambda v: [len(range(int(v.b), int(v.a)))],
    "rounding-the-depth": lambda v: [f"{v.d:.2f}", int(v.d + 0.5)],
    "a-discount-at-the-chandlery": lambda v: [v.p * 100 / (100 - v.r)],
    "value-of-a-trawler": lambda v: [v.P * math.exp(v.n * math.log(1 - v.r / 100))],
    "tidying-an-expression": lambda v: [f"{v.a - v.c:g} x + {v.b + v.d:g}"],
    "hire-of-a-rowing-boat": lambda v: [next(n for n in range(50) if v.g + n * v.h == v.T)],
    "taking-out-a-factor": lambda v: [f"{v.k:g} x ({v.a:g} x + {v.b:g})"],
    "making-the-height-the-subject": lambda v: ["h = V/(r*r*pi)"],
    "how-deep-may-it-be": lambda v: [f"x >= {(v.c + v.b) / v.a:g}"],
    "the-arch-of-the-swing-bridge": lambda v: ["{{{:g}, {:g}}}".format(*roots_of(-(v.r + v.s), v.r * v.s))],
    "powers-of-the-same-base": lambda v: [f"x^{v.a + v.b - v.c:g}"],
    "a-root-made-simple": lambda v: [max(k for k in range(1, 20) if v.n % (k * k) == 0)],
    "logarithm-of-a-sound-level": lambda v: [math.exp(v.a * math.log(10))],
    "rows-of-bollards": lambda v: [
        f"{v.d:g} k {signed(v.a - v.d)}", [*range(int(v.a), 999, int(v.d))][int(v.n) - 1],
        sum([*range(int(v.a), 999, int(v.d))][: int(v.n)]),
    ],
    "a-bouncing-fender": lambda v: [v.h * math.prod([v.p / 100] * int(v.n))],
    "the-gangway": lambda v: [math.hypot(v.b, v.h)],
    "angles-at-the-mooring": lambda v: [90 - v.a + 90 - v.b],
    "a-round-tank": lambda v: [math.pi * v.d * v.d / 4 * v.h, math.pi * v.d * v.d / 4 * v.h / v.r],
    "a-field-of-nets": lambda v: [v.c * v.h + (v.a - v.c) * v.h / 2],
    "distance-between-two-buoys": lambda v: [
        math.dist((v.x_1, v.y_1), (v.x_2, v.y_2)), f"({half(v.x_1 + v.x_2)}, {half(v.y_1 + v.y_2)})"
    ],
    "scale-of-the-chart": lambda v: [v.d * 1000 * v.k / 100_000],
    "which-turns-are-symmetries": lambda v: [[k for k, w in enumerate((60, 90, 120, 150, 180), 1) if w % 60 == 0]],
    "from-boat-to-lighthouse": lambda v: [v.h * cos(v.w) / sin(v.w)],
    "two-bearings-of-a-wreck": lambda v: [v.d * sin(v.b) / sin(v.a + v.b)],
    "the-boom-of-the-crane": lambda v: [math.dist((v.a, 0), (v.b * cos(v.w), v.b * sin(v.w)))],
    "when-the-tide-is-highest": lambda v: [
        max(v.m + v.a * sin(30 * t / 10) for t in range(240)),
        max(range(240), key=lambda t: (v.m + v.a * sin(3 * t), -t)) / 10,
    ],
    "a-taxi-boat": lambda v: [f"y = {(v.q - v.p) / 5:g} x + {v.p - 2 * (v.q - v.p) / 5:g}"],
    "where-the-graph-is-lowest": lambda v: [[(v.h, v.k)]],
    "which-graph-belongs-to-what": lambda v: [[1, 2, 3, 4]],
    "a-function-of-a-function": lambda v: [(lambda x: v.a * x + v.b)(v.c * v.c)],
    "the-steepest-part-of-the-ramp": lambda v: [
        f"{3 * v.a:g} x^2 - {2 * v.b:g} x", round(slope(lambda x: v.a * x**3 - v.b * x * x, v.p))
    ],
    "the-largest-pen": lambda v: [max(x * (v.L - 2 * x) for x in range(1, int(v.L / 2)))],
    "product-of-two-functions": lambda v: [f"x^{v.n - 1:g} e^({v.a:g} x) ({v.n:g} + {v.a:g} x)"],
    "water-through-the-sluice": lambda v: [round(summed(lambda t: v.a * t + v.b, v.T), 6)],
    "an-antiderivative-by-parts": lambda v: [f"x/{v.a:g} e^({v.a:g} x) - e^({v.a:g} x)/{v.a**2:g}"],
    "course-over-ground": lambda v: [
        f"vec({v.a + v.c:g}, {v.b + v.d:g})", abs(complex(v.a, v.b) + complex(v.c, v.d))
    ],
    "angle-between-two-ropes": lambda v: [
        math.degrees(math.atan2(v.d, v.c) - math.atan2(v.b, v.a))
    ],
    "loads-of-two-ships": lambda v: [f"vec({v.a * v.x + v.b * v.y:g}, {v.c * v.x + v.d * v.y:g})"],
    "a-determinant": lambda v: [v.d * v.a - v.c * v.b],
    "waiting-for-the-ferry": lambda v: [
        sorted(v.d)[3], sorted(v.d)[-1] - sorted(v.d)[0], round(statistics.fmean(v.d), 10)
    ],
    "mean-of-a-table": lambda v: [
        statistics.fmean([0] * int(v.a) + [1] * int(v.b) + [2] * int(v.c) + [3] * int(v.d))
    ],
    "catch-against-temperature": lambda v: [[1, 2, 3, 4]],
    "a-fair-wheel-at-the-harbour-fair": lambda v: [
        lowest(int(v.k**2), int(v.n**2)), lowest(int(v.n**2 - v.k**2), int(v.n**2))
    ],
    "masses-of-mackerel": lambda v: [chance_above((v.x - v.m) / v.s)],
    "choosing-a-crew": lambda v: [math.comb(int(v.n), int(v.k))],
    # physics
    "the-pilot-boat": lambda v: [v.s / (v.t / 60)],
    "braking-ferry": lambda v: [-(v.u - v.v) / v.t, v.v * v.t + (v.u - v.v) * v.t / 2],
    "a-spanner-falls-from-the-crane": lambda v: [math.sqrt(v.h / (G / 2)), math.sqrt(2 * G * v.h)],
    "reading-a-journey": lambda v: [v.d / v.a, v.a + v.b - v.a],
    "a-line-thrown-ashore": lambda v: [
        (v.v * sin(v.w)) ** 2 / 2 / G, v.v * cos(v.w) * 2 * v.v * sin(v.w) / G
    ],
    "pulling-a-dinghy": lambda v: [v.F / v.m - v.R / v.m],
    "stretching-a-mooring-spring": lambda v: [v.F / v.x, v.F * v.x / 2],
    "which-of-these-are-vectors": lambda v: [[1, 3, 5]],
    "balance-of-a-seesaw-plank": lambda v: [v.d * (v.m / v.M)],
    "two-tugs": lambda v: [abs(complex(v.F, v.G))],
    "recoil-of-a-boat": lambda v: [v.v * v.m / v.M],
    "density-of-ballast": lambda v: [v.m / v.V],
    "pressure-at-the-sluice": lambda v: [v.h * DENSITY * G],
    "does-it-float": lambda v: [[1, 2, 3, 4]],
    "a-hydraulic-jack": lambda v: [v.F / v.a * v.A],
    "hauling-up-the-boats": lambda v: [v.P * v.t * 60 / 3600],
    "efficiency-of-a-pump": lambda v: [v.m * G * v.h * 1e-3, v.m * G * v.h / (v.E * 10)],
    "a-buoy-on-the-waves": lambda v: [G * v.h * v.m],
    "where-the-energy-goes": lambda v: [[1, 2, 3, 4]],
    "why-a-bulb-warms-the-room": lambda v: [None],
    "warming-the-wheelhouse": lambda v: [v.T * v.m],
    "mixing-two-waters": lambda v: [v.b + (v.a - v.b) * v.m / (v.m + v.M)],
    "how-the-bridge-grows-in-summer": lambda v: [v.L * v.T * 12e-3],
    "how-heat-travels": lambda v: [["conduction", "Convection", "radiation"]],
    "air-in-a-diver-s-bell": lambda v: [v.V / (v.q / 100)],
    "swell-at-the-pier": lambda v: [1 / (v.t / v.n), v.l / (v.t / v.n)],
    "echo-sounder": lambda v: [v.v * v.t / 1000 / 2],
    "parts-of-a-wave": lambda v: [[(1, v.A)]],
    "light-into-the-water": lambda v: [math.degrees(math.asin(sin(v.a) / 1.33))],
    "the-lens-of-the-lighthouse": lambda v: [combined(v.f, -v.a)],
    "current-through-a-heater": lambda v: [v.P / 230, 230**2 / v.P],
    "resistors-in-a-row": lambda v: [
        sum([v.a, v.b, v.c]), v.U / sum([v.a, v.b, v.c]) * 1000, v.U * (1 - (v.b + v.c) / (v.a + v.b + v.c))
    ],
    "a-long-cable-to-the-buoy": lambda v: [v.l / v.A * 17.5e-3],
    "meters-in-a-circuit": lambda v: [[[1], [1]]],
    "a-transformer-on-the-pier": lambda v: [v.n / 230 * v.U],
    "a-lantern-swings": lambda v: [math.tau / math.sqrt(G / v.l)],
    "spring-and-fender": lambda v: [math.tau / math.sqrt(v.D / v.m)],
    "dating-a-wreck": lambda v: [-5730 * math.log(v.p / 100) / math.log(2)],
    "kinds-of-radiation": lambda v: [[1, 2, 3]],
    # chemistry
    "particles-of-an-atom": lambda v: [
        {"sodium": 12, "aluminium": 14, "phosphorus": 16, "manganese": 30, "cobalt": 32, "iodine": 74,
         "gold": 118}[v.el_name],
        {"sodium": 10, "aluminium": 12, "phosphorus": 14, "manganese": 24, "cobalt": 26, "iodine": 52,
         "gold": 78}[v.el_name],
    ],
    # shells hold 2, 8 and 8
    "electrons-in-shells": lambda v: [v.el_Z - 2 if v.el_Z <= 10 else v.el_Z - 10],
    "mean-mass-of-copper": lambda v: [(63 * v.p + 65 * (100 - v.p)) / 100],
    "rust-balanced": lambda v: ["8 Fe + 6 O2 -> 4 Fe2O3"],
    "lime-in-the-kettle": lambda v: ["CaCO3 -> CO2 + CaO"],
    "numbers-before-the-formulas": lambda v: [[
        next([str(a), str(b), str(c)] for a, b, c in product(range(1, 9), repeat=3) if a == 2 * c and 2 * b == 3 * c)
    ][0]],
    "names-of-ions": lambda v: [[1, 2, 3, 4]],
    "salt-from-its-ions": lambda v: ["MgCl2"],
    "molar-mass": lambda v: [100.1],
    "how-much-carbon-dioxide": lambda v: [v.m / 44.1, 3 * v.m / 44.1, 24 * 3 * v.m / 44.1],
    "zinc-against-rust": lambda v: [v.m / 65.4, v.m / 65.4 * 6.02],
    "yield-of-soap": lambda v: [v.a / v.T * 100],
    "what-limits-the-reaction": lambda v: [v.a if v.a / 2 < v.b else v.b * 2],
    "vinegar-in-the-galley": lambda v: [v.W / v.V * v.c],
    "salt-in-sea-water": lambda v: [v.m * (1000 / v.V)],
    "ph-of-a-cleaner": lambda v: [-math.log10(v.a * 10**-v.n)],
    "acid-neutral-or-alkaline": lambda v: [[1, 2, 3, 4, 5]],
    "a-test-for-a-gas": lambda v: [[2]],
    "what-makes-it-faster": lambda v: [[1, 2, 4]],
    "rate-of-a-reaction": lambda v: [v.V / v.t],
    "heat-of-a-hand-warmer": lambda v: [4.18 * v.m * v.T / 1000],
    "which-is-oxidised": lambda v: ["true"],
    "why-ships-carry-blocks-of-zinc": lambda v: [None],
    "an-equilibrium-is-pushed": lambda v: [[[1], [1]]],
    "a-first-order-decay": lambda v: [-math.log(0.1) / v.k],
    # biology
    "under-the-microscope": lambda v: [v.d / v.M * 1000],
    "parts-of-a-cell": lambda v: [[1, 2, 3, 4]],
    "algae-divide": lambda v: [v.n * math.prod([2] * int(v.k))],
    "the-word-equation": lambda v: [["water", "oxygen"]],
    "who-eats-whom": lambda v: [[1, 2, 3, 4]],
    "energy-along-the-chain": lambda v: [v.E / 10 / 10],
    "counting-the-crabs": lambda v: [v.n / v.k * v.m],
    "water-into-the-cell": lambda v: [[[1], "osmosis"]],
    "two-colours-of-mussel": lambda v: [v.n * [*map(set, product("Dd", repeat=2))].count({"d"}) / 4],
    "a-rare-colour": lambda v: [(lambda q: 2 * q * (1 - q) * 100)(math.sqrt(1 / (v.n * 1000)))],
    "what-helps-the-heart": lambda v: [None],
    # earth science
    "pressure-on-the-barometer": lambda v: [(v.p - v.q) / v.t],
    "cooler-up-the-hill": lambda v: [v.T - 0.01 * v.h],
    "humidity-in-the-fish-hall": lambda v: [v.a / v.s * 100],
    "where-the-wind-comes-from": lambda v: ["true"],
    "a-spreading-sea-floor": lambda v: [v.v * 1e-6 * v.n * 1e6],
    "from-sand-to-stone": lambda v: [[1, 2, 3, 4, 5]],
    "how-far-away-was-the-quake": lambda v: [v.t * 6.0 * 3.5 / (6.0 - 3.5)],
    "kinds-of-rock": lambda v: [[1, 2, 3]],
    "age-of-the-layer": lambda v: [v.d * 10 / v.r],
}  # fmt: skip


def on_time(v: Any) -> list[Any]:
    """Every way in which the days can turn out."""
    ways = product((True, False), repeat=int(v.n))
    return [sum(math.prod(v.p if each else 1 - v.p for each in way) for way in ways if sum(way) == v.k)]


def two_loads(v: Any) -> list[Any]:
    return [str(next((x, y) for x, y in product(range(100), repeat=2) if 3 * x + 2 * y == v.c and x + 2 * y == v.d))]


KEYS |= {"arrivals-on-time": on_time, "two-loads-on-a-scale": two_loads}
# What may be said of a question that is as it should be.
HARMLESS = {"fixed", "few", "same", "negative"}


class BankKeys(Compared):
    def test_the_bank_is_large_enough_and_of_many_kinds(self) -> None:
        there = bank()
        self.assertGreaterEqual(len(there) + len(samples()), 150)
        self.assertFalse(set(there) & set(samples()))
        subjects = {filing.topic[0] for _, filing in there.values()}
        self.assertEqual(subjects, {"Mathematics", "Physics", "Chemistry", "Biology", "Earth science"})
        kinds = {part.answer.kind for document, _ in there.values() for part in document.parts}
        self.assertGreaterEqual(len(kinds), 18)
        self.assertEqual({filing.level for _, filing in there.values()}, {1, 2, 3, 4, 5})
        for count, words in ((4, "figures"), (2, "tables")):
            self.assertGreaterEqual(sum(bool(getattr(document, words)) for document, _ in there.values()), count)
        carried = sum(any(part.gives for part in document.parts) for document, _ in there.values())
        self.assertGreaterEqual(carried, 10)
        for document, filing in there.values():
            self.assertTrue(filing.minutes and filing.tags, document.title)

    def test_every_question_goes_on_forms(self) -> None:
        """Those to start from, too: their keys are proved as they are printed."""
        documents = {name: document for name, (document, _) in bank().items()}
        documents |= {name: each.document for name, each in ready_questions().items()}
        plan = Plan("All", [Place(CompiledQuestion(document), name, 1) for name, document in documents.items()])
        made = make_forms(plan, 2, "seed")
        self.assertEqual([len(form.items) for form in made.forms], [len(documents)] * 2)

    def test_every_question_has_a_second_way(self) -> None:
        self.assertEqual(set(KEYS), set(bank()))

    def test_every_key_is_what_the_wording_says(self) -> None:
        for name, (document, _) in bank().items():
            question = CompiledQuestion(document)
            drawn = []
            for number in range(1, min(DRAWS, question.parameters.count or DRAWS) + 1):
                item = QuestionDrawing(question, name, 1).draw(number)
                drawn.append(item)
                for part, wanted in enumerate(KEYS[name](values_of(item))):
                    with self.subTest(name, draw=number, part=part):
                        self.compare(item, part, wanted)
            with self.subTest(name):
                told = [warning for warning in diagnose(question, drawn) if warning.code not in HARMLESS]
                self.assertEqual((question.problems, question.doubts, told), ([], [], []))

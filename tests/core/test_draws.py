"""Parameters and draws: what a definition means, which draws there are, and that they stay the same for ever."""

import statistics
from itertools import product
from math import gcd
from typing import Any
from unittest import TestCase, mock

from flint import fmpq
from hypothesis import given, settings
from hypothesis import strategies as st

from vorlage.core.algebra import Condition, OutOfSteps, allowed, approximate
from vorlage.core.draws import (
    DataColumn,
    Declaration,
    DrawError,
    Drawing,
    Parameters,
    Shown,
    read_definition,
    read_shown,
    readable,
    shown_value,
)
from vorlage.core.draws.listings import Listing
from vorlage.core.draws.stream import Stream, permuted, stream_key
from vorlage.core.memory import Memory
from vorlage.core.notation import Number, Settings, line, read


def parameters(rows: str, *conditions: str) -> Parameters:
    """Rows written ``a: 2..9; b: a + 1``."""
    split = [row.split(":") for row in rows.split(";") if row.strip()]
    return Parameters([Declaration(name.strip(), definition.strip()) for name, definition in split], conditions)


def texts(values: object) -> dict[str, str]:
    return {name: line(readable(value)) for name, value in dict(values).items()}  # type: ignore[call-overload]


class Definitions(TestCase):
    def test_ranges_and_choices(self) -> None:
        for text, expected in [
            ("2..5", "2 3 4 5"), ("-2..2 except 0", "-2 -1 1 2"), ("0.5..1.5 step 0.25", "0.5 0.75 1 1.25 1.5"),
            ("1..10 step 4", "1 5 9"), ("one of 3, 5, 7", "3 5 7"), ("one of 1/3, sqrt(9)", "1/3 3"), ("4..4", "4"),
            ("0..10 step 5 except 5, 7", "0 10"), ('one of "oak", "steel"', '"oak" "steel"'),
        ]:  # fmt: skip
            with self.subTest(text):
                found = read_definition(text, Settings())
                shown = [line(readable(found.value(k))) for k in range(found.size)]  # type: ignore[union-attr]
                self.assertEqual(" ".join(shown), expected)

    def test_errors_stand_at_their_row_with_the_place(self) -> None:
        for rows, conditions, said, row, place in [
            ("a: 150..", [], "`150..` needs an upper limit, such as `150..300`.", ("parameter", 0), 3),
            ("a: 2..", [], "`2..` needs an upper limit, such as `2..9`.", ("parameter", 0), 1),
            ("a: ..9", [], "needs a lower limit", ("parameter", 0), 0),
            ("a: 9..2", [], "put the smaller limit first", ("parameter", 0), 0),
            ("a: 2..9 step", [], "step is missing", ("parameter", 0), 4),
            ("a: 2..9 step 0", [], "more than 0", ("parameter", 0), 9),
            ("a: 1; b: 3 +", [], "missing after", ("parameter", 1), 2),
            ("a: b; b: a + 1", [], "circle: a needs b needs a", ("parameter", 0), 0),
            ("a: 2..9; a: 3", [], "defined twice", ("parameter", 1), 0),
            ("sin: 2..9", [], "already means something", ("parameter", 0), 0),
            ("a: 2..9", ["a > 20"], "rejects 100%", ("condition", 0), 0),
            ("a: 2..9", ["a < k"], "k is not a parameter", ("condition", 0), 4),
            ("a: 2..9", ["a + 1"], "compares two things", ("condition", 0), 0),
            ("a: 1..9000000", [], "a wider step is needed", ("parameter", 0), 0),
        ]:  # fmt: skip
            with self.subTest(rows):
                errors = parameters(rows, *conditions).errors
                self.assertEqual(len(errors), 1, errors)
                self.assertIn(said, errors[0].message)
                self.assertEqual((errors[0].row, errors[0].place), (row, place))


class Drawings(TestCase):
    def test_draws_are_counted_exactly_and_come_without_repeats(self) -> None:
        found = parameters("a: 2..9; b: 2..9; s: a + b; c: 1..3", "gcd(a, b) = 1", "s < 15")
        expected = 3 * sum(gcd(a, b) == 1 and a + b < 15 for a, b in product(range(2, 10), repeat=2))
        self.assertEqual(found.count, expected)
        drawing = Drawing(found, "count", 1)
        draws = {tuple(sorted(texts(drawing.draw(n).values).items())) for n in range(1, expected + 1)}
        self.assertEqual(len(draws), expected)
        again = {tuple(sorted(texts(drawing.draw(n).values).items())) for n in range(expected + 1, 2 * expected + 1)}
        self.assertEqual(draws, again)

    def test_a_draw_is_the_same_for_ever(self) -> None:
        """These values were drawn once and must never change: papers in drawers depend on them."""
        found = parameters("m: 150..600 step 50; h: 4..9 step 0.2; E: m*9.81*h/1000", "E < 50")
        drawing = Drawing(found, "harbour-crane", 3)
        self.assertEqual([texts(drawing.draw(n).values)["m"] for n in range(1, 9)], FIXED_MASSES)
        free = parameters("x: 1..300; y: 1..300; z: 1..300", "x + y > z")
        self.assertIsNone(free.count)
        self.assertEqual(texts(Drawing(free, "free", 1).draw(7).values), FIXED_FREE)

    def test_another_revision_draws_other_values(self) -> None:
        found = parameters("a: 1..1000; b: 1..1000")
        first = [texts(Drawing(found, "q", 1).draw(n).values) for n in range(1, 20)]
        second = [texts(Drawing(found, "q", 2).draw(n).values) for n in range(1, 20)]
        self.assertNotEqual(first, second)

    @settings(max_examples=30)
    @given(st.integers(1, 12), st.integers(2, 12), st.integers(1, 10**9))
    def test_every_draw_meets_its_conditions(self, low: int, width: int, number: int) -> None:
        found = parameters(f"a: {low}..{low + width}; b: {low}..{low + width}; d: a - b", "a > b", "d < 9")
        self.assertFalse(found.errors)
        values = Drawing(found, "hypothesis", 1).draw(number).values
        self.assertGreater(values["a"], values["b"])  # type: ignore[type-var]
        self.assertLess(values["d"], 9)  # type: ignore[operator]

    def test_conditions_that_take_too_many_steps_are_told_at_their_row(self) -> None:
        roots, small = "sqrt(a) + sqrt(b) = sqrt(a + b + 2*sqrt(a*b)) + 0", "a < 80"
        with mock.patch("vorlage.core.draws.parameters.MAXIMUM_STEPS", 200_000):
            listed = parameters("a: 1..90; b: 1..90", small, roots)
            tried = parameters("a: 1..900; b: 1..900", "a < 800", roots)
            quick = parameters("a: 1..90; b: 1..90", small, "a*b + a - b < 5000")
        for found, count in [(listed, 8100), (tried, 810000)]:
            (problem,) = found.errors
            self.assertEqual((problem.code, problem.row), ("too_costly", ("condition", 1)))
            self.assertIn(f"there are {count} combinations of a, b", problem.message)
        self.assertFalse(quick.errors)
        # without the small bound all of it is tried, and the same steps are counted each time
        self.assertFalse(parameters("a: 1..20; b: 1..20", small, roots).errors)
        drawing = Drawing(parameters("a: 1..900; b: 1..900", small, "sqrt(a) < sqrt(b)"), "costly", 1)
        with mock.patch("vorlage.core.draws.parameters.MAXIMUM_STEPS", 30), self.assertRaises(DrawError) as caught:
            drawing.draw(1)
        self.assertEqual(caught.exception.code, "too_costly")

    def test_steps_are_counted_alike(self) -> None:
        condition, values = Condition(read("sin(a) + ln(a) < sqrt(a)")), {"a": fmpq(7)}
        spent = []
        for _ in range(2):
            with allowed(10_000) as allowance:
                condition.holds(values)
            spent.append(10_000 - allowance.left)
        self.assertEqual(spent[0], spent[1])
        self.assertGreater(spent[0], 50)
        with self.assertRaises(OutOfSteps), allowed(spent[0] - 1):
            condition.holds(values)

    def test_values_are_equally_likely(self) -> None:
        stream = Stream(stream_key("even", 1), 1, "x")
        counts = [0] * 6
        for _ in range(6000):
            counts[stream.below(6)] += 1
        self.assertTrue(all(880 < count < 1120 for count in counts), counts)

    def test_the_permutation_is_one(self) -> None:
        key = stream_key("p", 1)
        for count in (1, 2, 3, 17, 64, 1000):
            self.assertEqual(sorted(permuted(key, 0, k, count) for k in range(count)), list(range(count)))

    def test_a_value_that_fails_is_named_in_its_draw(self) -> None:
        found = parameters("a: -1..1; b: 1/a")
        problems = [Drawing(found, "q", 1).draw(n).problems for n in range(1, 4)]
        self.assertEqual(sum("b" in problem for problem in problems), 1)


FIXED_MASSES = ["400", "450", "350", "250", "150", "250", "400", "250"]
FIXED_FREE = {"x": "252", "y": "241", "z": "219"}


class Showing(TestCase):
    def test_ways_of_showing(self) -> None:
        value = read_definition("one of 21.952", Settings()).value(0)  # type: ignore[union-attr]
        for way, shown in [("exact", "21.952"), ("2 dp", "21.95"), ("3 sf", "22.0"), ("0 dp", "22"), ("standard 3 sf", "2.20e1"),
                           ("fraction", "2744/125")]:  # fmt: skip
            with self.subTest(way):
                described = read_shown(way)
                assert described is not None
                self.assertEqual(line(shown_value(value, described)), shown)
        self.assertIsNone(read_shown("3 figures"))

    def test_tables_show_short_values(self) -> None:
        listed = read_definition("one of 1/3, sqrt(2), 2/7^5, 0.125", Settings())
        shown = [line(readable(listed.value(k))) for k in range(4)]  # type: ignore[union-attr]
        self.assertEqual(shown, ["1/3", "1.414", "0.0001190", "0.125"])


class Lists(TestCase):
    """Lists, orders, distributions and rows of a data table."""

    def definition(self, text: str, shown: Shown | None = None) -> Any:
        return read_definition(text, Settings(), shown or Shown())

    def test_how_many_lists_there_are(self) -> None:
        for text, size in [
            ("3 of 1..20", 20 * 19 * 18),
            ("4 of 1..6 repeats", 6**4),
            ("shuffle of 1, 2, 3", 6),
            ('2 of "oak", "ash"', 2),
        ]:
            with self.subTest(text):
                self.assertEqual(self.definition(text).size, size)

    def test_every_position_is_another_list(self) -> None:
        for text in ("3 of 1..6", "3 of 2..4 repeats", "shuffle of 1, 2, 3, 4"):
            with self.subTest(text):
                found = self.definition(text)
                lists = {line(found.value(position)) for position in range(found.size)}
                self.assertEqual(len(lists), found.size)
                if "repeats" not in text:
                    self.assertTrue(
                        all(len(set(value.items)) == len(value.items) for value in map(found.value, range(found.size)))
                    )

    def test_distributions_have_their_quantiles(self) -> None:
        normal = self.definition("normal(20, 4)", Shown("decimal_places", 3))
        for share, quantile in [
            (0.5, 20),
            (0.8413447460685429, 24),
            (0.15865525393145707, 16),
            (0.9772498680518208, 28),
        ]:
            self.assertAlmostEqual(approximate(normal.value(int(share * normal.size))), quantile, places=2)
        uniform = self.definition("uniform(2, 4)", Shown("decimal_places", 2))
        self.assertEqual(str(uniform.value(uniform.size // 4)), "5/2")

    def test_samples_have_the_mean_and_spread_of_their_distribution(self) -> None:
        parameters = Parameters([Declaration("d", "40 samples of normal(20, 4)", Shown("decimal_places", 2))], [])
        drawing = Drawing(parameters, "samples", 1)
        values = [
            float(item.value) if isinstance(item, Number) else 0.0
            for number in range(1, 26)
            for item in drawing.draw(number).values["d"].items
        ]  # type: ignore[union-attr]
        self.assertEqual(len(values), 1000)
        self.assertAlmostEqual(statistics.mean(values), 20, delta=0.5)
        self.assertAlmostEqual(statistics.stdev(values), 4, delta=0.4)
        self.assertIsNone(parameters.count)

    def test_what_is_wrong_is_said(self) -> None:
        for text, said in [
            ("3 of", "needs values"), ("9 of 1..5", "only 5 different values"), ("80 of 1..100", "from 1 to 60"), ("normal(20)", "two numbers"),
            ("normal(20, -4)", "more than 0"), ("uniform(3, 1)", "smaller limit"), ("row of metals", "No data table is called metals"),
        ]:  # fmt: skip
            with self.subTest(text):
                (error,) = Parameters([Declaration("x", text)], []).errors
                self.assertIn(said, error.message)

    def test_a_row_of_a_table_brings_its_columns(self) -> None:
        columns = (
            DataColumn("name", "", ("oak", "steel", "cork")),
            DataColumn("density", "kg/m^3", (fmpq(710), fmpq(7850), fmpq(240))),
        )
        rows = [
            Declaration("material", "row of materials"),
            Declaration("V", "2..4"),
            Declaration("m", "material.density*V"),
        ]
        parameters = Parameters(rows, ["material.density < 1000"], Settings(), {"materials": columns})
        self.assertEqual((parameters.errors, parameters.count), ([], 6))
        for number in range(1, 7):
            values = Drawing(parameters, "table", 1).draw(number).values
            self.assertIn(values["material.name"], {"oak", "cork"})
            self.assertEqual(values["m"], values["material.density"] * values["V"])


class Remembered(TestCase):
    def test_what_is_listed_once_is_not_listed_again(self) -> None:
        rows, condition = "a: 2..40; b: 3..50", "gcd(a, b) = 1"
        first = parameters(rows, condition)
        with mock.patch.object(Parameters, "admitted", side_effect=AssertionError("listed again")):
            again = parameters(rows, condition)
        self.assertEqual((again.count, again.share_kept), (first.count, first.share_kept))
        self.assertEqual(texts(again.draw("q", 1, 7).values), texts(first.draw("q", 1, 7).values))
        # another condition, or another definition, is another listing
        self.assertNotEqual(parameters(rows, "gcd(a, b) = 2").count, first.count)
        self.assertNotEqual(parameters("a: 2..41; b: 3..50", condition).count, first.count)

    def test_what_is_wrong_is_told_every_time(self) -> None:
        told = [parameters("a: 2..9", "a > 20").errors[0].message for _ in range(2)]
        self.assertEqual(told, ["No draw meets the conditions; this one alone rejects 100% of what is tried."] * 2)

    def test_there_is_room_for_so_many_combinations(self) -> None:
        listings: Memory[object, Listing] = Memory(1000)
        for k in range(20):
            listing = Listing(list(range(100)), {})
            listings.keep(k, listing, listing.weight)
        self.assertLessEqual(listings.held, 1000)
        self.assertIsNone(listings.get(0))
        self.assertIsNotNone(listings.get(19))
        listings.keep("all", Listing(list(range(1001)), {}), 1101)
        self.assertIsNone(listings.get("all"))

"""The formula book: every formula is read, comes out in its letter's unit, and is solved rightly; what fits is offered."""

from random import Random
from unittest import TestCase

from vorlage.core.formulas import Formula, Kind, Solved, book, fitting, isolated, quick_function, search_book, stem
from vorlage.core.formulas.fitting import in_names
from vorlage.core.formulas.fixed import unit_of
from vorlage.core.formulas.matching import Given, constant_choice
from vorlage.core.notation import Name, Relation, Settings, line, read
from vorlage.core.quantities import Measure, measure, read_unit

PLAIN = Measure(read_unit("m/m"))


def measures(formula: Formula, place: int) -> dict[str, Measure] | None:
    """The unit of each letter, of those it may have the ``place``-th or the last; None where a letter may be anything."""
    found = {}
    for name, letter in formula.letters.items():
        kind: Kind = letter.kinds[min(place, len(letter.kinds) - 1)]
        if kind.way in {"any", "raw", "counted"}:
            return None
        temperature = kind.way in {"difference", "absolute"}
        found[name] = Measure(kind.unit) if kind.unit else Measure(read_unit("K")) if temperature else PLAIN
    return found


TRIES = 60
# For each unit of the book another in which a teacher may give the number.
OTHER_UNITS = {
    "m": "cm", "s": "min", "kg": "g", "J": "kJ", "N": "kN", "W": "kW", "m/s": "km/h", "m^2": "cm^2", "m^3": "L",
    "Pa": "kPa", "V": "mV", "A": "mA", "Ω": "kΩ", "ohm": "kΩ", "C": "μC", "Hz": "kHz", "kg/m^3": "g/cm^3", "F": "μF",
    "kg m/s": "kg m/s", "m/s^2": "m/s^2", "mol": "mmol", "T": "mT", "N/m": "N/cm", "Wb": "mWb", "H": "mH",
}  # fmt: skip


def factor(unit: str) -> float:
    return float(read_unit(unit).factor)


def there_and_back(printed: Solved, other: Solved, names: list[str], dice: Random) -> float | None:
    """What a formula gives, over the value it was solved with; None where one of the two has no value."""
    values = {name: dice.choice((1, 1, -1)) * dice.uniform(0.1, 40) for name in names}
    given = other.function([values[name] for name in other.names])
    if given is None or other.formula.equations[0].terms[0] != Name(printed.unknown):
        return None
    back = printed.function([{**values, other.unknown: given}[name] for name in printed.names])
    return None if back is None else back / values[printed.unknown]


class Book(TestCase):
    def test_there_are_many_and_each_is_said_once(self) -> None:
        formulas = book().formulas
        self.assertGreaterEqual(len(formulas), 400)
        self.assertEqual({formula.subject for formula in formulas}, {"mathematics", "physics", "chemistry"})
        titles = [(formula.topic, formula.title) for formula in formulas]
        self.assertEqual(len(set(titles)), len(titles))

    def test_every_formula_comes_out_in_the_unit_of_its_letter(self) -> None:
        checked = 0
        for formula in book().formulas:
            for place in (0, 1):
                units = measures(formula, place)
                if units is None or (place == 1 and all(len(letter.kinds) == 1 for letter in formula.letters.values())):
                    continue
                for equation in formula.equations:
                    found, left = measure(equation.terms[1], units), equation.terms[0]
                    assert isinstance(left, Name)
                    with self.subTest(formula.title, equation=line(equation)):
                        if found is not None and found.unit.dimension != units[left.name].unit.dimension:
                            # a letter with two kinds fits in one of them
                            self.assertGreater(max(len(letter.kinds) for letter in formula.letters.values()), 1)
                        else:
                            checked += 1
        self.assertGreater(checked, 700)

    def test_what_is_solved_for_another_letter_satisfies_the_formula(self) -> None:
        solved = 0
        for formula in book().formulas:
            printed = formula.solved[0]
            for other in formula.solved[1:]:
                names = sorted({*printed.names, other.unknown} | set(other.names))
                # each has its own numbers, whatever else stands in the book
                dice = Random(f"{formula.topic} {formula.title} {other.unknown}")
                ratios = [
                    ratio for _ in range(TRIES) if (ratio := there_and_back(printed, other, names, dice)) is not None
                ]
                if ratios:
                    with self.subTest(formula.title, unknown=other.unknown):
                        # of two values the positive one is taken, which elsewhere is the other
                        self.assertTrue(any(abs(ratio - 1) < 1e-6 for ratio in ratios), ratios)
                        solved += 1
        self.assertGreater(solved, 1200)

    def test_solving(self) -> None:
        for text, letter, wanted in [
            ("v = u + a*t", "t", "(v - u)/a"), ("E = m*v^2/2", "v", "sqrt(E*2/m)"), ("V = a^3", "a", "root(3, V)"),
            ("A = P*(1 + r/100)^t", "P", "A/(1 + r/100)^t"), ("h = d*tan(w)", "w", "atan(h/d)"),
            ("N = M*exp(-k*t)", "t", "(-ln(N/M))/k"), ("x = 2*a - b", "b", "2*a - x"),
        ]:  # fmt: skip
            with self.subTest(text):
                equation = read(text, Settings(names=frozenset("vuatEmVAPrhdwNMkxb")))
                assert isinstance(equation, Relation)
                tree = isolated(equation, letter)
                assert tree is not None
                self.assertEqual(line(tree).replace(" ", ""), wanted.replace(" ", ""))
        twice = read("s = u*t + a*t^2", Settings(names=frozenset("suta")))
        assert isinstance(twice, Relation)
        self.assertIsNone(isolated(twice, "t"))

    def test_words(self) -> None:
        self.assertEqual(
            [stem(word) for word in ("Speeds", "dropped", "melting", "gas")], ["speed", "drop", "melt", "gas"]
        )
        self.assertEqual(search_book("volume cone")[0].title, "Volume of a cone")
        self.assertIn("Half-life", [formula.title for formula in search_book("half-li")])
        self.assertEqual(search_book("zebra"), [])


class Offers(TestCase):
    def test_what_fits_the_parameters_and_the_unit(self) -> None:
        for parameters, unit, words, wanted in [
            ({"m": "kg", "h": "m"}, "kJ", "A crane lifts a crate to a quay. Work out the energy.", "m*9.81*h/1000"),
            ({"r": "cm", "h": "cm"}, "L", "A cone has a radius and a height. Find its volume.", "pi*r^2*h/3/1000"),
            (
                {"a": "", "p": "%", "n": ""},
                "",
                "A capital earns compound interest. What is it worth?",
                "a*(1 + p/100)^n",
            ),
            ({"R": "Ω", "S": "Ω"}, "Ω", "Resistors in parallel. Find the total resistance.", "R*S/(R + S)"),
            # units that cancel, and those of a constant, leave no factor inside
            ({"d": "cm", "l": "cm"}, "°", "Find the angle from the adjacent side and the hypotenuse.", "acos(d/l)"),
            ({"n": "mol"}, "L", "Find the volume of the gas at room conditions.", "n*24"),
        ]:
            with self.subTest(words):
                self.assertIn(wanted, [each.text for each in fitting(parameters, unit, words)])

    def test_a_formula_in_other_units_gives_the_same(self) -> None:
        checked = 0
        for formula in book().formulas:
            solved = formula.solved[0]
            names = [name for name in solved.names if not formula.letters[name].constant]
            units = {name: OTHER_UNITS.get(formula.letters[name].shown_unit, "") for name in [solved.unknown, *names]}
            wanted = unit_of(units[solved.unknown])
            if not all(units.values()) or wanted is None:
                continue
            given = {
                name: Given(Name(name), 1.3 + 0.37 * k, unit_of(units[name]), "", 1 << k)
                for k, name in enumerate(names)
            }
            written = in_names(solved, given, wanted)
            assert written is not None
            for dice in map(Random, range(3)):
                values = {name: dice.uniform(1, 4) for name in names}
                found = quick_function(written, names)([values[name] for name in names])
                coherent = {name: value * factor(units[name]) for name, value in values.items()} | {
                    name: constant_choice(name)[1] for name in solved.names if formula.letters[name].constant
                }
                meant = solved.function([coherent[name] for name in solved.names])
                if found is None or not meant:
                    continue
                with self.subTest(formula.title, written=line(written)):
                    self.assertAlmostEqual(found / (meant / factor(units[solved.unknown])), 1, places=9)
                    checked += 1
        self.assertGreater(checked, 500)

    def test_nothing_fits(self) -> None:
        for parameters, unit, words in [
            ({}, "kJ", "A crane lifts a crate."),
            ({"m": "kg", "h": "m"}, "V", "A crane lifts a crate to a quay. Work out the energy."),
            ({"m": "kg", "h": "m"}, "kJ", "Nothing that the book speaks of."),
            ({f"a_{k}": "m" for k in range(9)}, "m^2", "Find the area of the rectangle."),
            ({"m": "no unit", "h": "m"}, "kJ", "A crane lifts a crate to a quay. Work out the energy."),
        ]:
            with self.subTest(words):
                self.assertEqual(fitting(parameters, unit, words), [])

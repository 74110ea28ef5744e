"""The formula book: every formula is read, comes out in its letter's unit, and is solved rightly; what fits is offered."""

from random import Random
from unittest import TestCase

from vorlage.core.formulas import Formula, Kind, Solved, book, fitting, isolated, search_book, stem
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
        ]:
            with self.subTest(words):
                self.assertIn(wanted, [each.text for each in fitting(parameters, unit, words)])

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

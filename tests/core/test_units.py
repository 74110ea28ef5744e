"""Every symbol with every prefix against a table by hand; what a symbol must not be taken for."""

from fractions import Fraction
from unittest import TestCase

from vorlage.core.algebra import to_fraction
from vorlage.core.answers import check_case
from vorlage.core.notation import NotationError
from vorlage.core.quantities import Unit, read_unit
from vorlage.core.quantities.symbols import PREFIXED, SHORT, SPELLINGS, TWO_UNITS

from ..unit_table import DECIDED, ENTRIES, POWERS, SPELLED, Dimension

BASES = {
    "meter": "m", "kilogram": "kg", "second": "s", "ampere": "A", "kelvin": "K", "mole": "mol", "candela": "cd",
}  # fmt: skip
CLOSE = Fraction(1, 10**9)


def dimension_of(unit: Unit) -> Dimension:
    return tuple(sorted((BASES.get(base, base), power) for base, power in unit.dimension))


def is_unit(text: str) -> bool:
    try:
        read_unit(text)
    except NotationError:
        return False
    return True


def outcome(unit: str, response: str, key: str = "12.5") -> str:
    return check_case({"answer": {"kind": "quantity", "key": key, "unit": unit}, "response": response}).outcome


class Table(TestCase):
    def is_unit(self, text: str, factor: Fraction, dimension: Dimension, pi: bool = False) -> None:
        read = read_unit(text)
        self.assertEqual(dimension_of(read), dimension, text)
        self.assertLess(abs(to_fraction(read.factor) / factor - 1), CLOSE, text)
        self.assertEqual(read.pi, pi, text)

    def test_every_symbol_with_every_prefix(self) -> None:
        collisions = set()
        for entry in ENTRIES.values():
            for prefix in ("", *POWERS, "u"):
                text = prefix + entry.symbol
                micro = "μ" if prefix == "u" else prefix
                with self.subTest(text):
                    if prefix and (text in ENTRIES or text in DECIDED):
                        collisions.add(text)
                        continue
                    if not prefix or micro in entry.prefixes:
                        self.is_unit(text, entry.with_prefix(micro), entry.dimension, entry.pi)
                        continue
                    # what takes no such prefix is no unit, or two that were written without a space
                    try:
                        read = read_unit(text)
                    except NotationError:
                        continue
                    cuts = (f"{text[:cut]} {text[cut:]}" for cut in range(1, len(text)))
                    self.assertIn(read, [read_unit(each) for each in cuts if is_unit(each)], text)
        self.assertLessEqual(collisions, set(DECIDED))
        for text in collisions & set(ENTRIES):
            self.is_unit(text, ENTRIES[text].factor, ENTRIES[text].dimension, ENTRIES[text].pi)
        for text in ("kb", "Mb", "Gb", "Tb"):
            self.is_unit(text, Fraction(10) ** POWERS[text[0]], (("bit", 1),))

    def test_nothing_is_offered_that_the_table_has_not(self) -> None:
        spelled = {each for several in SPELLED.values() for each in several}
        offered = SHORT | set(PREFIXED) | set(SPELLINGS)
        self.assertEqual(offered - set(ENTRIES) - set(SPELLED) - spelled, set())
        for symbol, several in SPELLED.items():
            for written in several:
                with self.subTest(f"{written} for {symbol}"):
                    one, other = read_unit(symbol), read_unit(written)
                    self.assertEqual((one, one.offset), (other, other.offset))
        for written in TWO_UNITS:
            with self.subTest(written), self.assertRaises(NotationError):
                read_unit(written)

    def test_a_million_ohms_is_no_thousandth(self) -> None:
        for symbol in ("Ω", "ohm", "mol", "cal", "kat", "bar", "Hz", "Pa", "W", "eV"):
            for big, small in (("M", "m"), ("P", "p"), ("Y", "y"), ("Z", "z"), ("R", "r"), ("Q", "q")):
                if big not in ENTRIES.get(symbol, ENTRIES["Ω"]).prefixes:
                    continue
                with self.subTest(f"{big}{symbol}"):
                    self.assertEqual(outcome(symbol, f"12.5 {big}{symbol}", f"12.5*10^{POWERS[big]}"), "right")
                    self.assertEqual(outcome(symbol, f"12.5 {big}{symbol}", f"12.5*10^{POWERS[small]}"), "wrong")

    def test_names_may_have_a_capital_and_symbols_not(self) -> None:
        for written, unit in (
            ("Newton", "N"), ("Newtons", "N"), ("Metres", "m"), ("Ohms", "Ω"), ("Kilometres", "km"), ("Kilohm", "kΩ"),
            ("Megaohms", "MΩ"), ("megavolts", "MV"), ("Kohm", "kΩ"), ("Kcal", "kcal"), ("Milligrams", "mg"),
        ):  # fmt: skip
            with self.subTest(written):
                self.assertEqual(outcome(unit, f"12.5 {written}"), "right")
        for written, unit in (("Min", "min"), ("kG", "kg"), ("Kg", "kg"), ("mhz", "MHz"), ("KM", "km"), ("Ms", "ms")):
            with self.subTest(written):
                self.assertIn(outcome(unit, f"12.5 {written}"), {"unreadable", "wrong"})


class Alike(TestCase):
    def test_no_two_symbols_of_the_table_are_taken_for_each_other(self) -> None:
        for one in ENTRIES.values():
            unit = read_unit(one.symbol)
            for other in ENTRIES.values():
                same = (one.factor, one.dimension, one.pi) == (other.factor, other.dimension, other.pi)
                if not same and unit.measures_as(read_unit(other.symbol)):
                    with self.subTest(f"{one.symbol} for {other.symbol}"):
                        apart = read_unit(other.symbol)
                        self.assertNotEqual((unit.factor, unit.pi), (apart.factor, apart.pi))

    def test_units_that_share_a_dimension_and_no_meaning(self) -> None:
        for one, other in (
            ("rad", "%"), ("dB", "%"), ("dB", "rad"), ("sr", "rad"), ("Hz", "Bq"), ("Hz", "rad/s"), ("Gy", "Sv"),
            ("lm", "cd"),
        ):  # fmt: skip
            with self.subTest(f"{one} for {other}"):
                self.assertEqual(outcome(one, f"12.5 {other}"), "wrong")
                self.assertEqual(outcome(other, f"12.5 {one}"), "wrong")

    def test_symbols_run_together_are_read_as_textbooks_set_them(self) -> None:
        for unit, written in (
            ("N m", "Nm"), ("N m^2", "Nm²"), ("N m^2/kg^2", "Nm^2kg^-2"), ("N m^2/kg^2", "Nm²/kg²"), ("Pa s", "Pas"),
            ("(N m)^2", "(Nm)²"), ("J/(N m)", "J/Nm"), ("kN m", "kNm"), ("W h", "Wh"), ("A h", "Ah"),
        ):  # fmt: skip
            with self.subTest(f"{written} for {unit}"):
                self.assertEqual(outcome(unit, f"12.5 {written}"), "right")
        for unit, written, expected in (
            ("N^2 m^2", "Nm²", "wrong"), ("Pa", "Pas", "wrong"), ("m^2", "mm", "wrong"), ("V m", "mV", "wrong"),
            ("m s", "ms", "unreadable"), ("°", "Grad", "unreadable"), ("gon", "grad", "unreadable"),
        ):  # fmt: skip
            with self.subTest(f"{written} for {unit}"):
                self.assertEqual(outcome(unit, f"12.5 {written}"), expected)

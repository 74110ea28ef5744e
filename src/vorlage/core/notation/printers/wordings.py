"""The words in which formulas are read aloud, by language.

A ``{}`` stands for what is read there. A unit has the name of one; after a stroke that of several, where it is not made
by the language's rule.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Wording:
    """How formulas are read aloud in one language."""

    phrases: Mapping[str, str]
    relations: Mapping[str, str]
    functions: Mapping[str, str]
    # what one part is called, by the denominator; after a stroke several
    fractions: Mapping[int, str]
    chemical: Mapping[str, str]
    units: Mapping[str, str]
    prefixes: Mapping[str, str]
    # what several of a unit are called that says nothing of it
    several: str
    # what is said of a length before its name, of other units behind it, when it is raised
    raised_length: Mapping[str, str]
    raised: Mapping[str, str]


ENGLISH = Wording(
    phrases={
        "brackets": "open bracket {} close bracket", "power_of_ten": "{} times 10 to the power {}",
        "minus": "minus {}",
        "mixed": "{} and {} over {}", "sub": "{} sub {}", "plus": "{} plus {}", "less": "{} minus {}",
        "plus_minus": "plus or minus {}", "times": "times", "over": "{} over {}",
        "fraction": "the fraction {} over {}, end of fraction,",
        "inner_fraction": "the fraction {}, end of fraction,",
        "squared": "{} squared", "cubed": "{} cubed", "power": "{} to the power {}", "factorial": "{} factorial",
        "percent": "{} percent", "degrees": "{} degrees", "log": "log base {} of {}", "call": "{} of",
        "square_root": "the square root of {}", "cube_root": "the cube root of {}",
        "root": "the root of order {} of {}", "absolute": "the absolute value of {}",
        "end_of_root": "{}, end of root,",
        "end_of_absolute": "{}, end of absolute value,", "choose": "{} choose {}", "from_to": "{} from {} to {}",
        "integral": "the integral of {} with respect to {}",
        "integral_from": "the integral from {} to {} of {} with respect to {}",
        "sum": "the sum, for {}, of {}", "product": "the product, for {}, of {}",
        "limit": "the limit, as {} tends to {}, of {}", "derivative": "the derivative, with respect to {}, of {}",
        "derivative_2": "the second derivative, with respect to {}, of {}",
        "derivative_3": "the third derivative, with respect to {}, of {}",
        "derivative_n": "the order {} derivative, with respect to {}, of {}", "if": "{} if {}",
        "otherwise": "otherwise {}",
        "and": "and", "or": "or", "empty": "the empty {}", "held": "the {} {}", "set": "set", "list": "list",
        "point": "point", "vector": "vector", "matrix": "the matrix with the rows {}",
        "interval": "the interval from {}, {}, to {}, {}", "included": "included", "left_out": "left out",
        "charge": "with charge {}", "part": "{} {}", "per": "per", "to_the_power": "to the power",
    },
    relations={
        "=": "equals", "<": "is less than", ">": "is greater than", "≤": "is at most", "≥": "is at least",
        "≠": "is not equal to", "≈": "is about", "in": "is in",
    },
    functions={
        "sin": "sine of", "cos": "cosine of",
        "tan": "tangent of", "ln": "natural log of", "exp": "e to the power", "asin": "inverse sine of",
        "acos": "inverse cosine of", "atan": "inverse tangent of", "sinh": "hyperbolic sine of",
        "cosh": "hyperbolic cosine of", "tanh": "hyperbolic tangent of", "sec": "secant of", "csc": "cosecant of",
        "cot": "cotangent of", "floor": "the whole number at or below", "ceil": "the whole number at or above",
        "sgn": "the sign of", "max": "the greatest of", "min": "the least of", "mean": "the mean of",
        "median": "the median of",
        "gcd": "the greatest common divisor of", "lcm": "the least common multiple of", "mod": "the remainder of",
        "stdev": "the standard deviation of", "variance": "the variance of",
        "sample_stdev": "the sample standard deviation of", "sample_variance": "the sample variance of",
        "total": "the total of", "count": "the number of values in",
    },
    fractions=dict(
        enumerate(
            "half/halves third/thirds quarter/quarters fifth/fifths sixth/sixths seventh/sevenths eighth/eighths "
            "ninth/ninths tenth/tenths".split(),
            start=2,
        )
    ) | {1: "one"},
    chemical={"→": "gives", "⇌": "is in equilibrium with", "+": "plus", "−": "minus", "·": "with"},
    units={
        "m": "metre", "s": "second", "g": "gram", "A": "ampere", "K": "kelvin/kelvin", "mol": "mole", "cd": "candela",
        "N": "newton", "J": "joule", "W": "watt", "V": "volt", "Ω": "ohm", "Pa": "pascal", "Hz": "hertz/hertz",
        "C": "coulomb", "F": "farad", "T": "tesla", "Wb": "weber", "H": "henry/henries", "L": "litre", "l": "litre",
        "h": "hour", "min": "minute", "d": "day", "a": "year", "°C": "degree Celsius/degrees Celsius", "°": "degree",
        "deg": "degree", "rad": "radian", "%": "percent/percent", "eV": "electronvolt", "t": "tonne", "bar": "bar",
        "Bq": "becquerel", "Wh": "watt hour",
    },
    prefixes={
        "k": "kilo", "M": "mega", "G": "giga", "T": "tera", "m": "milli", "c": "centi", "d": "deci", "h": "hecto",
        "µ": "micro", "μ": "micro", "u": "micro", "n": "nano", "p": "pico",
    },
    several="{}s",
    raised_length={"2": "square {}", "3": "cubic {}"},
    raised={"2": "{} squared", "3": "{} cubed"},
)  # fmt: skip

GERMAN = Wording(
    phrases={
        "brackets": "Klammer auf {} Klammer zu", "power_of_ten": "{} mal 10 hoch {}", "minus": "minus {}",
        "mixed": "{} und {} durch {}", "sub": "{} Index {}", "plus": "{} plus {}", "less": "{} minus {}",
        "plus_minus": "plus oder minus {}", "times": "mal", "over": "{} durch {}",
        "fraction": "der Bruch {} durch {}, Ende des Bruchs,", "inner_fraction": "der Bruch {}, Ende des Bruchs,",
        "squared": "{} zum Quadrat", "cubed": "{} hoch drei", "power": "{} hoch {}", "factorial": "{} Fakultät",
        "percent": "{} Prozent", "degrees": "{} Grad", "log": "Logarithmus zur Basis {} von {}", "call": "{} von",
        "square_root": "die Quadratwurzel aus {}", "cube_root": "die dritte Wurzel aus {}",
        "root": "die Wurzel der Ordnung {} aus {}", "absolute": "der Betrag von {}",
        "end_of_root": "{}, Ende der Wurzel,", "end_of_absolute": "{}, Ende des Betrags,", "choose": "{} über {}",
        "from_to": "{} von {} bis {}", "integral": "das Integral über {} nach {}",
        "integral_from": "das Integral von {} bis {} über {} nach {}", "sum": "die Summe, für {}, über {}",
        "product": "das Produkt, für {}, über {}", "limit": "der Grenzwert, für {} gegen {}, von {}",
        "derivative": "die Ableitung nach {} von {}", "derivative_2": "die zweite Ableitung nach {} von {}",
        "derivative_3": "die dritte Ableitung nach {} von {}",
        "derivative_n": "die Ableitung der Ordnung {} nach {} von {}",
        "if": "{} falls {}", "otherwise": "sonst {}", "and": "und", "or": "oder", "empty": "{}, leer",
        "held": "{} {}",
        "set": "die Menge", "list": "die Liste", "point": "der Punkt", "vector": "der Vektor",
        "matrix": "die Matrix mit den Zeilen {}", "interval": "das Intervall von {}, {}, bis {}, {}",
        "included": "eingeschlossen", "left_out": "ausgeschlossen", "charge": "mit Ladung {}", "part": "{} {}",
        "per": "pro",
        "to_the_power": "hoch",
    },
    relations={
        "=": "gleich", "<": "kleiner als", ">": "größer als", "≤": "kleiner oder gleich", "≥": "größer oder gleich",
        "≠": "ungleich", "≈": "ungefähr gleich", "in": "Element von",
    },
    functions={
        "sin": "Sinus von", "cos": "Kosinus von", "tan": "Tangens von", "ln": "natürlicher Logarithmus von",
        "exp": "e hoch", "asin": "Arkussinus von", "acos": "Arkuskosinus von", "atan": "Arkustangens von",
        "sinh": "Sinus hyperbolicus von", "cosh": "Kosinus hyperbolicus von", "tanh": "Tangens hyperbolicus von",
        "sec": "Sekans von", "csc": "Kosekans von", "cot": "Kotangens von",
        "floor": "die nächste ganze Zahl nicht über",
        "ceil": "die nächste ganze Zahl nicht unter", "sgn": "das Vorzeichen von", "max": "das Größte von",
        "min": "das Kleinste von", "mean": "der Mittelwert von", "median": "der Median von",
        "gcd": "der größte gemeinsame Teiler von", "lcm": "das kleinste gemeinsame Vielfache von",
        "mod": "der Rest von",
        "stdev": "die Standardabweichung von", "variance": "die Varianz von",
        "sample_stdev": "die Standardabweichung der Stichprobe", "sample_variance": "die Varianz der Stichprobe",
        "total": "die Summe von", "count": "die Anzahl der Werte in",
    },
    fractions=dict(
        enumerate(
            "Halb/Halbe Drittel/Drittel Viertel/Viertel Fünftel/Fünftel Sechstel/Sechstel Siebtel/Siebtel "
            "Achtel/Achtel Neuntel/Neuntel Zehntel/Zehntel".split(),
            start=2,
        )
    ) | {1: "ein"},
    chemical={"→": "ergibt", "⇌": "im Gleichgewicht mit", "+": "plus", "−": "minus", "·": "mit"},
    units={
        "m": "Meter", "s": "Sekunde/Sekunden", "g": "Gramm", "A": "Ampere", "K": "Kelvin", "mol": "Mol",
        "cd": "Candela",
        "N": "Newton", "J": "Joule", "W": "Watt", "V": "Volt", "Ω": "Ohm", "Pa": "Pascal", "Hz": "Hertz",
        "C": "Coulomb", "F": "Farad", "T": "Tesla", "Wb": "Weber", "H": "Henry", "L": "Liter", "l": "Liter",
        "h": "Stunde/Stunden", "min": "Minute/Minuten", "d": "Tag/Tage", "a": "Jahr/Jahre", "°C": "Grad Celsius",
        "°": "Grad", "deg": "Grad", "rad": "Radiant", "%": "Prozent", "eV": "Elektronvolt", "t": "Tonne/Tonnen",
        "bar": "Bar", "Bq": "Becquerel", "Wh": "Wattstunde/Wattstunden",
    },
    prefixes={
        "k": "Kilo", "M": "Mega", "G": "Giga", "T": "Tera", "m": "Milli", "c": "Zenti", "d": "Dezi", "h": "Hekto",
        "µ": "Mikro", "μ": "Mikro", "u": "Mikro", "n": "Nano", "p": "Piko",
    },
    several="{}",
    raised_length={"2": "Quadrat{}", "3": "Kubik{}"},
    raised={"2": "{} zum Quadrat", "3": "{} hoch drei"},
)  # fmt: skip

WORDINGS: Mapping[str, Wording] = {"en": ENGLISH, "de": GERMAN}

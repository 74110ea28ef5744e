"""Chemical formulas and equations: what is in them, and whether they balance."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass
from fractions import Fraction

from ....notation import NotationError, visible

# by atomic number, from 1
ELEMENTS = (
    "H He Li Be B C N O F Ne Na Mg Al Si P S Cl Ar K Ca Sc Ti V Cr Mn Fe Co Ni Cu Zn Ga Ge As Se Br Kr Rb Sr Y Zr "
    "Nb Mo Tc Ru Rh Pd Ag Cd In Sn Sb Te I Xe Cs Ba La Ce Pr Nd Pm Sm Eu Gd Tb Dy Ho Er Tm Yb Lu Hf Ta W Re Os Ir "
    "Pt Au Hg Tl Pb Bi Po At Rn Fr Ra Ac Th Pa U Np Pu Am Cm Bk Cf Es Fm Md No Lr Rf Db Sg Bh Hs Mt Ds Rg Cn Nh "
    "Fl Mc Lv Ts Og"
).split()
ATOMIC_NUMBERS = {element: number for number, element in enumerate(ELEMENTS, start=1)}
# Particles of nuclear equations: what each is with its mass and charge.
PARTICLES = {"n": ("1", "0"), "p": ("1", "1"), "e": ("0", "-1"), "γ": ("0", "0")}
TRANSLATED = str.maketrans("₀₁₂₃₄₅₆₇₈₉−–→⟶⇌·•∙⋅", "0123456789--→→⇌····")
RAISED = {
    "⁰": "0",
    "¹": "1",
    "²": "2",
    "³": "3",
    "⁴": "4",
    "⁵": "5",
    "⁶": "6",
    "⁷": "7",
    "⁸": "8",
    "⁹": "9",
    "⁺": "+",
    "⁻": "-",
}
ARROW = re.compile(r"\s*(<=>|<->|<-->|-->|->|=>|→|⇌|=)\s*")
PLUS = re.compile(r"\s+\+\s+|(?<=[\w)\]+-])\+(?!\((?:aq|s|l|g)\))(?!\d\s*\Z)(?=[\dA-Z\[(e])")
# a hydrate's dot, typed as a full stop or a star
DOT = re.compile(r"(?<=[\w)\]])\s*[.*]\s*(?=\d*\s*[A-Z(])")
STATE = re.compile(r"\s*\((aq|s|l|g)\)\s*\Z")
COEFFICIENT = re.compile(r"\s*(\d+/\d+|\d+)\s*(?=[A-Z\[(enpγ^])")
CHARGE = re.compile(r"\^\{?\(?(\d*)([+-])\)?\}?\s*\Z|\^\{?\(?([+-])(\d*)\)?\}?\s*\Z")
PLAIN_CHARGE = re.compile(r"(\d*)([+-])\s*\Z")
# Cu+2, with the sign before the figure
TURNED_CHARGE = re.compile(r"(?<=[\w)\]])([+-])(\d)\s*\Z")
# ²³⁵₉₂U, in raised and lowered figures
RAISED_ISOTOPE = re.compile(
    r"([⁰¹²³⁴⁵⁶⁷⁸⁹]+)\s*([₊₋]?[₀₁₂₃₄₅₆₇₈₉]+)(?=\s*[A-Za-zγ])|([₊₋]?[₀₁₂₃₄₅₆₇₈₉]+)\s*([⁰¹²³⁴⁵⁶⁷⁸⁹]+)(?=\s*[A-Za-zγ])"
)
ISOTOPE = re.compile(r"\^\{?(\d{1,3})\}?(?:_\{?([-+]?\d{1,3})\}?)?\s*|_\{?([-+]?\d{1,3})\}?\^\{?(\d{1,3})\}?\s*")
NUCLIDE = re.compile(r"(\d+)(?:_([-+]?\d+))?([A-Z][a-z]?|[nepγ])")
# carbon-14 is written C-14
HYPHENED = re.compile(r"([A-Z][a-z]?)-(\d{1,3})\Z")
# what formulas pasted from TeX have besides
TEX = (
    (re.compile(r"\\(?:ce|mathrm|text)\{((?:[^{}]|\{[^{}]*\})*)\}"), r"\1"),
    (re.compile(r"\\(?:long)?(?:rightarrow|to)(?![a-z])"), "->"),
    (re.compile(r"\\rightleftharpoons"), "<=>"),
    (re.compile(r"\\cdot"), "·"),
    (re.compile(r"\\[,;! ]"), " "),
)
SPACE_WITHIN = re.compile(r"(?<=[\w)\]])\s+(?=[A-Z(\[])")
# hydrogen's isotopes have letters of their own
HEAVY = {"D": "2H", "T": "3H"}
MAXIMUM_LENGTH, MAXIMUM_COUNT, MAXIMUM_DEPTH = 300, 9999, 6


@dataclass(frozen=True, slots=True)
class Species:
    """One particle: its atoms, its charge and its state."""

    atoms: frozenset[tuple[str, int]]
    charge: int
    state: str = ""

    def without_state(self) -> Species:
        return Species(self.atoms, self.charge)


@dataclass(frozen=True, slots=True)
class Reaction:
    """What goes in and what comes out, with coefficients; a formula alone has only a left side."""

    left: tuple[tuple[Species, Fraction], ...]
    right: tuple[tuple[Species, Fraction], ...]
    is_equation: bool

    def side(self, right: bool, states: bool) -> dict[Species, Fraction]:
        total: dict[Species, Fraction] = {}
        for species, coefficient in self.right if right else self.left:
            key = species if states else species.without_state()
            total[key] = total.get(key, Fraction(0)) + coefficient
        return total

    def unbalanced(self) -> str | None:
        """The first element that does not balance, or ``charge``; None when all do."""
        charge = Fraction(0)
        weights: dict[str, Fraction] = {}
        for sign, side in ((1, self.left), (-1, self.right)):
            for species, coefficient in side:
                charge += sign * coefficient * species.charge
                for element, count in species.atoms:
                    weights[element] = weights.get(element, Fraction(0)) + sign * coefficient * count
        if any(element[0].isdigit() for element in weights):
            return unbalanced_nuclei(weights)
        for element in sorted(weights):
            if weights[element]:
                return element
        return "charge" if charge else None


def unbalanced_nuclei(weights: dict[str, Fraction]) -> str | None:
    """In a nuclear equation the mass numbers and the atomic numbers balance, not the elements."""
    masses = numbers = Fraction(0)
    for name, weight in weights.items():
        found = NUCLIDE.fullmatch(name)
        if not found:
            return None
        mass, number, symbol = found.groups()
        masses += weight * int(mass)
        numbers += weight * int(number or ATOMIC_NUMBERS.get(symbol, 0))
    return "mass number" if masses else "atomic number" if numbers else None


def read_reaction(text: str) -> Reaction:
    """A formula or an equation. Raises ``NotationError``.

    >>> read_reaction("2 H2 + O2 -> 2 H2O").unbalanced() is None
    True
    >>> read_reaction("Fe3+ + 3 OH- -> Fe(OH)3").unbalanced() is None
    True
    """
    if len(text) > MAXIMUM_LENGTH:
        raise NotationError("too_long", "This is too long for a chemical formula.", MAXIMUM_LENGTH)
    for pattern, plain in TEX:
        text = pattern.sub(plain, text)
    text = RAISED_ISOTOPE.sub(isotope_signs, visible(text))
    plain = DOT.sub("·", raised_to_carets(text.removeprefix("chem:").translate(TRANSLATED)).strip())
    if not plain:
        raise NotationError("empty", "Nothing is written here yet.")
    sides = ARROW.split(plain)
    if len(sides) == 1:
        return Reaction(read_side(plain), (), False)
    if len(sides) != 3 or not sides[0] or not sides[2]:
        raise NotationError("chemical", "An equation has one arrow with something on each side of it.")
    return Reaction(read_side(sides[0]), read_side(sides[2]), True)


def isotope_signs(found: re.Match[str]) -> str:
    """``²³⁵₉₂`` as ``^235_92``."""
    mass, number = found[1] or found[4], found[2] or found[3]
    plain = "".join(RAISED[figure] for figure in mass)
    return f"^{plain}_{number.translate(TRANSLATED).replace('₋', '-').replace('₊', '')}"


def raised_to_carets(text: str) -> str:
    """``SO4²⁻`` becomes ``SO4^2-``."""
    found = ""
    raised = False
    for character in text:
        if character in RAISED:
            found += ("" if raised else "^") + RAISED[character]
            raised = True
        else:
            found += character
            raised = False
    return found


def read_side(text: str) -> tuple[tuple[Species, Fraction], ...]:
    return tuple(read_term(term) for term in PLUS.split(text))


def read_term(text: str) -> tuple[Species, Fraction]:
    coefficient = Fraction(1)
    found = COEFFICIENT.match(text)
    if found:
        try:
            coefficient = Fraction(found[1])
        except ZeroDivisionError:
            raise NotationError("chemical", "This divides by 0.") from None
        text = text[found.end() :]
    state = ""
    found = STATE.search(text)
    if found:
        state, text = found[1], text[: found.start()]
    text = text.strip()
    if not text:
        raise NotationError("chemical", "A formula is missing here.")
    if text in {"e-", "e^-", "e^{-}", "e"}:
        return Species(frozenset(), -1, state), coefficient
    text = HYPHENED.sub(r"^\2 \1", text)
    body, charge = take_charge(text)
    body = SPACE_WITHIN.sub("", body)
    atoms: Counter[str] = Counter()
    for part in body.split("·"):
        part = part.strip()
        times = re.match(r"(\d+)\s*(?=[A-Z(\[])", part)
        factor = int(times[1]) if times else 1
        for element, count in Formula(part[times.end() :] if times else part).read().items():
            atoms[element] += factor * count
    return Species(frozenset(atoms.items()), charge, state), coefficient


def take_charge(text: str) -> tuple[str, int]:
    """The formula without its charge, and the charge.

    ``Fe3+`` is an ion with three charges and ``NO3-`` one with three oxygens: after a single element the figure
    belongs to the charge, after several to the last element, and of two figures the last one to the charge.
    """
    found = CHARGE.search(text)
    if found:
        size, sign = (found[1], found[2]) if found[2] else (found[4], found[3])
        return text[: found.start()].strip(), int(size or 1) * (1 if sign == "+" else -1)
    found = TURNED_CHARGE.search(text)
    if found:
        return text[: found.start()], int(found[2]) * (1 if found[1] == "+" else -1)
    found = PLAIN_CHARGE.search(text)
    if not found:
        return text, 0
    digits, sign = found[1], 1 if found[2] == "+" else -1
    body = text[: found.start()].rstrip()
    single = re.fullmatch(r"[A-Z][a-z]?", body) is not None
    spaced = text[: found.start()].endswith(" ")
    if not digits:
        return body, sign
    if spaced or (single and len(digits) == 1):
        return body, int(digits) * sign
    if body.endswith("]"):
        return body, int(digits) * sign
    if len(digits) >= 2:
        return body + digits[:-1], int(digits[-1]) * sign
    return body + digits, sign


COUNT = re.compile(r"_?\{?(\d{1,6})\}?")


class Formula:
    """Reads the atoms of a formula without charge, state or coefficient."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.place = 0

    def read(self) -> Counter[str]:
        atoms = self.group(0)
        if self.place < len(self.text):
            raise self.error(f"“{self.text[self.place]}” does not belong in a chemical formula.")
        if not atoms:
            raise self.error("A formula is missing here.")
        return atoms

    def error(self, message: str) -> NotationError:
        return NotationError("chemical", message, min(self.place, max(0, len(self.text) - 1)))

    def group(self, depth: int) -> Counter[str]:
        if depth > MAXIMUM_DEPTH:
            raise self.error("There are too many brackets inside brackets here.")
        atoms: Counter[str] = Counter()
        while self.place < len(self.text):
            character = self.text[self.place]
            if character in "([":
                self.place += 1
                inner = self.group(depth + 1)
                closing = ")" if character == "(" else "]"
                if self.text[self.place : self.place + 1] != closing:
                    raise self.error(f"“{closing}” is missing here.")
                self.place += 1
                count = self.count()
                for element, number in inner.items():
                    atoms[element] += number * count
            elif character in "^_":
                isotope = ISOTOPE.match(self.text, self.place)
                if not isotope:
                    raise self.error("This raised or lowered part cannot be read.")
                self.place = isotope.end()
                atoms[self.nuclide(isotope[1] or isotope[4], isotope[2] or isotope[3])] += self.count()
            elif character in PARTICLES and self.text[self.place + 1 :].strip() == "":
                self.place += 1
                mass, charge = PARTICLES[character]
                atoms[f"{mass}_{charge}{character}"] += 1
            elif character.isalpha():
                element = self.element()
                atoms[element] += self.count()
            else:
                break
        return atoms

    def nuclide(self, mass: str, number: str | None) -> str:
        """A nucleus with its mass number; the atomic number is kept where it is not the element's own."""
        particle = self.text[self.place : self.place + 1]
        if particle in PARTICLES and not self.text[self.place + 1 : self.place + 2].islower():
            self.place += 1
            return f"{mass}_{int(number if number is not None else PARTICLES[particle][1])}{particle}"
        element = self.element()
        if element not in ATOMIC_NUMBERS:
            raise self.error("This isotope has two mass numbers.")
        if number is None or int(number) == ATOMIC_NUMBERS[element]:
            return f"{mass}{element}"
        return f"{mass}_{int(number)}{element}"

    def element(self) -> str:
        pair, single = self.text[self.place : self.place + 2], self.text[self.place : self.place + 1]
        for symbol in (pair, single):
            if symbol in ATOMIC_NUMBERS:
                self.place += len(symbol)
                return symbol
        if single in HEAVY:
            self.place += 1
            return HEAVY[single]
        raise self.error(f"“{pair if pair[1:].islower() else single}” is not an element.")

    def count(self) -> int:
        found = COUNT.match(self.text, self.place)
        if not found:
            return 1
        self.place = found.end()
        if not 0 < int(found[1]) <= MAXIMUM_COUNT:
            raise self.error("This number of atoms cannot be right.")
        return int(found[1])

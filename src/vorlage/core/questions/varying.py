"""From a fixed question to a varying one: which numbers could vary, and which formulas give the answer.

The formula book comes first, then free search; what is dimensionally impossible is not offered beside what is possible,
and everything offered is worked out exactly before it is shown.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product
from time import monotonic

from flint import fmpq

from ..algebra import Compiled, EvaluationError, Exact, approximate, enclosures, to_fraction
from ..draws import DrawError, Source, read_definition, readable
from ..formulas import (
    Formula,
    FoundNumber,
    Goal,
    Matching,
    Search,
    VaryingError,
    found_numbers,
    given_answer,
    list_formulas,
    quick_function,
    varied,
)
from ..notation import FUNCTIONS, Node, NotationError, Settings, line, literal, names_in, read, substitute

# Seconds after which the book is closed, and half as much again for free search; the steps end both before that.
PATIENCE = 1.0
# So many numbers are given to letters; free search takes fewer.
MOST_MATCHED, MOST_SEARCHED = 10, 6
OFFERED = 6
# What a formula of free search costs beside one of the book, and how much dearer than the first an offer may be.
FREE, FURTHER = 1.0, 4.0
# How far formulas lie apart that differ in the digits of a constant only.
CONSTANTS_DIFFER = 0.022
# A formula of the book that costs no more ends the search.
CLEAR = 1.0


@dataclass(frozen=True, slots=True)
class FoundFormula:
    """A formula that gives the answer, with the value it gives."""

    formula: str
    value: str
    cost: float
    unused: tuple[str, ...] = ()
    # what it is called, and the formula of the book that it is; empty for free search
    title: str = ""
    book: Formula | None = None
    # whether the words of the text speak for it, so that it may be taken without another look
    supported: bool = False


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a fixed question could become."""

    numbers: tuple[FoundNumber, ...]
    formulas: tuple[FoundFormula, ...]
    wording: str
    unit: str = ""
    decimals: int = 0
    # what is said when nothing, or more than one thing, was found
    note: str = ""
    # significant figures of an answer in standard form, 0 for others
    figures: int = 0


@dataclass(frozen=True, slots=True)
class Offer:
    """A formula on its way to be offered."""

    tree: Node
    cost: float
    mask: int
    possible: bool | None
    formula: Formula | None = None
    title: str = ""
    supported: bool = False


def propose(text: str, answer: str, settings: Settings = Settings()) -> Proposal:  # noqa: B008 (frozen)
    """How a fixed question with its answer could vary. Raises ``VaryingError`` with what to do about it."""
    numbers = found_numbers(text, settings.decimal_mark)
    if not numbers:
        raise VaryingError("There is no number in this question that could vary.")
    goal = given_answer(answer, settings.decimal_mark)
    formulas = offered(offers(text, numbers, goal), numbers, goal)
    note = ""
    if not formulas:
        note = "No formula was found that gives this answer from these numbers: write it yourself on the desk."
    elif len(formulas) > 1:
        note = "More than one formula gives this answer: pick the one that is meant."
    figures = goal.figures if goal.exponent is not None else 0
    return Proposal(tuple(numbers), tuple(formulas), varied(text, numbers), goal.unit, goal.decimals, note, figures)


def offers(text: str, numbers: Sequence[FoundNumber], goal: Goal) -> list[Offer]:
    """The formulas that give the answer, from the book, from lists of numbers, and from free search."""
    started, matched = monotonic(), numbers[:MOST_MATCHED]
    found = [
        Offer(match.tree, match.cost, match.mask, True, match.formula, match.formula.title, match.supported)
        for match in Matching(matched, goal, text, started + PATIENCE).matches()
    ]
    found += [
        Offer(each.tree, each.cost, each.mask, True, None, each.title, each.supported)
        for each in list_formulas(numbers, goal, text)
    ]
    if any(offer.cost <= CLEAR and offer.supported for offer in found):
        return found
    usable = [number for number in numbers if not number.stays][:MOST_SEARCHED] or list(numbers[:MOST_SEARCHED])
    left_over = len([number for number in numbers if not number.stays]) - len(usable)
    for free in Search(usable, goal, deadline=started + 1.5 * PATIENCE).results()[:200]:
        unused = len(usable) - free.mask.bit_count() + max(0, left_over)
        mask = sum(1 << numbers.index(number) for k, number in enumerate(usable) if free.mask >> k & 1)
        tree = read_named(free.text)
        cost = free.cost + FREE + 3.2 * unused + rounding_cost(free.value, goal)
        if free.possible is False:
            cost += 3
        found.append(Offer(tree, cost, mask, free.possible))
    return found


def rounding_cost(value: float, goal: Goal) -> float:
    """An answer with decimals has been rounded, most likely; a whole number has not."""
    if abs(value - approximate(goal.value)) <= 1e-9 * abs(value):
        return 0.0
    return 0.8 if goal.decimals or goal.exponent is not None else 2.2


def offered(found: Sequence[Offer], numbers: Sequence[FoundNumber], goal: Goal) -> list[FoundFormula]:
    """The likeliest formulas, each once however it is written, after working them out exactly."""
    ordered = sorted(found, key=lambda offer: (offer.cost, len(line(offer.tree))))
    if any(offer.possible for offer in ordered):
        ordered = [offer for offer in ordered if offer.possible is not False]
    kept: list[FoundFormula] = []
    seen: list[tuple[float | None, ...]] = []
    for offer in ordered[:80]:
        if kept and offer.cost > kept[0].cost + FURTHER:
            break
        mark = fingerprint(offer.tree, numbers)
        if any(alike(mark, other) for other in seen):
            continue
        exact = worked_out(offer.tree, numbers)
        if exact is None or not is_near(exact, goal):
            continue
        seen.append(mark)
        used = names_in(offer.tree)
        unused = tuple(number.name for number in numbers if number.name not in used and not number.stays)
        shown = line(readable(exact))
        if not isinstance(exact, fmpq) or len(shown) > 12:
            shown = f"{approximate(exact):.6g}"
        supported = offer.supported and not unused
        kept.append(
            FoundFormula(line(offer.tree), shown, round(offer.cost, 2), unused, offer.title, offer.formula, supported)
        )
        if len(kept) == OFFERED:
            break
    return kept


def keeping_sign(formula: str, numbers: Sequence[FoundNumber], definitions: Mapping[str, str]) -> str:
    """The condition under which a formula has a value of the same sign as in the text; empty where it always has.

    ``definitions`` are those of the numbers that vary, as they were typed; the ends of ranges are tried.

    >>> numbers = found_numbers("A hole of 1 cm goes through a cube of 6 cm.", "point")
    >>> keeping_sign("l_1^3 - pi*l^2*l_1", numbers, {"l": "1..6", "l_1": "3..9"})
    'l_1^3 - pi*l^2*l_1 > 0'
    >>> keeping_sign("l_1^3 - pi*l^2*l_1", numbers, {"l": "1..2", "l_1": "6..9"})
    ''
    """
    tree = read_named(formula)
    ends = []
    for number in numbers:
        value = approximate(number.value)
        try:
            definition = read_definition(definitions[number.name], Settings()) if number.name in definitions else None
        except (NotationError, DrawError):
            # the desk says what is wrong with it
            definition = None
        limits = definition.ends if isinstance(definition, Source) else None
        ends.append([value] if limits is None else [float(limit) for limit in limits])
    function = quick_function(tree, [number.name for number in numbers])
    here = function([approximate(number.value) for number in numbers])
    if not here or sum(len(each) == 2 for each in ends) > MOST_MATCHED:
        return ""
    corners = map(function, product(*ends))
    if all(value is not None and value * here > 0 for value in corners):
        return ""
    return f"{formula} {'>' if here > 0 else '<'} 0"


def close_enough(decimals: int, figures: int) -> tuple[str, str]:
    """How close the answers of a question that varies have to be: as its printed answer was written.

    ``decimals`` are its decimal places, ``figures`` the significant figures of one in standard form, 0 for others. The
    mode of a tolerance, and its value.
    """
    if figures:
        return "significant_figures", str(figures)
    return ("decimal_places", str(decimals)) if decimals else ("relative", "1%")


@dataclass(frozen=True, slots=True)
class Varied:
    """A fixed question that varies: its text, the numbers that are parameters, the key, its unit, how close is close
    enough (as ``close_enough`` has it), and a condition that keeps the sign, empty where none is needed."""

    wording: str
    numbers: tuple[FoundNumber, ...]
    key: str
    unit: str
    close: tuple[str, str]
    condition: str = ""


def varied_by(text: str, answer: str, formula: str, settings: Settings = Settings()) -> Varied:  # noqa: B008 (frozen)
    """A fixed question that varies by a formula: the numbers of the formula become parameters, but for those that had
    better stay.

    Raises ``VaryingError`` where the formula does not give the answer from the numbers of the text.
    """
    numbers, goal = found_numbers(text, settings.decimal_mark), given_answer(answer, settings.decimal_mark)
    try:
        tree = read(formula, Settings(angle="degrees", names=frozenset(number.name for number in numbers)))
    except NotationError as problem:
        raise VaryingError(f"This formula cannot be read: {problem.message}") from None
    used, here = names_in(tree), {number.name for number in numbers}
    value = worked_out(tree, numbers) if used and used <= here else None
    if value is None or not is_near(value, goal):
        raise VaryingError("This formula does not give the answer from the numbers of the question.")
    taken = [number for number in numbers if number.name in used]
    picked = tuple(number for number in taken if not number.stays) or tuple(taken)
    condition = keeping_sign(formula, numbers, {number.name: number.definition for number in picked})
    # what stays is written into the formula
    fixed = {number.name: literal(to_fraction(number.value)) for number in numbers if number not in picked}
    key, condition = (line(substitute(read_named(each), fixed)) if each else "" for each in (formula, condition))
    close = close_enough(goal.decimals, goal.figures if goal.exponent is not None else 0)
    wording = varied(text, [replace(number, stays=False) for number in picked])
    return Varied(wording, picked, key, goal.unit, close, condition)


def fingerprint(tree: Node, numbers: Sequence[FoundNumber]) -> tuple[float | None, ...]:
    """The values of a formula for other numbers than those of the text."""
    names = [number.name for number in numbers]
    function = quick_function(tree, names)
    marks = []
    for shift in range(3):
        values = []
        for k, number in enumerate(numbers):
            value = approximate(number.value)
            whole = number.value.q == 1 and abs(value) < 1000
            values.append(value + 1 + (3 * k + 2 * shift) % 5 if whole else value * (1 + 0.011 * ((k + shift) % 7 + 1)))
        marks.append(function(values))
    return tuple(marks)


def alike(one: Sequence[float | None], other: Sequence[float | None]) -> bool:
    """Whether two formulas are one, but for how they are written and for the digits of a constant (9.81, 9.8 or 10)."""
    pairs = [(a, b) for a, b in zip(one, other) if a is not None and b is not None]
    return bool(pairs) and all(abs(a - b) <= CONSTANTS_DIFFER * max(abs(a), abs(b)) for a, b in pairs)


def worked_out(tree: Node, numbers: Sequence[FoundNumber]) -> Exact | None:
    try:
        value = Compiled(tree, "degrees").value({number.name: number.value for number in numbers})
    except EvaluationError:
        return None
    return None if isinstance(value, str | Node) else value


def is_near(value: Exact, goal: Goal) -> bool:
    """Whether a value is the printed answer once it is rounded as that is."""
    if isinstance(value, fmpq) and value == goal.value:
        return True
    if goal.fraction:
        return not isinstance(value, fmpq) and all(a.overlaps(b) for a, b in enclosures(value, goal.value))
    return abs(approximate(value) - approximate(goal.value)) <= goal.loose * (1 + 1e-6)


def read_named(text: str) -> Node:
    """A formula whose letters are those that stand in it."""
    names = frozenset(re.findall(r"[a-zA-Z]+(?:_\w+)?", text)) - FUNCTIONS - {"pi"}
    try:
        return read(text, Settings(angle="degrees", names=names))
    except NotationError:
        return read(text, Settings(angle="degrees"))

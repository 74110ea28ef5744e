"""Formulas of the book that fit a question's parameters: offered where an answer is still empty."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import permutations

from ..notation import Name, Node, line
from ..quantities import Unit
from .book import EMPTY, Formula, Letter, Solved, book, quick_function, stems
from .fixed import unit_of
from .matching import Choice, Given, constant_choice, question_of, sort_of, taken_as, written

# Words of so much weight speak for a formula whose units fit.
HEARD = 1.5
# So many parameters are looked at, and so many formulas offered.
MOST_PARAMETERS, OFFERED = 5, 3
# Letters that are used for one another.
SAME = {"t": "tn", "n": "nt", "P": "PKa", "r": "rp"}
# A parameter that stands for a letter only at this price or more, such as hours for a plain number, is not offered.
CERTAIN = 0.3
# Permutations of parameters tried in all.
STEPS = 4_000


@dataclass(frozen=True, slots=True)
class Fitting:
    """A formula in the names of the parameters, and what it is called."""

    text: str
    title: str
    printed: str
    cost: float
    # what it is worth for some values, by which equal formulas are known
    probe: float = 0.0


def fitting(parameters: Mapping[str, str], unit: str, words: str) -> list[Fitting]:
    """The formulas that give an answer in ``unit`` (empty: a plain number or not said) from parameters, by name with
    their units, the likeliest first. All parameters that have a unit are used, and the words of the question speak for
    the formula."""
    named = list(parameters.items())
    if not 1 <= len(named) <= MOST_PARAMETERS:
        return []
    given = [
        Given(Name(name), 1.3 + 0.37 * k, unit_of(each), sort_of(each), 1 << k, (), 0.0, not each)
        for k, (name, each) in enumerate(named)
    ]
    said = frozenset(stems(words)) - EMPTY
    asked = frozenset(stems(question_of(words)))
    wanted = unit_of(unit)
    found: dict[str, Fitting] = {}
    steps = 0
    for formula, heard in spoken(said):
        for solved in formula.solved:
            letters = [formula.letters[name] for name in solved.names if not formula.letters[name].constant]
            if len(letters) != len(given) or not gives(formula.letters[solved.unknown], unit, wanted):
                continue
            for order in permutations(range(len(given))):
                steps += 1
                if steps > STEPS:
                    return ranked(found)
                made = in_names(solved, {letter.name: given[k] for letter, k in zip(letters, order)}, wanted)
                if made is None:
                    continue
                alike = sum(named[k][0] in SAME.get(letter.name, letter.name) for letter, k in zip(letters, order))
                answers = formula.letters[solved.unknown].roles & asked
                cost = 4.0 - 0.42 * heard - 0.6 * alike - (0.8 if answers else 0.0) + (0.0 if solved.printed else 1.5)
                text = line(made)
                if text not in found or cost < found[text].cost:
                    found[text] = Fitting(text, formula.title, formula.text, cost, probe(made, list(parameters)))
    return ranked(found)


def probe(tree: Node, names: list[str]) -> float:
    return quick_function(tree, names)([1.7 + 0.6180339 * place for place in range(len(names))]) or 0.0


def ranked(found: Mapping[str, Fitting]) -> list[Fitting]:
    # one of each formula: the other ways to give it the parameters are less likely
    best: dict[str, Fitting] = {}
    values: set[str] = set()
    for each in sorted(found.values(), key=lambda each: (each.cost, len(each.text))):
        # the same formula solved from another
        value = f"{each.probe:.9e}"
        if value not in values:
            best.setdefault(each.title, each)
        values.add(value)
    ordered = list(best.values())
    return [each for each in ordered if each.cost < ordered[0].cost + 2.0][:OFFERED]


def spoken(said: frozenset[str]) -> list[tuple[Formula, float]]:
    """The formulas for which words speak, the loudest first; one that says little else than the text says more."""
    weights = book().weights
    found = []
    for formula in book().formulas:
        heard = sum(weights[word] for word in formula.words & said)
        if heard > HEARD:
            found.append((formula, heard * (0.7 + 0.6 * heard / sum(weights[word] for word in formula.words))))
    return sorted(found, key=lambda pair: -pair[1])


def gives(letter: Letter, unit: str, wanted: Unit | None) -> bool:
    """Whether a letter can be an answer in a unit."""
    sort = sort_of(unit)
    way = {"percent": "percent", "angle": "angle", "celsius": "difference"}.get(sort, "" if unit else "plain")
    for kind in letter.kinds:
        if kind.way == way and way:
            return True
        if sort or kind.way != "unit" or kind.unit is None or wanted is None:
            continue
        if kind.unit.dimension == wanted.dimension:
            return True
    return False


def in_names(solved: Solved, given: Mapping[str, Given], unit: Unit | None) -> Node | None:
    """A formula in the names of the parameters that stand for its letters, in the answer's unit; None where their
    units do not fit."""
    letters = [solved.formula.letters[name] for name in solved.names]
    chosen = []
    for letter in letters:
        choice = constant_choice(letter.name) if letter.constant else as_parameter(letter, given[letter.name])
        if choice is None:
            return None
        chosen.append(choice)
    return written(solved, letters, chosen, float(unit.factor) if unit is not None and unit.dimension else 1.0)


def as_parameter(letter: Letter, each: Given) -> Choice | None:
    """A parameter as it would stand for a letter; None where it cannot for certain."""
    for kind in letter.kinds:
        taken = taken_as(each, kind, False) if kind.way != "any" else None
        if taken is not None and taken[2] < CERTAIN:
            return each, *taken
    return None

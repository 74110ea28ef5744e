"""Choosing questions that meet what a plan aims at: integer programming, with the fewest violations.

The method is automated test assembly (van der Linden, Linear Models for Optimal Test Design, 2005): a variable for
every question, soft targets for the marks of every cell with a penalty for each mark that is missing or too many, then,
among what is equally good, few questions of those that have been used least.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

Cell = tuple[int, int]
# Marks are counted in hundredths.
WHOLE = 100
MISSING, TOO_MANY, ANOTHER, USED = 100, 60, 40, 1
# So many steps of the solver at most, which take about as many seconds and are the same on every machine.
EFFORT, SECONDS = 4.0, 9.0


@dataclass(frozen=True, slots=True)
class Offer:
    """A question that could be taken: its key, the cell that its marks count in, and how often it has been used."""

    key: int
    cell: Cell
    marks: Decimal
    used: int = 0


@dataclass(frozen=True, slots=True)
class Selection:
    """The keys of the questions that are taken, and of every cell that is not met the marks that it gets and wants."""

    keys: tuple[int, ...]
    unmet: Mapping[Cell, tuple[Fraction, Fraction]]


def select(wanted: Mapping[Cell, Fraction], offers: Sequence[Offer]) -> Selection:
    """The questions that bring each cell as near as can be to the marks that it wants; the same for the same offers."""
    # large, and needed only here
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    taken = [model.new_bool_var(f"question {offer.key}") for offer in offers]
    worth = [int(Fraction(offer.marks) * WHOLE) for offer in offers]
    costs = []
    for cell, marks in wanted.items():
        inside = [k for k, offer in enumerate(offers) if offer.cell == cell]
        most = sum(worth[k] for k in inside) + int(marks * WHOLE)
        missing, over = model.new_int_var(0, most, f"missing {cell}"), model.new_int_var(0, most, f"over {cell}")
        model.add(sum(worth[k] * taken[k] for k in inside) + missing - over == int(marks * WHOLE))
        costs += [MISSING * missing, TOO_MANY * over]
    costs += [(ANOTHER + USED * min(offer.used, 30)) * each for offer, each in zip(offers, taken)]
    model.minimize(sum(costs))
    solver = cp_model.CpSolver()
    solver.parameters.random_seed = 1
    solver.parameters.num_workers = 1
    solver.parameters.max_deterministic_time = EFFORT
    solver.parameters.max_time_in_seconds = SECONDS
    found = solver.solve(model)
    if found not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Selection((), {cell: (Fraction(0), marks) for cell, marks in wanted.items()})
    chosen = [k for k, each in enumerate(taken) if solver.value(each)]
    unmet = {}
    for cell, marks in wanted.items():
        got = sum((Fraction(offers[k].marks) for k in chosen if offers[k].cell == cell), Fraction(0))
        if got != marks:
            unmet[cell] = (got, marks)
    return Selection(tuple(offers[k].key for k in chosen), unmet)

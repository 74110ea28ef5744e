"""How likely it is that a formula fits so many answers by chance."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from .columns import Column

# Numbers that people write are spread about evenly over their logarithm: so much of one decade on each unit of it.
EVENLY = 1 / math.log(10)
# How far about each answer, as a share, others like it are to be expected, at least and at most.
CLOSE, NEARBY = 0.06, 0.2


def by_chance(answers: Column, keys: Column, halves: Column) -> Column:
    """For each answer how likely any number is written like it, from how the answers lie about their keys: where many
    are close to them, a number that is close as well fits more easily."""
    with np.errstate(all="ignore"):
        away = np.log(np.abs(answers / np.where(keys == 0, 1, keys)))
    away = np.where(np.isfinite(away), away, 0.0)
    # as wide as answers lie apart (Silverman's rule)
    width = min(NEARBY, max(CLOSE, 1.06 * float(away.std()) * len(away) ** -0.2))
    apart = (away[:, None] - away[None, :]) / width
    density = np.exp(-0.5 * apart**2).mean(axis=1) / (width * math.sqrt(2 * math.pi))
    size = np.maximum(np.abs(answers), halves)
    likely: Column = np.minimum(0.5, 2 * halves / size * np.maximum(EVENLY, density))
    return likely


def of_others(column: Column, answers: Column, halves: Column) -> float:
    """How often a formula's value in one draw fits an answer to another draw, where the two are not the same."""
    with np.errstate(all="ignore"):
        fits = np.abs(column[:, None] - answers[None, :]) <= halves[None, :]
        other = np.abs(column[:, None] - column[None, :]) > halves[None, :]
    pairs = int(other.sum())
    return float((fits & other).sum()) / pairs if pairs else 1.0


def log_tail(count: int, among: int, likely: float) -> float:
    """The decimal logarithm of how likely at least ``count`` of ``among`` are, each as likely by itself.

    >>> round(log_tail(3, 10, 0.01), 2)
    -3.94
    """
    if likely <= 0:
        return -300.0
    if likely >= 1:
        return 0.0
    rest = math.log1p(-likely)
    terms = [math.log(math.comb(among, k)) + k * math.log(likely) + (among - k) * rest for k in range(count, among + 1)]
    largest = max(terms)
    found = (largest + math.log(sum(math.exp(each - largest) for each in terms))) / math.log(10)
    return min(0.0, found)


def hits(columns: NDArray[np.float64], answers: Column, halves: Column) -> NDArray[np.bool_]:
    """Which answers are written as each formula's value would be, a row for each formula."""
    with np.errstate(all="ignore"):
        found: NDArray[np.bool_] = np.abs(columns - answers) <= halves
    return found

"""Finding the mistake in many classes: how often a known one is named, how often chance is, and how long one takes."""

from __future__ import annotations

import multiprocessing
import random
import time
from dataclasses import dataclass

from tests.core.test_mistakes import KEYS, class_of, names_it, random_class

from vorlage.core.mistakes import class_mistakes

# So many classes in which nobody did anything in particular, and so many for each known mistake.
RANDOM, EACH = 1_000, 5
# So many answers of how many are the mistake's, to how many figures.
SIZES = [(30, 20, 3), (28, 9, 3), (25, 6, 4), (25, 13, 3)]


@dataclass(frozen=True)
class Found:
    """The share of known mistakes that are among the first two claims, of how many; how many of the random classes
    yield a claim; the longest that one class took, in seconds of a processor."""

    named: float
    known: int
    claims: int
    worst: float


def known_class(task: tuple[int, str, int]) -> tuple[bool, float]:
    """Whether a known mistake is among the first two claims, and how long that took."""
    number, mistake, seed = task
    chosen = random.Random(f"{number} {mistake} {seed}")
    given = class_of(number, mistake, chosen, *chosen.choice(SIZES))
    began = time.process_time()
    claims = class_mistakes(given)
    took = time.process_time() - began
    return any(names_it(claim, number, mistake, chosen) for claim in claims[:2]), took


def chance_class(seed: int) -> tuple[bool, float]:
    """Whether a random class yields a claim, and how long that took."""
    given = random_class(random.Random(seed))
    began = time.process_time()
    claims = class_mistakes(given)
    return bool(claims), time.process_time() - began


def mistakes() -> Found:
    tasks = [(k, mistake, seed) for k, (*_, own) in enumerate(KEYS) for mistake in own for seed in range(EACH)]
    with multiprocessing.get_context("spawn").Pool() as pool:
        known = pool.map(known_class, tasks, chunksize=4)
        chance = pool.map(chance_class, range(RANDOM), chunksize=10)
    named = sum(right for right, _ in known) / len(known)
    worst = max(took for _, took in [*known, *chance])
    return Found(named, len(known), sum(claimed for claimed, _ in chance), worst)

"""Which questions of its pools each form gets, and in which order they stand."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..draws import Stream, stream_key
from .plan import Plan, placed

# Which question a form has: the number of the place, and of the question among those of the place.
Pick = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Picked:
    """The questions of one form in the order of the plan, and ``order``: which of them stands first, second …"""

    picks: tuple[Pick, ...]
    order: tuple[int, ...]


def mixed(count: int, stream: Stream) -> list[int]:
    """The numbers below ``count`` in an order that is drawn."""
    found = list(range(count))
    for last in range(count - 1, 0, -1):
        other = stream.below(last + 1)
        found[last], found[other] = found[other], found[last]
    return found


def picked_forms(
    plan: Plan, count: int, seed: str, kept: Mapping[int, Mapping[int, str]] | None = None
) -> list[Picked]:
    """The questions of ``count`` forms, the same for the same seed.

    No question stands twice in a form, and the questions of a pool are used equally often as far as they can be.
    ``kept`` says, by the number of a form and of the question in the order of the plan, which question it has to be.
    Raises ``PlanError``.
    """
    plan.check()
    key, used, found = stream_key(seed, 0), Counter[tuple[int, str]](), []
    fixed = all(place.take == len(place.candidates) == 1 for place in plan.places)
    for form in range(count):
        if fixed:
            picks = tuple((place, 0) for place in plan.slots)
        else:
            stream = Stream(key, form, "picks")
            chosen = picked(plan.slots, plan.options, used, stream, (kept or {}).get(form, {}))
            asked = zip(plan.slots, plan.options, chosen)
            picks = tuple((place, options.index(each)) for place, options, each in asked)
        found.append(Picked(picks, order_of(plan, Stream(key, form, "order"))))
    return found


def picked(
    slots: Sequence[int], asked: Sequence[Sequence[str]], used: Counter[tuple[int, str]], stream: Stream,
    kept: Mapping[int, str],
) -> list[str]:  # fmt: skip
    """The keys of the questions of one form, one of those ``asked`` for each slot, of whose place ``slots`` has the
    number; ``used`` counts how often each place has taken each. Empty where a slot cannot have any."""
    options = []
    for slot, place in enumerate(slots):
        keys = asked[slot]
        drawn = dict(zip(keys, mixed(len(keys), stream)))
        options.append([kept[slot]] if slot in kept else sorted(keys, key=lambda key: (used[place, key], drawn[key])))
    taken: dict[str, int] = {}
    # those with the fewest to choose from first, so that few have to give way
    for slot in sorted(range(len(options)), key=lambda slot: len(options[slot])):
        placed(slot, options, taken, set())
    chosen = {slot: key for key, slot in taken.items()}
    for slot, key in chosen.items():
        used[slots[slot], key] += 1
    return [chosen.get(slot, "") for slot in range(len(slots))]


def order_of(plan: Plan, stream: Stream) -> tuple[int, ...]:
    """The order of the questions of a form: that of the plan, but for sections that are mixed."""
    order: list[int] = []
    within: dict[int, list[int]] = {}
    for slot, place in enumerate(plan.slots):
        within.setdefault(plan.section_of(place), []).append(slot)
    for section, slots in within.items():
        if section >= 0 and plan.sections[section].mixed:
            slots = [slots[k] for k in mixed(len(slots), stream)]
        order += slots
    return tuple(order)

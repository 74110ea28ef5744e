"""Which form goes to which seat, so that neighbours have different ones and few answers in common.

Seats are the nodes of a graph, joined where one can look at the other's paper, and forms are its colours. With as many
forms as seats this is a quadratic assignment, which is searched by exchanges (Burkard, Dell'Amico, Martello, Assignment
Problems, 2009, chapter 8); with fewer it is a weighted colouring with balanced classes, which a solver brings to its
optimum where that is within its effort. Both are the same for the same seats and forms.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from enum import Enum
from random import Random

# Row and column, from 0, the front row first.
Seat = tuple[int, int]

MOST_ROWS = MOST_COLUMNS = 30
# Two neighbours with one form cost more than any answers that others share.
SAME_FORM = 1000
# So many exchanges are weighed at most, and so often is a search begun again from a disturbed best.
EXCHANGES, DISTURBED = 120_000, 12
# The solver works on rooms of this many pairs of forms between neighbours, with so much effort: about as many seconds,
# and the same on every machine.
MOST_PAIRS, EFFORT = 20_000, 1.0


class Nearness(Enum):
    """How two neighbours sit, and how much what they share weighs."""

    SIDE = "side by side", 4
    FRONT = "one behind the other", 2
    DIAGONAL = "diagonally", 1

    def __init__(self, words: str, weight: int) -> None:
        self.words, self.weight = words, weight


STEPS = ((0, 1, Nearness.SIDE), (1, 0, Nearness.FRONT), (1, 1, Nearness.DIAGONAL), (1, -1, Nearness.DIAGONAL))


@dataclass(frozen=True, slots=True)
class Neighbours:
    """Two seats, by their numbers in a list, that are next to each other."""

    one: int
    other: int
    nearness: Nearness


@dataclass(frozen=True, slots=True)
class Room:
    """Seats in rows and columns, without those that are gaps."""

    rows: int
    columns: int
    gaps: frozenset[Seat] = frozenset()

    @property
    def seats(self) -> list[Seat]:
        """From the front row on, each from left to right as seen from the front."""
        every = ((row, column) for row in range(self.rows) for column in range(self.columns))
        return [seat for seat in every if seat not in self.gaps]

    @property
    def numbers(self) -> dict[Seat, int]:
        """The number of each seat in its row, from 1, gaps not counted."""
        rows: Counter[int] = Counter()
        found = {}
        for seat in self.seats:
            rows[seat[0]] += 1
            found[seat] = rows[seat[0]]
        return found

    def seats_for(self, count: int, apart: bool = False) -> list[Seat]:
        """The seats that ``count`` people take; ``apart`` leaves those between them free as far as there are enough.
        Fewer come back where the room is too small."""
        seats = self.seats
        if apart:
            # every second column by its place in the row, then of these every second row
            alone = [seat for seat in seats if self.rank(seat) % 2 == 0]
            wider = [seat for seat in alone if seat[0] % 2 == 0]
            for some in (wider, alone):
                if len(some) >= count:
                    return some[:count]
            rest = [seat for seat in seats if self.rank(seat) % 2]
            return sorted([*alone, *rest][:count])
        return seats[:count]

    def rank(self, seat: Seat) -> int:
        """How many steps a seat is from where its block of seats begins: a gap parts blocks."""
        row, column = seat
        start = column
        while start and (row, start - 1) not in self.gaps:
            start -= 1
        return column - start


def neighbours(seats: Sequence[Seat]) -> list[Neighbours]:
    """All pairs of these seats that are next to each other: beside, in front, and diagonally."""
    at = {seat: number for number, seat in enumerate(seats)}
    return [
        Neighbours(number, at[beside], nearness)
        for (row, column), number in at.items()
        for down, right, nearness in STEPS
        if (beside := (row + down, column + right)) in at
    ]


@dataclass(frozen=True, slots=True)
class Written:
    """What the answer of one part says on one paper."""

    # the number of the question on the paper, and of its part in it, from 0
    number: int
    part: int
    # which place of the plan the question is of, and which question it is
    question: tuple[int, int]
    # as it is written there, a letter for an option, and what it says whatever its letter
    key: str
    says: str

    @property
    def marked(self) -> tuple[tuple[object, ...], tuple[object, ...]]:
        """By what a neighbour could copy it: at this number as it is written, or in this question as it is meant."""
        return ("at", self.number, self.part, self.key), ("of", *self.question, self.part, self.says)


Paper = Sequence[Written]


def in_common(one: Paper, other: Paper) -> int:
    """Of how many parts the answer could be copied between two papers: the same is written at the same number, be it
    only the letter, or the same is said to the same question; more in whichever direction more are."""
    return max(copied(one, other), copied(other, one))


def copied(one: Paper, other: Paper) -> int:
    there = {mark for answer in other for mark in answer.marked}
    return sum(any(mark in there for mark in answer.marked) for answer in one if answer.says)


@dataclass
class Costs:
    """What two neighbours with these forms have in common, looked up once a pair."""

    papers: Sequence[Paper]

    def __post_init__(self) -> None:
        self.known: dict[tuple[int, int], int] = {}

    def of(self, one: int, other: int) -> int:
        if one == other:
            return SAME_FORM
        pair = (one, other) if one < other else (other, one)
        found = self.known.get(pair)
        if found is None:
            found = self.known[pair] = min(in_common(self.papers[one], self.papers[other]), SAME_FORM - 1)
        return found


def give(seats: Sequence[Seat], papers: Sequence[Paper], progress: Callable[[], None] = lambda: None) -> list[int]:
    """The number of the form for each seat: no neighbours have the same where that can be, and what they share weighs
    least: beside each other most, diagonally least. Each is used about as often as every other.

    ``progress`` is called now and then; what it raises ends the work.
    """
    if not papers:
        raise ValueError("There are no forms to give.")
    if not seats:
        return []
    joined, costs = neighbours(seats), Costs(papers)
    if len(papers) >= len(seats):
        return Exchange(len(seats), joined, costs, progress).search()
    # four and more forms never meet so, and two and three as seldom as can be in a room without gaps
    laid = [(column + 2 * row) % len(papers) for row, column in seats]
    ways = [Exchange(len(seats), joined, costs, progress, start).search() for start in (None, laid)]
    found = min(ways, key=lambda given: weighed(given, joined, costs))
    if weighed(found, joined, costs) and len(joined) * len(papers) ** 2 <= MOST_PAIRS:
        progress()
        found = solved(len(seats), joined, costs, found)
    return found


def weighed(given: Sequence[int], joined: Iterable[Neighbours], costs: Costs) -> int:
    """What all neighbours have in common, weighed by how near they are."""
    return sum(each.nearness.weight * costs.of(given[each.one], given[each.other]) for each in joined)


class Exchange:
    """A search by exchanges: of the forms of two seats, or of one for a form that nobody has."""

    def __init__(
        self, count: int, joined: Sequence[Neighbours], costs: Costs, progress: Callable[[], None],
        start: Sequence[int] | None = None,
    ) -> None:  # fmt: skip
        self.costs, self.progress = costs, progress
        self.beside: list[list[tuple[int, int]]] = [[] for _ in range(count)]
        for each in joined:
            self.beside[each.one].append((each.other, each.nearness.weight))
            self.beside[each.other].append((each.one, each.nearness.weight))
        self.left = EXCHANGES
        # behind the forms of the seats stand those that nobody has
        forms = len(costs.papers)
        self.all = list(start or self.begun(count, [k % forms for k in range(max(count, forms))]))
        self.count = count

    def begun(self, count: int, forms: list[int]) -> list[int]:
        """Seat by seat the form that shares least with those who sit there already."""
        left, given = Counter(forms), list[int]()
        for seat in range(count):
            there = [(other, weight) for other, weight in self.beside[seat] if other < seat]

            def cost(form: int, there: list[tuple[int, int]] = there) -> int:
                return sum(weight * self.costs.of(form, given[other]) for other, weight in there)

            # of a thousand forms the first that are left are enough to begin with
            some = list(left)[:60]
            best = min(some, key=lambda form: (cost(form), -left[form], form))
            given.append(best)
            left[best] -= 1
            if not left[best]:
                del left[best]
        return given + list(left.elements())

    def at(self, seat: int, form: int, but: int) -> int:
        """What a form shares at a seat with its neighbours there, leaving out one of them."""
        if seat >= self.count:
            return 0
        forms = self.all
        return sum(weight * self.costs.of(form, forms[other]) for other, weight in self.beside[seat] if other != but)

    def gain(self, one: int, other: int) -> int:
        a, b = self.all[one], self.all[other]
        if a == b:
            return 0
        before = self.at(one, a, other) + self.at(other, b, one)
        return before - self.at(one, b, other) - self.at(other, a, one)

    def descend(self) -> None:
        """Make exchanges that share less until none is left, or the effort is spent."""
        better = True
        while better and self.left > 0:
            better = False
            self.progress()
            for one in range(self.count):
                for other in range(one + 1, len(self.all)):
                    self.left -= 1
                    if self.gain(one, other) > 0:
                        self.all[one], self.all[other] = self.all[other], self.all[one]
                        better = True
                if self.left <= 0:
                    break

    def search(self) -> list[int]:
        chance = Random(1)
        self.descend()
        best, least = list(self.all), self.total()
        for _ in range(DISTURBED):
            if not least or self.left <= 0:
                break
            for _ in range(2 + self.count // 6):
                one, other = chance.randrange(self.count), chance.randrange(len(self.all))
                self.all[one], self.all[other] = self.all[other], self.all[one]
            self.descend()
            if (total := self.total()) < least:
                best, least = list(self.all), total
            else:
                self.all = list(best)
        return best[: self.count]

    def total(self) -> int:
        return sum(self.at(seat, self.all[seat], -1) for seat in range(self.count))


def solved(count: int, joined: Sequence[Neighbours], costs: Costs, known: list[int]) -> list[int]:
    """The same by a solver, which begins with what is known; what is known comes back where it finds nothing better."""
    # large, and needed only here
    from ortools.sat.python import cp_model

    forms = range(len(costs.papers))
    model = cp_model.CpModel()
    has = [[model.new_bool_var(f"seat {seat} form {form}") for form in forms] for seat in range(count)]
    for seat, each in enumerate(has):
        model.add_exactly_one(each)
        for form in forms:
            model.add_hint(each[form], known[seat] == form)
    often = [known.count(form) for form in forms]
    fewest, most = min(*often, count // len(forms)), max(*often, -(-count // len(forms)))
    for form in forms:
        model.add_linear_constraint(sum(each[form] for each in has), fewest, most)
    terms = []
    for pair in joined:
        for one in forms:
            for other in forms:
                if cost := costs.of(one, other):
                    both = model.new_bool_var("")
                    model.add_bool_or([has[pair.one][one].Not(), has[pair.other][other].Not(), both])
                    terms.append(pair.nearness.weight * cost * both)
    model.minimize(sum(terms))
    solver = cp_model.CpSolver()
    solver.parameters.random_seed = 1
    solver.parameters.num_workers = 1
    solver.parameters.max_deterministic_time = EFFORT
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return known
    found = [next(form for form in forms if solver.boolean_value(each[form])) for each in has]
    return found if weighed(found, joined, costs) < weighed(known, joined, costs) else known

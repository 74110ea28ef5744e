"""Choosing draws so that forms are equal: as much number work in each, no answer twice, right options spread evenly.

What is made small is, over all forms and components of number work, the sum of the fourth powers of how far a form is
from the mean, each component measured by how much it varies when draws are taken as they come. Question by question the
draws are given to the forms in the best way there is (an assignment problem), in rounds until nothing improves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence, Set
from contextlib import suppress
from functools import cached_property
from itertools import islice
from operator import itemgetter

import numpy as np
from numpy.typing import NDArray
from ortools.graph.python.linear_sum_assignment import SimpleLinearSumAssignment

from ..answers import LETTERS
from ..crew import Crew
from ..draws import Stream, stream_key
from ..notation import line
from ..plans import Picked, Place, Plan, picked_forms
from ..questions import COMPONENTS, DrawnQuestion, NumberWork, QuestionDrawing
from .items import KeyFailure, MadeItem, made_item
from .outlines import Basis, Chosen, Drawn, Evenness, Outlines
from .sharing import MOST_LOOKED_THROUGH, NOTHING_NEW, OF_EACH_FORM, Drawable, apart, draws_from, said

Numbers = NDArray[np.float64]
# So many draws more than there are forms are looked at for each question, so that there is something to choose from.
MORE = 40
# Forms are compared in groups of so many, each with its share of the draws, so that a thousand take no longer each.
TOGETHER = 60
# The draws are given in so many rounds at most, from so many beginnings.
ROUNDS, BEGINNINGS = 8, 4
# The higher the power, the more the form that is farthest from the mean counts.
POWERS = (4, 12)
# So many draws are looked through by several processes, which make questions of forms of them at once.
BY_SEVERAL = 2000
# So many exchanges of questions are tried for each form, and so many altogether at most.
EXCHANGES, MOST_EXCHANGES = 300, 60_000
# Random sets that evenness is measured against.
RANDOM_SETS = 20
# The letters whose right options are spread, and what one too many in a form weighs, in typical deviations.
SPREAD, A_LETTER = LETTERS[:6], 0.7
Slot = tuple[int, int]


class Group:
    """A question, the slots of the forms that have it, and the draws that they can be given."""

    def __init__(self, plan: Plan, position: int, number: int, forms: list[Slot]) -> None:
        # the number of its place, and its own among those of the place
        self.plan, self.position, self.number, self.forms = plan, position, number, forms
        self.place = plan.places[position].candidates[number]
        # the draws, and of each the number of its list: draws of the same list answer alike, and one of each list is
        # given at most
        self.draws: list[Drawable] = []
        self.list_of = np.zeros(0, dtype=int)
        # which of the draws each of the forms has
        self.given: list[int] = []
        # whether there are fewer draws than forms
        available = self.place.question.parameters.count
        self.repeats = available is not None and available < len(forms)

    @cached_property
    def work(self) -> NumberWork:
        return NumberWork(self.place.question)

    @cached_property
    def drawing(self) -> QuestionDrawing:
        return QuestionDrawing(self.place.question, self.place.key, self.place.revision)

    def drawable(self, number: int, making: bool = False) -> Drawable:
        drawn = self.drawing.draw(number)
        parts, made = range(len(drawn.answers)), self.made(drawn) if making else None
        if made is None:
            answers = tuple(said(drawn, part) for part in parts)
        else:
            answers = tuple(key.says for key in made.keys)
        letters = tuple((part, letter) for part in parts for letter in right_letters(drawn, part))
        return Drawable(number, answers, letters, self.work.of(drawn), made)

    def made(self, drawn: DrawnQuestion) -> MadeItem | None:
        """The question of a form; None where its key fails, which is told when a form gets it."""
        with suppress(KeyFailure):
            return made_item(self.plan, drawn, Chosen(self.position, self.number, drawn.draw.number, 0), "")
        return None

    def collect(self, start: int, kept: Sequence[int], avoided: Set[int], making: bool = False) -> None:
        """Look through the draws for as many as are wanted, those that are kept first; those that are avoided come
        only where there are no others. ``making``, questions of forms are made of them at once."""
        needed = len(self.forms) - len(kept)
        available = self.place.question.parameters.count
        taken = [self.drawable(number, making) for number in kept]
        without = {*kept, *avoided} if available is None or available - len(avoided) >= needed else set(kept)
        numbers = (number for number in draws_from(self.place, start) if number not in without)
        scanned = [self.drawable(number, making) for number in islice(numbers, needed + MORE)] if needed > 0 else []
        heard = [set(answers) for answers in zip(*(each.said for each in scanned))]
        most = max(MOST_LOOKED_THROUGH, OF_EACH_FORM * needed)
        most = most if available is None else min(most, available)
        # an answer that is the same in every draw so far is so in all of them
        found, idle = apart(scanned, needed, needed + MORE, taken), 0
        while any(1 < len(answers) < needed for answers in heard) and idle < NOTHING_NEW and len(scanned) < most:
            each = self.drawable(next(numbers), making)
            scanned.append(each)
            new = any(answer not in answers for answer, answers in zip(each.said, heard))
            idle = 0 if new else idle + 1
            for answer, answers in zip(each.said, heard):
                answers.add(answer)
            found = []
        lists = [[each] for each in taken]
        lists += self.spread(found or apart(scanned, needed, needed + MORE, taken), needed)
        while len(lists) < len(self.forms):
            # fewer draws than forms: they come again
            lists.append(lists[len(lists) % (len(scanned) + len(kept))])
        self.draws = [each for some in lists for each in some]
        self.list_of = np.repeat(np.arange(len(lists)), [len(some) for some in lists])

    def spread(self, lists: list[list[Drawable]], count: int) -> list[list[Drawable]]:
        """Where options are chosen, as many draws as are needed, their right options as often under each letter."""
        by_letter: dict[str, list[list[Drawable]]] = {}
        for some in lists:
            by_letter.setdefault(some[0].letters[0][1] if some[0].letters else "", []).append(some[:1])
        if set(by_letter) <= {""}:
            return lists
        turns = [list(each) for _, each in sorted(by_letter.items())]
        found: list[list[Drawable]] = []
        while len(found) < count and any(turns):
            found += [turn.pop(0) for turn in turns if turn]
        return found[:count]

    def vectors(self) -> Numbers:
        """What each draw adds to its form: its number work, and how many right options stand under each letter."""
        counted = [[sum(letter == each for _, letter in draw.letters) for each in SPREAD] for draw in self.draws]
        return np.hstack([np.array([draw.work for draw in self.draws]), np.array(counted, dtype=float)])


def right_letters(drawn: DrawnQuestion, part: int) -> Iterator[str]:
    """The letters of the right options of a part that is ticked; nothing for others."""
    answer = drawn.answers[part]
    if answer is None or not answer.space().ticked:
        return
    offered = {label for label, _ in answer.space().entries}
    yield from (letter for letter in line(answer.key_tree()) if letter in offered)


class Table:
    """What every form adds up to, while draws are given to them."""

    def __init__(self, groups: Sequence[Group], count: int, like: Sequence[float] = ()) -> None:
        self.groups, self.like = groups, np.array(like)
        self.values = [group.vectors() for group in groups]
        self.totals = np.zeros((count, len(COMPONENTS) + len(SPREAD)))
        self.scale = np.ones(self.totals.shape[1])

    def give(self, number: int, given: Sequence[int]) -> None:
        """Give the forms of a group these of its draws, in place of what they have."""
        group, values = self.groups[number], self.values[number]
        forms = [form for form, _ in group.forms]
        if group.given:
            np.subtract.at(self.totals, forms, values[group.given])
        group.given = list(given)
        np.add.at(self.totals, forms, values[group.given])

    def fix_scale(self, sets: Sequence[Numbers]) -> None:
        """Measure every component by how much it varies over forms that are made as they come, and no finer than by
        one: one carry, one sign, one word is the least that there can be."""
        usual = np.sqrt(np.mean([np.var(totals, axis=0) for totals in sets], axis=0))
        self.scale = np.where(usual < 1e-9, np.inf, np.maximum(usual, 1.0))
        letters = self.scale[len(COMPONENTS) :]
        letters[np.isfinite(letters)] = 1 / A_LETTER

    def ranges(self, totals: Numbers) -> Numbers:
        """The range over the forms of every component of number work, as measured."""
        work = totals[:, : len(COMPONENTS)]
        spread: Numbers = (work.max(axis=0) - work.min(axis=0)) / self.scale[: len(COMPONENTS)]
        return spread

    @property
    def target(self) -> Numbers:
        """What every form is to add up to: the mean of all, or what is said."""
        mean: Numbers = self.totals.mean(axis=0)
        if len(self.like) == len(COMPONENTS):
            mean[: len(COMPONENTS)] = self.like
        return mean

    def badness(self, power: int) -> float:
        return float(raised((self.totals - self.target) / self.scale, power).sum())

    def best_for(self, number: int, some: Sequence[int], lists: Sequence[int], power: int) -> list[int]:
        """The draws of these lists that suit some of a group's forms best while all else stays, by their numbers in
        the group."""
        group, values = self.groups[number], self.values[number]
        rest = self.totals[[group.forms[k][0] for k in some]] - values[[group.given[k] for k in some]]
        draws = np.flatnonzero(np.isin(group.list_of, lists))
        away = (rest[:, None, :] + values[draws][None, :, :] - self.target) / self.scale
        costs = raised(away, power).sum(axis=2)
        # the best draw of each list for each form
        starts = np.flatnonzero(np.diff(group.list_of[draws], prepend=-1))
        best = np.minimum.reduceat(costs, starts, axis=1)
        ends = [*starts[1:], len(draws)]
        chosen = assigned(best)
        return [int(draws[starts[k] + costs[row, starts[k] : ends[k]].argmin()]) for row, k in enumerate(chosen)]


def raised(numbers: Numbers, power: int) -> Numbers:
    """The fourth powers, or the twelfth: multiplied, which is many times faster than a power that could be any."""
    squares = numbers * numbers
    fourth: Numbers = squares * squares
    return fourth if power == 4 else fourth * fourth * fourth


def assigned(costs: Numbers) -> list[int]:
    """The columns of the rows of a table of costs, each once, so that they cost least together."""
    rows, columns = costs.shape
    costs = np.vstack([costs, np.zeros((columns - rows, columns))])
    whole = np.rint(np.minimum(costs, 1e6) * 1e6).astype(np.int64)
    solver = SimpleLinearSumAssignment()
    left, right = np.indices((columns, columns))
    solver.add_arcs_with_cost(left.ravel().astype(np.int32), right.ravel().astype(np.int32), whole.ravel())
    if solver.solve() != solver.OPTIMAL:
        raise ArithmeticError("An assignment that always exists was not found.")
    return [solver.right_mate(row) for row in range(rows)]


def choose(
    plan: Plan, count: int, seed: str, basis: Basis, progress: Callable[[int], None] = lambda looked: None
) -> Outlines:
    """Which questions and draws each form gets, the same for the same seed, and for the same ``basis``.

    ``progress`` is told how many questions have been looked through, and what it raises ends the work. Raises
    ``PlanError``, and ``DrawError`` when a question cannot be drawn.
    """
    kept = dict(basis.kept)
    pinned: dict[int, dict[int, str]] = {}
    for (form, slot), (key, _) in kept.items():
        pinned.setdefault(form, {})[slot] = key
    picked = picked_forms(plan, count, seed, pinned)
    if not basis.kept and not basis.avoided:
        # the draw that was seen and taken along
        for slot, (place, candidate) in enumerate(picked[0].picks):
            first = plan.places[place].candidates[candidate].first
            if first is not None:
                kept[0, slot] = (plan.places[place].candidates[candidate].key, first)
    groups = grouped(plan, picked)
    look_through(plan, groups, seed, kept, basis.avoided, progress)
    # what forms would be whose questions and draws are taken as they come
    fixed, random = staying(groups, kept), Table(groups, count)
    sets = [as_it_comes(random, fixed, Stream(stream_key(seed, 1), turn, "random")) for turn in range(RANDOM_SETS)]
    random.fix_scale(sets)
    work = random.scale[: len(COMPONENTS)]
    picked = level(plan, picked, groups, set(kept), work, Stream(stream_key(seed, 2), 0, "level"))
    for group, regrouped in zip(groups, grouped(plan, picked)):
        group.forms, group.given = regrouped.forms, []
    fixed, table = staying(groups, kept), Table(groups, count, basis.like)
    table.scale = random.scale
    settle(table, fixed, seed)
    before = float(np.median([table.ranges(totals).max() for totals in sets]))
    return outlines(plan, picked, table, before)


def look_through(
    plan: Plan, groups: Sequence[Group], seed: str, kept: Mapping[Slot, tuple[str, int]],
    avoided: Mapping[str, frozenset[int]], progress: Callable[[int], None],
) -> None:  # fmt: skip
    """Find the draws of every question that forms can be given."""
    searches: list[Search] = []
    for group in groups:
        numbers = list(dict.fromkeys(kept[slot][1] for slot in group.forms if slot in kept))
        start = first_draw(group.place, seed, group.position)
        without = avoided.get(group.place.key, frozenset())
        searches.append((group.position, group.number, group.forms, start, numbers, without))
    if sum(len(group.forms) + MORE for group in groups) > BY_SEVERAL:
        for group, (draws, list_of) in zip(groups, Crew(plan, searched).results(searches, progress)):
            group.draws, group.list_of = draws, list_of
        return
    for number, (group, (*_, start, numbers, without)) in enumerate(zip(groups, searches)):
        group.collect(start, numbers, without)
        progress(number + 1)


# What a process looks for: the place and the question by their numbers, the forms, and what ``Group.collect`` is told.
Search = tuple[int, int, list[Slot], int, list[int], frozenset[int]]


def searched(plan: Plan, search: Search, told: Callable[[], None]) -> tuple[list[Drawable], NDArray[np.int_]]:
    """The draws of a question and their lists, with the questions of forms that they make."""
    position, number, forms, start, kept, avoided = search
    group = Group(plan, position, number, forms)
    group.collect(start, kept, avoided, making=True)
    told()
    return group.draws, group.list_of


def first_draw(place: Place, seed: str, position: int) -> int:
    """Where a form set begins in a question's draws, so that two sets of one test differ."""
    available = place.question.parameters.count
    stream = Stream(stream_key(f"{seed}\x1f{place.key}", position), 0, "start")
    return 1 + stream.below(1_000_000 if available is None else max(1, available))


def grouped(plan: Plan, picked: Sequence[Picked]) -> list[Group]:
    """The questions that forms have, each with the forms that have it."""
    found: dict[tuple[int, int], list[Slot]] = {}
    for form, each in enumerate(picked):
        for slot, pick in enumerate(each.picks):
            found.setdefault(pick, []).append((form, slot))
    return [Group(plan, place, k, forms) for (place, k), forms in sorted(found.items())]


def staying(groups: Sequence[Group], kept: Mapping[Slot, tuple[str, int]]) -> list[list[int]]:
    """Which of its draws each form of a group has to have, by the number of the form in the group; -1 for any."""
    found = []
    for group in groups:
        numbers = {draw.number: k for k, draw in reversed(list(enumerate(group.draws)))}
        found.append([numbers[kept[slot][1]] if slot in kept else -1 for slot in group.forms])
    return found


def level(
    plan: Plan, picked: Sequence[Picked], groups: Sequence[Group], kept: Set[Slot], scale: Numbers, stream: Stream
) -> list[Picked]:
    """The same questions of every pool, exchanged between forms so that forms are alike in what they ask on average.
    No question stands twice in a form."""
    picks = [list(each.picks) for each in picked]
    slots = [k for k, place in enumerate(plan.slots) if len(plan.places[place].candidates) > 1]
    if not slots or len(picks) < 2:
        return list(picked)
    mean = {(group.position, group.number): group.vectors()[:, : len(COMPONENTS)].mean(axis=0) for group in groups}
    away = np.array([sum(mean[pick] for pick in form) for form in picks])
    away -= away.mean(axis=0)
    keys = {pick: plan.places[pick[0]].candidates[pick[1]].key for pick in mean}
    alike = {slot: [k for k in slots if plan.slots[k] == plan.slots[slot]] for slot in slots}
    for power in POWERS:
        for _ in range(min(EXCHANGES * len(picks), MOST_EXCHANGES)):
            one, other, slot = stream.below(len(picks)), stream.below(len(picks)), slots[stream.below(len(slots))]
            there = alike[slot][stream.below(len(alike[slot]))]
            mine, theirs = picks[one][slot], picks[other][there]
            if one == other or mine == theirs or (one, slot) in kept or (other, there) in kept:
                continue
            if any(keys[pick] == keys[theirs] for k, pick in enumerate(picks[one]) if k != slot):
                continue
            if any(keys[pick] == keys[mine] for k, pick in enumerate(picks[other]) if k != there):
                continue
            both = away[[one, other]]
            moved = both + np.outer((1.0, -1.0), mean[theirs] - mean[mine])
            if raised(moved / scale, power).sum() < raised(both / scale, power).sum() - 1e-12:
                picks[one][slot], picks[other][there] = theirs, mine
                away[[one, other]] = moved
    return [Picked(tuple(form), each.order) for form, each in zip(picks, picked)]


def as_it_comes(table: Table, fixed: Sequence[Sequence[int]], stream: Stream) -> Numbers:
    """What forms add up to whose draws are taken as they come."""
    # its numbers are the same for ever, as NumPy promises of this one
    chance = np.random.RandomState(stream.below(2**32))
    for number, group in enumerate(table.groups):
        starts = np.searchsorted(group.list_of, np.arange(int(group.list_of[-1]) + 2))
        lists = chance.permutation(np.array(free_lists(group, fixed[number]), dtype=int))
        long = np.diff(starts)[lists]
        drawn = iter((starts[lists] + (chance.random_sample(len(lists)) * long).astype(int)).tolist())
        table.give(number, [k if k >= 0 else next(drawn) for k in fixed[number]])
    return table.totals.copy()


def free_lists(group: Group, fixed: Sequence[int]) -> list[int]:
    """The lists of draws of a group but for those of which one stays where it is."""
    staying = {int(group.list_of[k]) for k in fixed if k >= 0}
    return [k for k in range(int(group.list_of[-1]) + 1) if k not in staying]


def settle(table: Table, fixed: Sequence[Sequence[int]], seed: str) -> None:
    """Give the draws to the forms, question by question, in rounds until nothing improves: from several beginnings, of
    which the best is kept."""
    found: list[tuple[float, list[list[int]]]] = []
    for turn in range(BEGINNINGS if len(table.totals) <= TOGETHER else 1):
        as_it_comes(table, fixed, Stream(stream_key(seed, 1), turn, "random"))
        for power in POWERS:
            settle_by(power, table, fixed)
        found.append((float(table.ranges(table.totals).max()), [group.given for group in table.groups]))
    for number, given in enumerate(min(found, key=itemgetter(0))[1]):
        table.give(number, given)


def settle_by(power: int, table: Table, fixed: Sequence[Sequence[int]]) -> None:
    before = table.badness(power)
    for _ in range(ROUNDS):
        for number, group in enumerate(table.groups):
            free = [k for k, kept in enumerate(fixed[number]) if kept < 0]
            given = list(group.given)
            used = {int(group.list_of[k]) for k in given}
            spare = [k for k in free_lists(group, fixed[number]) if k not in used]
            # of very many forms each stretch exchanges its own draws, and has its own share of the spare ones
            stretches = [free[start : start + TOGETHER] for start in range(0, len(free), TOGETHER)]
            for turn, some in enumerate(stretches):
                lists = sorted([int(group.list_of[given[k]]) for k in some] + spare[turn :: len(stretches)])
                for k, draw in zip(some, table.best_for(number, some, lists, power)):
                    given[k] = draw
            table.give(number, given)
        after = table.badness(power)
        if after > before * 0.999:
            break
        before = after


def outlines(plan: Plan, picked: Sequence[Picked], table: Table, before: float) -> Outlines:
    """What was chosen, as plain data."""
    draws: dict[Slot, int] = {}
    made: dict[Drawn, MadeItem] = {}
    short: dict[int, set[int]] = {}
    for group in table.groups:
        for slot, k in zip(group.forms, group.given):
            draw = group.draws[k]
            draws[slot] = draw.number
            if draw.made is not None:
                made[group.position, group.number, draw.number] = draw.made
        for part in range(len(group.draws[0].said) if group.draws else 0):
            heard = [group.draws[k].said[part] for k in group.given]
            if heard and heard[0] and len(set(heard)) < len(heard):
                short.setdefault(group.position, set()).add(part)
    forms = tuple(
        tuple(Chosen(*each.picks[slot], draws[form, slot], slot) for slot in each.order)
        for form, each in enumerate(picked)
    )
    spread = table.ranges(table.totals)
    worst = int(spread.argmax())
    limiting = max(
        range(len(table.groups)),
        key=lambda k: float(np.ptp(table.values[k][table.groups[k].given, worst])),
        default=0,
    )
    work = table.totals[:, : len(COMPONENTS)]
    scale = np.where(np.isinf(table.scale), 0.0, table.scale)[: len(COMPONENTS)]
    evenness = Evenness(
        tuple(tuple(float(value) for value in row) for row in work),
        tuple(map(float, scale)),
        float(spread.max()),
        before,
        COMPONENTS[worst] if spread.max() > 0 else "",
        table.groups[limiting].position if table.groups and spread.max() > 0 else -1,
    )
    repeats = tuple(sorted({group.position for group in table.groups if group.repeats}))
    return Outlines(forms, evenness, repeats, {place: tuple(sorted(parts)) for place, parts in short.items()}, made)

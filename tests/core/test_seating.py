"""Who sits where with which form: judged by trying everything in small rooms, and by what must hold in large ones."""

from collections import Counter
from itertools import combinations, product
from random import Random
from unittest import TestCase

from vorlage.core.forms import Costs, Nearness, Room, Written, give, neighbours, seating
from vorlage.core.forms.seating import weighed


def papers(count: int, questions: int, answers: int, seed: int = 1) -> list[list[Written]]:
    """Forms with answers by chance."""
    chance = Random(seed)
    return [
        [Written(k, 0, (k, 0), str(said := chance.randrange(answers)), str(said)) for k in range(questions)]
        for _ in range(count)
    ]


def paper(*answers: tuple[int, str, str]) -> list[Written]:
    """A form with a question of a place at each number, as it is written and as it is meant."""
    return [Written(number, 0, (place, 0), key, says) for number, (place, key, says) in enumerate(answers)]


class Rooms(TestCase):
    def test_seats_are_counted_from_the_front_and_gaps_are_none(self) -> None:
        room = Room(2, 3, frozenset([(0, 1)]))
        self.assertEqual(room.seats, [(0, 0), (0, 2), (1, 0), (1, 1), (1, 2)])
        self.assertEqual(room.numbers, {(0, 0): 1, (0, 2): 2, (1, 0): 1, (1, 1): 2, (1, 2): 3})

    def test_neighbours_sit_beside_before_and_diagonally_and_nobody_sits_beside_a_gap(self) -> None:
        for rows, columns in product(range(1, 5), range(1, 5)):
            room = Room(rows, columns, frozenset({(0, 1), (2, 2)} & {*Room(rows, columns).seats}))
            seats = room.seats
            for one, other in combinations(range(len(seats)), 2):
                down, right = (abs(seats[one][k] - seats[other][k]) for k in (0, 1))
                near = {(0, 1): Nearness.SIDE, (1, 0): Nearness.FRONT, (1, 1): Nearness.DIAGONAL}.get((down, right))
                found = [each.nearness for each in neighbours(seats) if {each.one, each.other} == {one, other}]
                self.assertEqual(found, [near] if near else [], (seats[one], seats[other]))

    def test_people_sit_apart_as_far_as_there_are_seats(self) -> None:
        room = Room(4, 6)
        for count, most in ((6, 0), (12, 0)):
            seats = room.seats_for(count, apart=True)
            sides = [each for each in neighbours(seats) if each.nearness is Nearness.SIDE]
            self.assertEqual((len(seats), len(sides)), (count, most))
        self.assertFalse(neighbours(room.seats_for(6, apart=True)))
        self.assertEqual(len(set(room.seats_for(20, apart=True))), 20)
        self.assertEqual(len(room.seats_for(30)), 24)
        # beside an aisle it begins anew
        aisle = Room(1, 5, frozenset([(0, 2)]))
        self.assertEqual(aisle.seats_for(2, apart=True), [(0, 0), (0, 3)])


class InCommon(TestCase):
    def test_a_letter_counts_at_its_number_and_what_it_says_in_its_question(self) -> None:
        one = paper((0, "B", "iron"), (1, "42", "42"))
        self.assertEqual(seating.in_common(one, paper((0, "B", "copper"), (1, "43", "43"))), 1)
        self.assertEqual(seating.in_common(one, paper((0, "C", "iron"), (1, "43", "43"))), 1)
        self.assertEqual(seating.in_common(one, paper((0, "C", "copper"), (1, "43", "43"))), 0)
        # in another order: the same question elsewhere, and another question's answer at the same number
        self.assertEqual(seating.in_common(one, paper((1, "42", "42"), (0, "C", "zinc"))), 1)
        self.assertEqual(seating.in_common(one, paper((2, "B", "tin"), (3, "42", "x"))), 2)
        self.assertEqual(seating.in_common(one, one), 2)

    def test_what_asks_nothing_is_not_counted(self) -> None:
        self.assertEqual(seating.in_common(paper((0, "–", "")), paper((0, "–", ""))), 0)

    def test_both_directions_are_the_same(self) -> None:
        for one, other in combinations(papers(12, 6, 3), 2):
            self.assertEqual(seating.in_common(one, other), seating.in_common(other, one))


class Giving(TestCase):
    def test_as_good_as_trying_everything(self) -> None:
        for seed, (rows, columns, count) in enumerate(
            [(2, 2, 2), (2, 3, 2), (2, 3, 3), (1, 5, 2), (3, 2, 4), (2, 2, 5)]
        ):
            seats = Room(rows, columns).seats
            made, joined = papers(count, 4, 2, seed), neighbours(seats)
            costs = Costs(made)
            found = give(seats, made)
            # given so that no form is used more than one time oftener than it has to be
            every = product(range(count), repeat=len(seats))
            usual = -(-len(seats) // count)
            least = min(weighed(way, joined, costs) for way in every if max(Counter(way).values()) <= usual)
            self.assertLessEqual(weighed(found, joined, costs), least, (rows, columns, count))

    def test_no_neighbours_have_the_same_where_there_are_four_or_more(self) -> None:
        rooms = [
            Room(5, 6), Room(6, 7, frozenset((row, 3) for row in range(6))), Room(1, 9), Room(9, 1),
            Room(4, 5, frozenset([(0, 0), (1, 3), (2, 2)])),
        ]  # fmt: skip
        for room, count in product(rooms, (4, 5, 7, 30, 60)):
            seats = room.seats
            given = give(seats, papers(count, 5, 10_000))
            same = [each for each in neighbours(seats) if given[each.one] == given[each.other]]
            self.assertEqual((len(given), same), (len(seats), []))
            if count >= len(seats):
                self.assertEqual(len(set(given)), len(seats))
            else:
                self.assertEqual(len(set(given)), count)

    def test_with_two_and_three_forms_those_who_meet_sit_far_from_each_other(self) -> None:
        seats = Room(3, 4).seats
        joined = neighbours(seats)
        for count in (2, 3):
            made = papers(count, 5, 10_000)
            given, laid = give(seats, made), [(column + 2 * row) % count for row, column in seats]
            self.assertLessEqual(weighed(given, joined, Costs(made)), weighed(laid, joined, Costs(made)))
            same = [each.nearness for each in joined if given[each.one] == given[each.other]]
            self.assertNotIn(Nearness.SIDE, same)
        self.assertEqual(give(seats, papers(1, 5, 50)), [0] * 12)

    def test_neighbours_share_less_than_when_forms_go_round(self) -> None:
        seats = Room(5, 6).seats
        made, joined = papers(30, 10, 8), neighbours(seats)
        costs = Costs(made)
        by_chance = []
        for seed in range(20):
            way = list(range(30))
            Random(seed).shuffle(way)
            by_chance.append(weighed(way, joined, costs))
        self.assertLess(weighed(give(seats, made), joined, costs), 0.5 * min(by_chance))

    def test_the_same_for_the_same(self) -> None:
        seats, made = Room(3, 5).seats, papers(5, 6, 3)
        self.assertEqual(give(seats, made), give(seats, made))

    def test_what_progress_raises_ends_the_work(self) -> None:
        def stopped() -> None:
            raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            give(Room(3, 3).seats, papers(9, 4, 2), stopped)

    def test_nobody_and_nothing(self) -> None:
        self.assertEqual(give([], papers(2, 2, 2)), [])
        with self.assertRaises(ValueError):
            give(Room(1, 1).seats, [])

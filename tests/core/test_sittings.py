"""Sittings: whose time runs until when, what is seen when, what contradicts itself, and how a line is read without its
key."""

import json
from dataclasses import replace
from datetime import datetime, time, timedelta, timezone
from fractions import Fraction
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from vorlage.core.algebra import EvaluationError
from vorlage.core.answers import Reader, chapters, reader_of
from vorlage.core.answers.check import batch_checker, case_settings, case_values
from vorlage.core.marking import PartMark, less, marked, total_of
from vorlage.core.questions import CompiledQuestion, QuestionDrawing
from vorlage.core.sittings import (
    AT_THE_DOOR,
    COUNTING,
    ENTRIES,
    GRACE,
    HANDED_IN,
    HANDED_IN_AGAIN,
    LATE_STARTS,
    LAYOUTS,
    MISSED,
    MOMENTS,
    NOT_YET,
    ON_PAPER,
    ONLY_HAND_IN,
    OPEN,
    OVER,
    PAUSED,
    PRACTICES,
    ROWS,
    TIME_UP,
    TIMES_UP,
    WAYS,
    WORKING,
    Allowed,
    NetworkError,
    Record,
    Rules,
    TimeError,
    after_pause,
    closing,
    day_end,
    days_late,
    duration_words,
    earlier,
    end_if_begun,
    if_begun_now,
    kept_share,
    last_begin,
    last_hand_in,
    length_of,
    may_practise,
    may_take_back,
    moment_words,
    objections,
    phase,
    read_duration,
    read_moment,
    read_networks,
    seen,
    sentences,
    shared_by_neighbours,
    stage_begun,
    stage_reached,
    stages_end,
    student_sheet,
    takes_answers,
    takes_section,
    unequal,
    with_more_time,
)
from vorlage.library import bank, ready_questions, samples

from .test_cases import cases

ZONE = timezone(timedelta(hours=1))
# a Tuesday
NOW = datetime(2026, 12, 1, 9, 0, tzinfo=ZONE)
MINUTE, HOUR, DAY = timedelta(minutes=1), timedelta(hours=1), timedelta(days=1)
END = time(17)


class Times(TestCase):
    def test_lengths_as_they_are_typed(self) -> None:
        for text, minutes in (
            ("50", 50), ("1 h 40", 100), ("1:40", 100), ("1h40min", 100), ("1.5 h", 90), ("1,5 h", 90), ("90 minutes", 90),
            ("2 hours", 120), ("1 hour and 5 min", 65), (" 45  min. ", 45), ("0:20", 20), ("2 Std. 15 Min", 135),
        ):  # fmt: skip
            self.assertEqual(read_duration(text), minutes * MINUTE, text)
        for text in ("", "h", "soon", "1:75", "-5", "0", "1 h 2 h", "99999 h", "12.5", "5 5", "²", "1:4"):
            with self.subTest(text), self.assertRaises(TimeError):
                read_duration(text)

    def test_lengths_in_words(self) -> None:
        for length, words in (
            (100 * MINUTE, "1 hour 40 minutes"), (MINUTE, "1 minute"), (12.5 * MINUTE, "12 minutes 30 seconds"),
            (DAY + HOUR, "1 day 1 hour"), (timedelta(0), "0 minutes"),
        ):  # fmt: skip
            self.assertEqual(duration_words(length), words)

    def test_moments_as_they_are_typed(self) -> None:
        for text, day, at in (
            ("9:40", 1, (9, 40)), ("Tue 9:40", 1, (9, 40)), ("Tue 8:40", 8, (8, 40)), ("tuesday, 9.40", 1, (9, 40)),
            ("Fri", 4, (17, 0)), ("tomorrow 8:00", 2, (8, 0)), ("today", 1, (17, 0)), ("4 December 10:15", 4, (10, 15)),
            ("4.12. 10:15", 4, (10, 15)), ("4.12.2026 at 10:15", 4, (10, 15)), ("Fri 4 Dec, 10:15", 4, (10, 15)),
            ("2026-12-04 10:15", 4, (10, 15)), ("Dec 4th 10:15", 4, (10, 15)), ("9 h", 1, (9, 0)), ("now", 1, (9, 0)),
            ("04/12/26 10:15", 4, (10, 15)),
        ):  # fmt: skip
            self.assertEqual(read_moment(text, NOW, END), datetime(2026, 12, day, *at, tzinfo=ZONE), text)
        self.assertEqual(read_moment("3 January 8:00", NOW, END), datetime(2027, 1, 3, 8, tzinfo=ZONE))
        for text in ("whenever", "25:00", "T 9:40", "31.2. 9:00", "9:75", "4 Foo 9:00", "yesterday-ish", "13.13.2026"):
            with self.subTest(text), self.assertRaises(TimeError):
                read_moment(text, NOW, END)

    def test_moments_in_words(self) -> None:
        self.assertEqual(moment_words(NOW + 2 * HOUR + 20 * MINUTE, NOW), "today, 11:20")
        self.assertEqual(moment_words(NOW + 3 * DAY, NOW), "Friday 4 December, 9:00")
        self.assertEqual(moment_words(NOW + 40 * DAY, NOW), "Sunday 10 January 2027, 9:00")

    def test_the_end_of_the_school_day(self) -> None:
        self.assertEqual(day_end(NOW, 17 * HOUR), NOW + 8 * HOUR)
        self.assertEqual(day_end(NOW + 9 * HOUR, 17 * HOUR), NOW + 32 * HOUR)


class Ends(TestCase):
    def test_starting_ten_minutes_before_closing(self) -> None:
        rules = Rules(NOW, closes=NOW + HOUR, limit=50 * MINUTE)
        late = NOW + 50 * MINUTE
        until = replace(rules, late_start="until_closing")
        self.assertEqual(end_if_begun(rules, late), late + 50 * MINUTE)
        self.assertEqual(end_if_begun(until, late), rules.closes)
        self.assertEqual(end_if_begun(until, late, Allowed(percent=25)), late + 12.5 * MINUTE)
        self.assertEqual(end_if_begun(until, late, Allowed(minutes=10)), late + 20 * MINUTE)
        self.assertEqual(end_if_begun(until, late, Allowed(later=30)), late + 40 * MINUTE)
        self.assertIn("10 minutes, until 10:00", if_begun_now(until, late))
        self.assertIn("50 minutes, until 10:40", if_begun_now(rules, late))

    def test_a_limit_as_the_student_reads_it(self) -> None:
        rules = Rules(NOW, limit=read_duration("1 h 40"))
        self.assertIn("1 hour 40 minutes, until 10:40", if_begun_now(rules, NOW))

    def test_phases_in_their_order(self) -> None:
        rules = Rules(NOW, closes=NOW + HOUR, limit=30 * MINUTE)
        ends = NOW + 40 * MINUTE
        begun = Record(NOW + 10 * MINUTE, ends)
        for record, at, expected in (
            (Record(), NOW - MINUTE, NOT_YET), (Record(), NOW, OPEN), (Record(), NOW + HOUR, MISSED),
            (begun, NOW + 20 * MINUTE, WORKING), (begun, ends, ONLY_HAND_IN), (begun, ends + GRACE, TIME_UP),
            (replace(begun, paused=NOW + 20 * MINUTE), NOW + 2 * HOUR, PAUSED),
            (replace(begun, handed_in=NOW + 20 * MINUTE), NOW + 2 * HOUR, HANDED_IN),
        ):  # fmt: skip
            self.assertEqual(phase(rules, record, at), expected)
        self.assertEqual(phase(rules, Record(), NOW + HOUR, Allowed(later=30)), OPEN)
        handing = replace(rules, time_up="hand_in_only", hand_in=5 * MINUTE)
        self.assertEqual(phase(handing, begun, ends + 4 * MINUTE), ONLY_HAND_IN)
        self.assertEqual(phase(handing, begun, ends + 6 * MINUTE), TIME_UP)
        self.assertEqual(phase(replace(rules, time_up="go_on"), begun, ends + DAY), OVER)

    def test_what_was_sent_before_the_end_counts(self) -> None:
        rules = Rules(NOW, limit=30 * MINUTE)
        record = Record(NOW, NOW + 30 * MINUTE)
        second = timedelta(seconds=1)
        self.assertTrue(takes_answers(rules, record, NOW + 30 * MINUTE + GRACE - second))
        self.assertFalse(takes_answers(rules, record, NOW + 30 * MINUTE + GRACE))
        self.assertTrue(takes_answers(replace(rules, time_up="go_on"), record, NOW + DAY))
        self.assertFalse(takes_answers(rules, replace(record, handed_in=NOW), NOW))

    def test_a_pause_takes_nothing(self) -> None:
        record = Record(NOW, NOW + 30 * MINUTE, paused=NOW + 10 * MINUTE)
        self.assertEqual(after_pause(record, NOW + 25 * MINUTE), NOW + 45 * MINUTE)

    def test_more_time_lengthens_what_is_left_and_begins_now_where_nothing_is(self) -> None:
        record = Record(NOW, NOW + 30 * MINUTE)
        self.assertEqual(with_more_time(record, 10 * MINUTE, NOW), NOW + 40 * MINUTE)
        self.assertEqual(with_more_time(record, 10 * MINUTE, NOW + HOUR), NOW + 70 * MINUTE)
        paused = replace(record, paused=NOW + MINUTE)
        self.assertEqual(with_more_time(paused, 10 * MINUTE, NOW + HOUR), NOW + 40 * MINUTE)
        self.assertIsNone(with_more_time(Record(NOW), 10 * MINUTE, NOW))

    def test_what_would_make_it_unequal(self) -> None:
        rules = Rules(NOW, closes=NOW + HOUR, limit=30 * MINUTE)
        seen_now = dict.fromkeys(ROWS, "handed_in")
        self.assertEqual(
            unequal(rules, replace(rules, closes=NOW + DAY, word="tide", seen=seen_now, above="Read.")), []
        )
        self.assertEqual(unequal(rules, replace(rules, closes=NOW, limit=None)), ["the limit", "an earlier closing"])

    def test_late_by_days(self) -> None:
        rules = Rules(NOW, due=NOW + DAY, late_cost=Fraction(1, 10))
        for late, days in ((-MINUTE, 0), (timedelta(0), 0), (MINUTE, 1), (DAY, 1), (DAY + MINUTE, 2), (20 * DAY, 20)):
            self.assertEqual(days_late(rules, NOW + DAY + late), days)
        self.assertEqual(days_late(rules, NOW + DAY + MINUTE, Allowed(later=5)), 0)
        self.assertEqual([kept_share(rules, days) for days in (0, 2, 20)], [1, Fraction(4, 5), 0])


class Seeing(TestCase):
    RULES = Rules(
        NOW, closes=NOW + HOUR, seen=dict.fromkeys(ROWS, "released") | {"own": "handed_in", "total": "closed"}
    )

    def test_a_moment_brings_what_it_says_and_all_before_it(self) -> None:
        done = Record(NOW, NOW + HOUR, handed_in=NOW + 10 * MINUTE)
        at = NOW + 20 * MINUTE
        self.assertEqual(seen(self.RULES, Record(NOW, NOW + HOUR), at), frozenset())
        self.assertEqual(seen(self.RULES, done, at), {"own"})
        self.assertEqual(seen(self.RULES, done, NOW + 2 * HOUR), {"own", "total"})
        # a moment to the right includes those to its left
        self.assertEqual(seen(self.RULES, replace(done, released=True), at), set(ROWS))
        self.assertEqual(seen(self.RULES, replace(done, released=True, withheld=True), at), {"own"})
        by_itself = replace(self.RULES, results=NOW + 3 * HOUR)
        self.assertEqual(seen(by_itself, done, NOW + 3 * HOUR), set(ROWS))

    def test_nothing_tells_while_marks_can_be_earned(self) -> None:
        rules = replace(self.RULES, take_back=True, seen=dict.fromkeys(ROWS, "handed_in"))
        done = Record(NOW, NOW + HOUR, handed_in=NOW + 10 * MINUTE)
        self.assertTrue(may_take_back(rules, done, NOW + 20 * MINUTE))
        self.assertEqual(seen(rules, done, NOW + 20 * MINUTE), {"own"})
        self.assertEqual(seen(rules, done, NOW + HOUR), set(ROWS))
        never = replace(rules, seen=dict.fromkeys(ROWS, "never"))
        self.assertEqual(seen(never, replace(done, released=True), NOW + DAY), frozenset())


class Contradictions(TestCase):
    def codes(self, **changes: Any) -> dict[str, bool]:
        rules = replace(Rules(NOW, closes=NOW + HOUR), **changes)
        return {each.code: each.stands for each in objections(rules, NOW)}

    def test_who_comes_in(self) -> None:
        self.assertEqual(self.codes(come_in="named", word="heron").get("word_with_link"), False)
        self.assertEqual(self.codes(come_in="anonymous").get("counts_for_nobody"), True)
        self.assertIn("door_without_names", self.codes(come_in="anonymous", one_by_one=True, counts=False))
        late = self.codes(begin_within=3 * HOUR, closes=NOW + 2 * HOUR)
        self.assertEqual(late.get("within_after_closing"), False)
        self.assertNotIn("word_with_link", self.codes(word="heron"))
        told = shared_by_neighbours(["A and B", "C and D", "E and F", "G and H"]).message
        self.assertTrue(told.endswith("A and B; C and D; E and F; and 1 more."))
        self.assertEqual(unequal(Rules(NOW), Rules(NOW, come_in="named")), [])
        self.assertEqual(unequal(Rules(NOW), Rules(NOW, come_in="anonymous")), ["whether there are names"])
        within = Rules(NOW, begin_within=10 * MINUTE, closes=NOW + HOUR)
        self.assertEqual(last_begin(within), NOW + 10 * MINUTE)
        self.assertEqual(phase(within, Record(), NOW + 11 * MINUTE), MISSED)
        self.assertEqual(phase(within, Record(begun=NOW), NOW + 11 * MINUTE), WORKING)

    def test_each_is_told_with_what_it_means(self) -> None:
        self.assertEqual(self.codes(), {})
        self.assertEqual(self.codes(closes=NOW - HOUR), {"never_open": True})
        self.assertEqual(self.codes(opens=NOW - DAY, closes=NOW - HOUR), {"closed_already": True})
        self.assertEqual(self.codes(due=NOW), {"due_before": True})
        self.assertEqual(self.codes(due=NOW + DAY), {"due_after": False})
        self.assertEqual(self.codes(late_cost=Fraction(1, 10)), {"cost_without_due": False})
        self.assertEqual(self.codes(limit=2 * HOUR, late_start="until_closing"), {"limit_over_window": False})
        self.assertEqual(self.codes(closes=None, time_up="go_on"), {"never_up": False})
        self.assertEqual(self.codes(results=NOW - HOUR), {"results_before": True})
        self.assertEqual(self.codes(results=NOW + MINUTE), {"results_while_open": False})
        early = dict.fromkeys(ROWS, "released") | {"key": "handed_in"}
        self.assertEqual(self.codes(seen=early), {"key_while_open": False})
        self.assertEqual(self.codes(seen=early, counts=False), {})
        nothing = {"seen": dict.fromkeys(ROWS, "never"), "results": NOW + DAY}
        self.assertEqual(self.codes(**nothing), {"nothing_released": False})
        late = dict.fromkeys(ROWS, "closed")
        self.assertEqual(self.codes(seen=late, closes=None), {"never_closed": False})


minutes_to = st.integers(-300, 3000).map(lambda count: NOW + count * MINUTE)
anyones_rules = st.builds(
    Rules,
    opens=minutes_to,
    due=st.none() | minutes_to,
    closes=st.none() | minutes_to,
    results=st.none() | minutes_to,
    limit=st.none() | st.integers(1, 300).map(lambda count: count * MINUTE),
    late_start=st.sampled_from(list(LATE_STARTS)),
    time_up=st.sampled_from(list(TIMES_UP)),
    late_cost=st.sampled_from([Fraction(0), Fraction(1, 10), Fraction(1)]),
    layout=st.sampled_from(list(LAYOUTS)),
    back=st.booleans(),
    take_back=st.booleans(),
    seen=st.fixed_dictionaries({row: st.sampled_from(list(MOMENTS)) for row in ROWS}),
    counts=st.booleans(),
    word=st.sampled_from(["", "Anchor"]),
    come_in=st.sampled_from(list(ENTRIES)),
    begin_within=st.none() | st.integers(1, 300).map(lambda count: count * MINUTE),
    one_by_one=st.booleans(),
    networks=st.sampled_from([(), ("10.20.0.0/16", "fd00::/8")]),
    grace=st.integers(15, 600).map(lambda count: timedelta(seconds=count)),
    hints=st.booleans(),
    working=st.booleans(),
    questions=st.booleans(),
    practice=st.sampled_from(list(PRACTICES)),
    attempts=st.none() | st.integers(1, 6),
    wait=st.integers(0, 300).map(lambda count: count * MINUTE),
    per_period=st.none() | st.integers(1, 3),
    period=st.integers(1, 300).map(lambda count: count * MINUTE),
    which=st.sampled_from(list(COUNTING)),
    look_back=st.booleans(),
    submissions=st.integers(1, 4),
    resubmitted=st.sampled_from(list(HANDED_IN_AGAIN)),
    submission_cost=st.sampled_from([Fraction(0), Fraction(1, 4)]),
    tries=st.none() | st.integers(1, 5),
    try_cost=st.sampled_from([Fraction(0), Fraction(1, 10)]),
    similar=st.integers(0, 3),
    similar_cost=st.sampled_from([Fraction(0), Fraction(1, 3)]),
    section_limits=st.lists(st.none() | st.integers(1, 90).map(lambda count: count * MINUTE), max_size=4).map(tuple),
)
allowances = st.one_of(
    st.builds(Allowed, percent=st.integers(0, 200), later=st.integers(0, 600)),
    st.builds(Allowed, minutes=st.integers(0, 240), later=st.integers(0, 600)),
)
moments = st.lists(minutes_to, min_size=2, max_size=8).map(sorted)


class Anything(TestCase):
    """What holds whatever the rules are."""

    @settings(max_examples=300, deadline=None)
    @given(anyones_rules, allowances, moments)
    def test_time_never_runs_backwards_and_everybody_comes_to_an_end(
        self, rules: Rules, allowed: Allowed, at: list[datetime]
    ) -> None:
        if rules.on_paper:
            # nobody begins on a screen, whenever it is
            self.assertEqual({phase(rules, Record(), moment, allowed) for moment in at}, {ON_PAPER})
            rules = replace(rules, come_in="list")
        order = [NOT_YET, OPEN, MISSED]
        at_the_door = [phase(rules, Record(let_in=False), moment, allowed) for moment in at]
        inside = [phase(rules, Record(), moment, allowed) for moment in at]
        # who waits at the door is where all others are, but for that
        stands = AT_THE_DOOR if rules.one_by_one else OPEN
        self.assertEqual([OPEN if each == stands else each for each in at_the_door], inside)
        before = [order.index(phase(rules, Record(), moment, allowed)) for moment in at]
        self.assertEqual(before, sorted(before))
        began = at[0]
        record = Record(began, end_if_begun(rules, began, allowed))
        order = [WORKING, ONLY_HAND_IN, TIME_UP, OVER]
        during = [order.index(phase(rules, record, moment, allowed)) for moment in at]
        self.assertEqual(during, sorted(during))
        # nobody is anywhere from where nothing leads on: whoever works can hand in, or is handed in
        for moment in at:
            where = phase(rules, record, moment, allowed)
            last = last_hand_in(rules, record.ends)
            self.assertEqual(where == TIME_UP, last is not None and moment >= last and where != WORKING)
            self.assertFalse(takes_answers(rules, record, moment) and where == TIME_UP)
            done = replace(record, handed_in=moment)
            self.assertEqual(phase(rules, done, moment, allowed), HANDED_IN)

    @settings(max_examples=300, deadline=None)
    @given(anyones_rules, allowances, minutes_to)
    def test_an_allowance_never_shortens(self, rules: Rules, allowed: Allowed, at: datetime) -> None:
        for usual, own in (
            (end_if_begun(rules, at), end_if_begun(rules, at, allowed)),
            (closing(rules), closing(rules, allowed)),
            (last_begin(rules), last_begin(rules, allowed)),
        ):
            self.assertEqual(usual is None, own is None)
            if usual is not None and own is not None:
                self.assertGreaterEqual(own, usual)
        self.assertLessEqual(days_late(rules, at, allowed), days_late(rules, at))

    @settings(max_examples=200, deadline=None)
    @given(anyones_rules, allowances, moments)
    def test_what_was_seen_stays_seen(self, rules: Rules, allowed: Allowed, at: list[datetime]) -> None:
        done = Record(NOW - DAY, NOW, handed_in=at[0])
        known = frozenset[str]()
        for moment in at:
            now = seen(rules, done, moment, allowed)
            self.assertGreaterEqual(now, known)
            if may_take_back(rules, done, moment):
                self.assertLessEqual(now, {"own"})
            known = now
        for row in ROWS:
            if rules.seen[row] == "never":
                self.assertNotIn(row, known)

    @settings(max_examples=200, deadline=None)
    @given(anyones_rules, allowances)
    def test_every_rule_has_a_sentence_and_is_kept(self, rules: Rules, allowed: Allowed) -> None:
        said = sentences(rules, NOW, allowed)
        self.assertTrue(all(each.strip().endswith(".") for each in said.values()), said)
        self.assertEqual(Rules.of(json.loads(json.dumps(rules.kept))), rules)
        if rules.limit is not None and rules.practice != "only":
            self.assertIn("You have", said["how_long"])
        if rules.practice == "only":
            self.assertIn("Nothing of it counts", said["how_often"])
        elif not rules.counts:
            self.assertIn("does not count", said["how_often"])
        for each in objections(rules, NOW):
            self.assertTrue(each.message.endswith("."))

    @settings(max_examples=300, deadline=None)
    @given(anyones_rules, allowances, moments)
    def test_sections_come_in_their_order_and_to_an_end(
        self, rules: Rules, allowed: Allowed, at: list[datetime]
    ) -> None:  # fmt: skip
        sections = list(range(max(1, len(rules.section_limits))))
        begun = at[0]
        whole = end_if_begun(rules, begun, allowed)
        ends = stages_end(rules, sections, begun, whole, allowed)
        self.assertEqual(earlier(ends, whole), ends)
        before = stage_begun(rules, sections[0], begun, ends, allowed)
        for now in at:
            stage = stage_reached(rules, before, sections, now, ends, allowed)
            self.assertGreaterEqual((stage.section, stage.begun), (before.section, before.begun))
            self.assertEqual(earlier(stage.ends, ends), stage.ends or ends)
            # what runs is the last, or has time left
            self.assertTrue(stage.section == sections[-1] or stage.ends is None or now < stage.ends)
            self.assertTrue(takes_section(rules, stage, stage.section, now))
            self.assertFalse(takes_section(rules, stage, stage.section + 1, now))
            before = stage
        if rules.staged and all(rules.section_limits):
            self.assertIsNotNone(ends)
            # asked once or often, it comes to the same
            first = stage_begun(rules, sections[0], begun, ends, allowed)
            self.assertEqual(stage_reached(rules, first, sections, at[-1], ends, allowed), before)
        for section in sections:
            usual, own = (length_of(rules, section, each) for each in (Allowed(), allowed))
            self.assertTrue(usual is None or (own is not None and own >= usual))

    @settings(max_examples=300, deadline=None)
    @given(anyones_rules, allowances, moments)
    def test_nobody_practises_what_they_sit(self, rules: Rules, allowed: Allowed, at: list[datetime]) -> None:
        begun, now = at[0], at[-1]
        record = Record(begun, end_if_begun(rules, begun, allowed))
        free = may_practise(rules, record, now, allowed)
        if rules.practice == "no" or now < rules.opens:
            self.assertFalse(may_practise(rules, Record(), now, allowed))
        if rules.practice == "closed":
            self.assertFalse(free and phase(rules, record, now, allowed) not in {HANDED_IN, OPEN, MISSED})
            before = may_practise(rules, Record(), now, allowed)
            self.assertTrue(not before or (closing(rules, allowed) is not None and closing(rules, allowed) <= now))

    def test_networks(self) -> None:
        rules = Rules(NOW, networks=read_networks("10.20.0.0/16; 192.168.7.9, 2001:db8::/32"))
        self.assertEqual(rules.networks, ("10.20.0.0/16", "192.168.7.9/32", "2001:db8::/32"))
        inside = ("10.20.3.4", "::ffff:10.20.3.4", "192.168.7.9", "2001:db8::7")
        self.assertEqual([rules.admits(each) for each in inside], [True] * 4)
        outside = ("10.21.3.4", "192.168.7.8", "2001:db9::7", "", "somewhere")
        self.assertEqual([rules.admits(each) for each in outside], [False] * 5)
        self.assertTrue(Rules(NOW).admits(""))
        # what is typed with bits beyond its mask is meant as the network that it is in
        self.assertEqual(read_networks("10.20.3.4/16"), ("10.20.0.0/16",))
        for wrong in ("school", "10.20.0.0/40", "10.20"):
            with self.assertRaisesRegex(NetworkError, wrong):
                read_networks(wrong)

    def test_entry_words_and_ways(self) -> None:
        rules = Rules(NOW, word="Blue anchor")
        self.assertTrue(rules.lets_in("  blue  ANCHOR "))
        self.assertFalse(rules.lets_in("anchor"))
        self.assertTrue(Rules(NOW).lets_in(""))
        for _, changes in WAYS.values():
            self.assertEqual(sentences(replace(Rules(NOW), **changes), NOW).keys(), sentences(Rules(NOW), NOW).keys())


class Sheets(TestCase):
    def test_a_line_is_read_without_its_key_as_the_checker_reads_it(self) -> None:
        kinds, count = set[str](), 0
        for chapter in chapters():
            for page in chapter["page"]:
                within = case_settings(page.get("settings") or {}, page.get("parameters") or {}, {})
                specification, checker = batch_checker(json.dumps(page["answer"], sort_keys=True), within)
                values = case_values(page.get("parameters") or {}, within)
                try:
                    drawn = checker.drawn(values)
                except EvaluationError:
                    continue
                reader = reader_of(specification, drawn, within)
                if reader is None:
                    continue
                kinds.add(specification.kind)
                reader = Reader.of(json.loads(json.dumps(reader.kept)))
                for response, outcome, _, because in cases(page):
                    if not isinstance(response, str) or because == "it takes too long to check":
                        continue
                    count += 1
                    verdict, reading = drawn.check(response), reader.read(response)
                    with self.subTest(f"{page['title']}: {response}"):
                        self.assertEqual(reading.unreadable, outcome == "unreadable", reading.problem)
                        self.assertEqual(reading.blank, outcome == "blank")
                        if verdict.code != "too_costly" and specification.kind not in {"chemical", "text", "essay"}:
                            self.assertEqual(reading.tree, verdict.tree)
        self.assertGreater(count, 1500)
        self.assertGreaterEqual(kinds, {"number", "quantity", "formula", "equation", "set", "vector", "chemical"})

    def test_nothing_that_differs_in_the_key_is_in_a_reader(self) -> None:
        """The readers of two draws are the same, so no number of a key can be in them."""
        documents = [document for document, _ in (*samples().values(), *bank().values())]
        documents += [each.document for each in ready_questions().values()]
        for number, document in enumerate(documents):
            question = CompiledQuestion(document)
            drawing = QuestionDrawing(question, f"q{number}", 1)
            one, other = drawing.draw(1), drawing.draw(2)
            marks = [Fraction(part.marks) for part in document.parts]
            sheets = [student_sheet(each, marks) for each in (one, other)]
            with self.subTest(document.title):
                first, second = (sheet.kept_readers for sheet in sheets)
                letters = [len(str(each)) for each in (first, second)]
                if first != second:
                    # what letters a formula has may differ from draw to draw, and nothing else
                    self.assertLess(abs(letters[0] - letters[1]), 12)
                json.dumps(sheets[0].shown)
                for part, described in zip(sheets[0].parts, document.parts, strict=True):
                    self.assertEqual(part.asks, described.answer.asks)

    def test_what_a_hint_says_is_not_on_the_sheet_and_what_it_costs_is(self) -> None:
        document = samples()["harbour-crane"][0]
        drawn = QuestionDrawing(CompiledQuestion(document), "hint", 1).draw(1)
        sheet = student_sheet(drawn, [Fraction(part.marks) for part in document.parts])
        part = sheet.parts[1]
        self.assertEqual(part.hints, ("costs nothing", "costs 25 % of the marks"))
        kept = sheet.kept_hints[part.id]
        self.assertEqual([each["cost"] for each in kept], ["0", "1/4"])
        self.assertIn("<math", kept[1]["text"])
        shown = json.dumps(sheet.shown)
        self.assertNotIn("Power is the energy", shown)
        self.assertNotIn("Divide", shown)

    def test_right_answers_earn_all_and_blank_ones_nothing(self) -> None:
        for document, _ in (*samples().values(), *bank().values()):
            drawn = QuestionDrawing(CompiledQuestion(document), "key", 1).draw(3)
            most = [Fraction(part.marks) for part in document.parts]
            right = [None if each is None else each.right_response() for each in drawn.answers]
            for mark in marked(drawn, right, most):
                if mark.outcome not in {"waiting", "blank"}:
                    self.assertEqual(mark.marks, mark.most, (document.title, mark))
            for mark in marked(drawn, [""] * len(most), most):
                self.assertIn((mark.outcome, mark.marks), {("blank", 0), ("right", mark.most)})


class Totals(TestCase):
    @staticmethod
    def mark(marks: str, most: int = 5, outcome: str = "partly", certainty: str = "proved") -> PartMark:
        return PartMark("a", outcome, Fraction(marks) / most, Fraction(marks), Fraction(most), "", "", certainty)

    def test_a_bonus_adds_and_lowers_nothing(self) -> None:
        test = [(self.mark("38", 40), False)]
        self.assertEqual(total_of([*test, (self.mark("5"), True)]).reached, 43)
        self.assertEqual(total_of([*test, (self.mark("-2"), True)]).reached, 38)
        self.assertEqual(total_of([*test, (self.mark("5"), True)]).most, 40)

    def test_scaled_late_and_never_below_nothing(self) -> None:
        found = total_of([(self.mark("2", 3), False)], Fraction(10))
        self.assertEqual((found.reached, found.most), (Fraction(20, 3), 10))
        self.assertEqual(total_of([(self.mark("4"), False)], kept=Fraction(1, 2)).reached, 2)
        self.assertEqual(total_of([(self.mark("-4"), False)]).reached, 0)

    def test_a_hint_costs_a_share_and_never_more_than_was_earned(self) -> None:
        quarter, half = Fraction(1, 4), Fraction(1, 2)
        self.assertEqual(less(self.mark("5"), quarter).marks, Fraction(15, 4))
        self.assertEqual(less(self.mark("5"), quarter).share, 1)
        small = less(self.mark("1"), half)
        self.assertEqual((small.marks, small.cost), (0, Fraction(1, 5)))
        for unearned in (self.mark("0"), self.mark("-1")):
            self.assertEqual(less(unearned, half), unearned)

    def test_what_waits_is_so_far(self) -> None:
        waits = self.mark("0", outcome="waiting")
        agrees = self.mark("5", outcome="right", certainty="agrees")
        unread = self.mark("0", outcome="unreadable")
        found = total_of([(waits, False), (agrees, False), (unread, False)])
        self.assertEqual((found.waiting, found.unreadable, found.so_far), (1, 1, True))

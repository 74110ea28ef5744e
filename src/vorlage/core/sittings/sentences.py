"""The rules in sentences: for the teacher while setting up, and for the student before they begin."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from fractions import Fraction

from ..answers import shown_marks
from .attempts import Attempt, fit_until, left_to_begin, next_begin
from .clock import USUAL, Allowed, closing, end_if_begun, last_begin, lengthened
from .durations import duration_words
from .moments import moment_words
from .rules import COUNTING, HANDED_IN_AGAIN, MOMENTS, ROWS, Rules
from .stages import length_of, stages_end


def listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def when(rules: Rules, now: datetime, allowed: Allowed = USUAL) -> str:
    """From when until when one can begin, and until when one is in time."""
    closes = closing(rules, allowed)
    if closes is not None and closes <= now:
        return f"It closed {moment_words(closes, now)}."
    last = last_begin(rules, allowed)
    if rules.on_paper:
        return f"It is sat {moment_words(rules.opens, now)}" + (
            f", until {moment_words(closes, now)}." if closes else "."
        )
    opened = "It is open now" if rules.opens <= now else f"It opens {moment_words(rules.opens, now)}"
    begin = f"{opened}. You may begin until {moment_words(last, now)}." if last else f"{opened}, and does not close."
    if closes is not None and last is not None and last < closes:
        begin += f" It closes {moment_words(closes, now)}."
    if rules.due is not None:
        late = " Later it is accepted and marked as late"
        cost = f", and each day costs {share_words(rules.late_cost)} of the marks" if rules.late_cost else ""
        begin += f" It is due {moment_words(rules.due, now)}.{late}{cost}."
    return begin


def that_hold(rules: Rules, said: Mapping[str, str]) -> list[str]:
    """Of the sentences those that tell something: not that nothing is checked, or that nobody has to pass."""
    left_out = {"tries": not rules.checks, "passing": not rules.has_pass_mark}
    on_paper = {"when", "who", "passing", "seen"}
    return [
        words for name, words in said.items() if not left_out.get(name) and (not rules.on_paper or name in on_paper)
    ]


def how_long(rules: Rules, allowed: Allowed = USUAL) -> str:
    """How much time there is, and what happens when it is up."""
    if rules.practice == "only":
        return "There is no limit of time."
    if rules.limit is None:
        told = "There is no limit of time for the whole." if rules.staged else "There is no limit of time."
        if rules.closes is None:
            return f"{told} {of_sections(rules, allowed)}" if rules.staged else told
        told += " Time is up at closing."
    else:
        told = f"You have {duration_words(lengthened(rules.limit, allowed))}"
        if rules.closes is None:
            told += "."
        elif rules.late_start == "full":
            told += ", whenever you begin."
        else:
            told += ", but not beyond closing."
    if rules.staged:
        told += f" {of_sections(rules, allowed)}"
    up = {
        "handed_in": "When time is up, it is handed in as it stands.",
        "hand_in_only": f"When time is up, you may only hand in, for {duration_words(rules.hand_in)}.",
        "go_on": "When time is up, you may go on; the minutes over are noted.",
    }
    return f"{told} {up[rules.time_up]}"


ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")


def nth(number: int) -> str:
    """An ordinal number, from 1.

    >>> nth(3), nth(12), nth(21)
    ('third', '12th', '21st')
    """
    if number <= len(ORDINALS):
        return ORDINALS[number - 1]
    ends = {1: "st", 2: "nd", 3: "rd"}
    return f"{number}{'th' if number % 100 in {11, 12, 13} else ends.get(number % 10, 'th')}"


def of_sections(rules: Rules, allowed: Allowed) -> str:
    """The times of the sections."""
    found = [
        f"the {nth(k + 1)} has {duration_words(length)}"
        for k in range(len(rules.section_limits))
        if (length := length_of(rules, k, allowed)) is not None
    ]
    return f"Sections come one after the other without a way back; {listed(found)}."


def how_it_looks(rules: Rules) -> str:
    if rules.layout == "all" and rules.staged:
        return "All questions of a section are on one page."
    if rules.layout == "all":
        return "All questions are on one page."
    step = "A section" if rules.layout == "section" else "One question"
    return f"{step} at a time." if rules.back else f"{step} at a time, without a way back."


def what_is_seen(rules: Rules) -> str:
    """From when on what is seen, rows that come together said together."""
    if rules.practice == "only":
        return "You see at once how it went, and the key and the worked solution when you ask for them."
    found = []
    for moment, words in MOMENTS.items():
        rows = {row: said for row, said in ROWS.items() if rules.seen[row] == moment}
        if not rows or moment == "never":
            continue
        if not ROWS.keys() - rows.keys() - {"class"}:
            rows = {"all": "everything"} | {row: said for row, said in rows.items() if row == "class"}
        what = listed(list(rows.values()))
        found.append(f"{words[0].upper()}{words[1:]} you see {what}.")
    if not found:
        return "Nothing is seen afterwards."
    if rules.results is not None and "released" in rules.seen.values():
        found.append("Results are released by themselves.")
    return " ".join(found)


def how_often(rules: Rules) -> str:
    if rules.practice == "only":
        return "You practise as often as you like, with fresh numbers each time. Nothing of it counts."
    told = of_attempts(rules) + of_submissions(rules)
    if rules.take_back:
        told += " What was handed in may be taken back until time is up."
    if rules.practice == "closed":
        told += " After closing you may practise with fresh numbers; nothing of that counts."
    return told + ("" if rules.counts else " It does not count.")


COUNTS = ("No", "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten")


def counted(number: int, word: str) -> str:
    """So many of something, at the beginning of a sentence."""
    return f"{COUNTS[number] if number < len(COUNTS) else number} {word}{'' if number == 1 else 's'}"


def share_words(share: Fraction) -> str:
    return f"{float(share * 100):.4g} %"


def of_attempts(rules: Rules) -> str:
    """How many attempts there are, how far apart, and which counts."""
    if rules.attempts == 1:
        return "One attempt."
    told = "As many attempts as you like" if rules.attempts is None else counted(rules.attempts, "attempt")
    told += ", each with other numbers"
    if rules.wait:
        told += f", {duration_words(rules.wait)} from handing in to the next"
    if rules.per_period is not None:
        told += f", at most {rules.per_period} in {duration_words(rules.period)}"
    told += f"; {COUNTING[rules.which]}."
    return told + ("" if rules.look_back else " The questions of an earlier attempt cannot be looked at again.")


def of_submissions(rules: Rules) -> str:
    """How often an attempt is handed in, what counts of it, and what that costs."""
    if rules.submissions == 1:
        return ""
    told = f" It may be handed in {rules.submissions} times; {HANDED_IN_AGAIN[rules.resubmitted]} counts"
    costs = rules.resubmitted == "best" and rules.submission_cost
    return told + (f", less {share_words(rules.submission_cost)} for each time before." if costs else ".")


def of_retries(rules: Rules) -> str:
    """Trying a question again, and a similar one: how often, and what each costs."""
    if rules.practice == "only":
        return "You check each question as often as you like."
    told = "" if rules.checks else "Nothing is checked before all is handed in."
    if rules.checks:
        told = "You can check each question"
        if rules.tries is None:
            told += ", and try it again as often as you like"
        elif rules.tries > 1:
            told += f", and try it {rules.tries} times"
        else:
            told += " once; what was checked stays as it is"
        if rules.tries != 1 and rules.try_cost:
            told += f"; a further try costs {share_words(rules.try_cost)}"
        told += ". What is empty or cannot be read costs no try."
    if rules.similar:
        how_many = "a similar one" if rules.similar == 1 else f"up to {rules.similar} similar ones"
        less = f" each costs {share_words(rules.similar_cost)}, and" if rules.similar_cost else ""
        told += f" Instead of a missed question you can have {how_many} with other numbers;{less} the best counts."
    return told


def passing_words(rules: Rules) -> str:
    """By what one passes, in a sentence."""
    found = []
    if rules.pass_marks is not None:
        found.append(f"{shown_marks(rules.pass_marks)} mark{'' if rules.pass_marks == 1 else 's'}")
    if rules.pass_share is not None:
        found.append(f"{share_words(rules.pass_share)} of the marks")
    for number, share in enumerate(rules.section_passes):
        if share is not None:
            found.append(f"{share_words(share)} in the {nth(number + 1)} section")
    return f"You pass with {listed(found)}." if found else "Nobody has to pass."


def what_costs(rules: Rules) -> str:
    """What can cost a share of the marks, in words."""
    found = {
        "hints": rules.hints,
        "further tries": rules.try_cost,
        "similar questions": rules.similar and rules.similar_cost,
        "handing in again": rules.submission_cost,
    }
    return listed([words for words, costs in found.items() if costs] or ["hints"])


def attempts_now(rules: Rules, attempts: Sequence[Attempt], now: datetime, allowed: Allowed = USUAL) -> str:
    """What a student is told between attempts: how many remain, from when on, and until when all still fit; empty where
    there is one attempt."""
    if rules.attempts == 1 or rules.practice == "only":
        return ""
    begins, left = next_begin(rules, attempts, allowed), left_to_begin(rules, len(attempts))
    if not attempts:
        until, last = fit_until(rules, attempts, allowed), last_begin(rules, allowed)
        sooner = until is not None and last is not None and now < until < last
        return f"Begin it until {moment_words(until, now)}, and all attempts fit." if until and sooner else ""
    if begins is None:
        return "It closes before the next attempt could begin." if left else "There is no attempt left."
    told = "" if left is None else f"{counted(left, 'attempt')} {'is' if left == 1 else 'are'} left. "
    told += "The next may begin now." if begins <= now else f"The next may begin {moment_words(begins, now)}."
    until = fit_until(rules, attempts, allowed)
    if left is not None and until is not None and until > max(now, begins):
        what = "it still fits whole" if left == 1 else "all that are left still fit"
        told += f" Begin it until {moment_words(until, now)}, and {what}."
    elif left is not None and left > 1 and until is not None:
        told += " Not all that are left fit before it closes."
    return told


def who(rules: Rules) -> str:
    """Who comes in, and how."""
    told = {
        "list": "You sign in, and it is in your list.",
        "named": "You sign in, or come in by the link or the code with your name and class.",
        "anonymous": "You come in by the link or the code. Nothing is kept that tells whose answers these are.",
        "paper": "You sit it on paper, on the form that you are given.",
    }[rules.come_in]
    if rules.on_paper:
        return told
    if rules.word:
        told += " You need the word that your teacher tells you."
    if rules.one_by_one:
        told += " Your teacher lets you in."
    if rules.networks:
        told += " You can come in from the school's network only."
    return told


def what_helps(rules: Rules) -> str:
    """What helps while one works."""
    found = []
    if rules.hints:
        found.append("There are hints; each says what it costs before you take it.")
    if rules.working:
        found.append("You can write down your working; it earns no marks by itself.")
    if rules.questions:
        found.append("You can ask your teacher about a question.")
    return " ".join(found)


def sentences(rules: Rules, now: datetime, allowed: Allowed = USUAL) -> dict[str, str]:
    """A sentence, or a few, for every group of rules."""
    return {
        "who": who(rules),
        "when": when(rules, now, allowed),
        "how_long": how_long(rules, allowed),
        "how_often": how_often(rules),
        "tries": of_retries(rules),
        "passing": passing_words(rules),
        "looks": how_it_looks(rules) + (" " + what_helps(rules)).rstrip(),
        "seen": what_is_seen(rules),
    }


def if_begun_now(rules: Rules, now: datetime, allowed: Allowed = USUAL) -> str:
    """What a student is told right before they begin: until when they will have."""
    ends = end_if_begun(rules, now, allowed)
    if rules.staged:
        ends = stages_end(rules, range(len(rules.section_limits)), now, ends, allowed)
    if ends is None:
        return "There is no end: you may go on whenever you like."
    whole = "" if rules.limit is None and not rules.staged else f"{duration_words(ends - now)}, "
    return f"If you begin now you have {whole}until {moment_words(ends, now).removeprefix('today, ')}."

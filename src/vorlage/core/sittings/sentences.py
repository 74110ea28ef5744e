"""The rules in sentences: for the teacher while setting up, and for the student before they begin."""

from __future__ import annotations

from datetime import datetime

from .clock import USUAL, Allowed, closing, end_if_begun, last_begin, lengthened
from .durations import duration_words
from .moments import moment_words
from .rules import MOMENTS, ROWS, Rules
from .stages import length_of, stages_end


def listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def when(rules: Rules, now: datetime, allowed: Allowed = USUAL) -> str:
    """From when until when one can begin, and until when one is in time."""
    closes = closing(rules, allowed)
    if closes is not None and closes <= now:
        return f"It closed {moment_words(closes, now)}."
    last = last_begin(rules, allowed)
    opened = "It is open now" if rules.opens <= now else f"It opens {moment_words(rules.opens, now)}"
    begin = f"{opened}. You may begin until {moment_words(last, now)}." if last else f"{opened}, and does not close."
    if closes is not None and last is not None and last < closes:
        begin += f" It closes {moment_words(closes, now)}."
    if rules.due is not None:
        late = " Later it is accepted and marked as late"
        cost = f", and each day costs {percent(rules)} of the marks" if rules.late_cost else ""
        begin += f" It is due {moment_words(rules.due, now)}.{late}{cost}."
    return begin


def percent(rules: Rules) -> str:
    share = rules.late_cost * 100
    return f"{float(share):g} %"


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


def of_sections(rules: Rules, allowed: Allowed) -> str:
    """The times of the sections."""
    found = [
        f"the {ORDINALS[k] if k < len(ORDINALS) else f'{k + 1}th'} has {duration_words(length)}"
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
    told = "One attempt."
    if rules.take_back:
        told += " What was handed in may be taken back until time is up."
    if rules.practice == "closed":
        told += " After closing you may practise with fresh numbers; nothing of that counts."
    return told + ("" if rules.counts else " It does not count.")


def who(rules: Rules) -> str:
    """Who comes in, and how."""
    told = {
        "list": "You sign in, and it is in your list.",
        "named": "You sign in, or come in by the link or the code with your name and class.",
        "anonymous": "You come in by the link or the code. Nothing is kept that tells whose answers these are.",
    }[rules.come_in]
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

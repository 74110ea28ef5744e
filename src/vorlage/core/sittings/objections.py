"""What in the rules of a sitting contradicts itself, each with what it would mean for students."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from .attempts import most_attempts
from .durations import duration_words
from .moments import moment_words
from .rules import GRACE, ROWS, Rules


@dataclass(frozen=True, slots=True)
class Objection:
    """What is wrong, at which of the rules; ``stands`` in the way of the sitting, or is only said."""

    code: str
    rule: str
    message: str
    stands: bool = False


def objections(rules: Rules, now: datetime) -> list[Objection]:
    """Everything that contradicts itself, the gravest first."""
    found: list[Objection] = []

    def wrong(code: str, rule: str, message: str, stands: bool = True) -> None:
        found.append(Objection(code, rule, message, stands))

    closes = rules.closes
    if closes is not None and closes <= rules.opens:
        wrong("never_open", "closes", "It closes before it opens: nobody can begin.")
    elif closes is not None and closes <= now:
        wrong("closed_already", "closes", f"It closed {moment_words(closes, now)}: nobody can begin.")
    if rules.due is not None and rules.due <= rules.opens:
        wrong("due_before", "due", "It is due before it opens: everything is late.")
    if rules.due is not None and closes is not None and rules.due > closes:
        wrong("due_after", "due", "It is due after it closes: nobody can be late. Leave one of the two out.", False)
    if rules.due is None and rules.late_cost:
        wrong(
            "cost_without_due",
            "late_cost",
            "Days late cost marks, but nothing is ever late: say when it is due.",
            False,
        )
    if closes is not None and rules.limit is not None and closes > rules.opens:
        window = closes - rules.opens
        if rules.limit > window and rules.late_start == "until_closing":
            words = duration_words(rules.limit)
            wrong(
                "limit_over_window", "limit",
                f"Nobody has {words}: from opening to closing there are {duration_words(window)}.", False,
            )  # fmt: skip
    together = sum((each for each in rules.section_limits if each is not None), timedelta(0))
    if rules.limit is not None and together > rules.limit:
        wrong(
            "sections_over_limit", "limit",
            f"The sections have {duration_words(together)} together and the whole has {duration_words(rules.limit)}: "
            "who takes the time of the first has less for the last.", False,
        )  # fmt: skip
    if rules.limit is None and closes is None and not rules.staged and rules.time_up != "handed_in":
        wrong("never_up", "time_up", "Time is never up: there is neither a limit nor a closing.", False)
    if rules.results is not None and rules.results < rules.opens:
        wrong("results_before", "results", "Results are released before anybody can begin.")
    elif rules.results is not None and closes is not None and rules.results < closes:
        wrong(
            "results_while_open", "results",
            f"Results are released {moment_words(rules.results, now)}, while others may still begin until "
            f"{moment_words(closes, now)}.", False,
        )  # fmt: skip
    if rules.practice == "only" and rules.counts:
        wrong("practice_counts", "counts", "It counts, but practice earns no marks.")
    if rules.practice == "only" and (rules.word or rules.one_by_one):
        wrong(
            "practice_is_open", "practice", "Whoever may practise comes in without a word and without waiting.", False
        )
    if rules.practice == "closed" and closes is None:
        wrong("never_practised", "practice", "Nobody ever practises: it does not close.", False)
    found += of_attempts(rules)
    found += of_retries(rules)
    found += of_coming_in(rules)
    found += of_seeing(rules)
    return sorted(found, key=lambda each: not each.stands)


def shared_by_neighbours(pairs: Sequence[str]) -> Objection:
    """That neighbours have the same form; each pair by its names."""
    shown = "; ".join(pairs[:3]) + (f"; and {len(pairs) - 3} more" if len(pairs) > 3 else "")
    message = f"Neighbours of the seat plan have the same form and can help each other: {shown}."
    return Objection("neighbours_share", "forms", message)


def of_attempts(rules: Rules) -> list[Objection]:
    """Attempts that nobody can have, or learn from."""
    if rules.attempts == 1 or rules.practice == "only":
        return []
    found = []
    fit = most_attempts(rules)
    if rules.closes is not None and 0 < fit < (rules.attempts or 2):
        window = duration_words(rules.closes - rules.opens)
        asked = duration_words(rules.wait) if rules.wait else duration_words(rules.period)
        means = "nobody can have a second attempt" if fit == 1 else f"nobody can have more than {fit} attempts"
        message = f"From opening to closing there are {window}, and {asked} from one attempt to the next: {means}."
        found.append(Objection("no_second_attempt", "wait", message, fit == 1))
    if rules.come_in == "anonymous":
        message = "Without names nobody can be told from anybody else, and everybody begins as often as they like."
        found.append(Objection("attempts_without_names", "attempts", message, True))
    told = {row for row in ROWS if rules.seen[row] in {"each", "handed_in"}} - {"own", "class"}
    if not told:
        message = "Nothing of how an attempt went is seen before the next: nobody can prepare for it."
        found.append(Objection("nobody_can_prepare", "seen", message))
    if rules.attempts is None and rules.closes is None and "no_attempt" in rules.seen.values():
        message = "What is seen when no attempt is left is never seen: there is always another."
        found.append(Objection("always_another", "seen", message))
    return found


def of_retries(rules: Rules) -> list[Objection]:
    """Tries of a question, and handing in again, that bring nothing."""
    found = []
    seen = set(rules.seen.values())
    if (rules.tries != 1 or rules.similar) and "each" not in seen:
        message = "Nothing is seen after each answer: nobody knows whether to try a question again."
        found.append(Objection("tries_unseen", "seen", message))
    if rules.tries == 1 and rules.try_cost:
        message = "A further try costs marks, but there is none: say how often a question may be tried."
        found.append(Objection("cost_without_tries", "try_cost", message))
    if not rules.similar and rules.similar_cost:
        message = "A similar question costs marks, but there are none: say how many there may be."
        found.append(Objection("cost_without_similar", "similar_cost", message))
    if rules.submission_cost and (rules.submissions == 1 or rules.resubmitted == "last"):
        message = (
            "Handing in again costs marks, but it cannot be handed in again."
            if rules.submissions == 1
            else "Handing in again costs nothing where what was handed in last counts: let the best of each part count."
        )
        found.append(Objection("cost_without_submissions", "submission_cost", message))
    if rules.submissions > 1 and rules.take_back:
        message = "What was handed in may be taken back for nothing: nobody has to hand in again."
        found.append(Objection("taken_back_for_nothing", "submissions", message))
    return found


def of_coming_in(rules: Rules) -> list[Objection]:
    """Who is let in who should not be, or cannot come in at all."""
    found = []
    if rules.word and rules.takes_guests:
        found.append(
            Objection(
                "word_with_link", "word",
                "Whoever has the link may come in under any name: the entry word is all that keeps others out, and it "
                "is passed on as easily as the link.",
            )
        )  # fmt: skip
    if rules.come_in == "anonymous" and rules.counts:
        found.append(
            Objection(
                "counts_for_nobody", "counts", "It counts, but answers without a name count for nobody.", True,
            )
        )  # fmt: skip
    if rules.come_in == "anonymous" and rules.one_by_one:
        found.append(
            Objection("door_without_names", "one_by_one", "Those you let in one by one have no names here.")
        )  # fmt: skip
    if rules.on_paper and (rules.attempts != 1 or rules.checks or rules.submissions > 1):
        found.append(
            Objection(
                "attempts_on_paper", "come_in",
                "On paper nothing is checked and nobody begins again: give a retake to those who are to sit it again.",
            )
        )  # fmt: skip
    if rules.on_paper and rules.practice == "only":
        found.append(Objection("practice_on_paper", "practice", "Practice is nothing for paper.", True))
    if rules.begin_within is not None and rules.closes is not None and rules.opens + rules.begin_within > rules.closes:
        length = duration_words(rules.begin_within)
        found.append(
            Objection(
                "within_after_closing", "begin_within",
                f"Nobody has {length} to begin: it closes before they are over.",
            )
        )  # fmt: skip
    return found


def of_seeing(rules: Rules) -> list[Objection]:
    """What is seen too early, or never although something waits for it."""
    found = []
    early = [row for row in ("key", "solution") if rules.seen[row] in {"each", "handed_in"}]
    open_long = rules.closes is None or rules.closes - rules.opens > GRACE
    if early and open_long and rules.counts:
        found.append(
            Objection(
                "key_while_open", "seen",
                "The key is shown to whoever has handed in while others may still begin: they can tell it.",
            )
        )  # fmt: skip
    if rules.results is not None and "released" not in rules.seen.values():
        found.append(Objection("nothing_released", "results", "Nothing is seen at that moment that was not before."))
    if rules.closes is None and "closed" in rules.seen.values():
        found.append(Objection("never_closed", "seen", "What is seen after closing is never seen: it never closes."))
    return found


def day_end(now: datetime, end: timedelta) -> datetime:
    """The end of the school day, the next day's where today's is past."""
    midnight = now.replace(hour=0, minute=0, second=0, microsecond=0)
    return midnight + end if midnight + end > now + timedelta(minutes=30) else midnight + end + timedelta(days=1)

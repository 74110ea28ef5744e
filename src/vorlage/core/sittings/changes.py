"""What of the rules may still change once somebody has begun."""

from __future__ import annotations

from .rules import Rules

# What stays as it is: anything else would make it unequal.
FIXED = {
    "opens": "when it opens",
    "limit": "the limit",
    "section_limits": "the times of the sections",
    "late_start": "what a late start means",
    "time_up": "what happens when time is up",
    "counts": "whether it counts",
    "layout": "how it looks",
    "back": "whether one may go back",
    "late_cost": "what a day late costs",
    "due": "when it is due",
    "hints": "whether there are hints",
    "wait": "the wait between attempts",
    "per_period": "how many attempts there are in a time",
    "period": "the time in which there are so many attempts",
    "submissions": "how often it is handed in",
    "resubmitted": "what counts of what is handed in again",
    "submission_cost": "what handing in again costs",
    "tries": "how often a question may be tried",
    "try_cost": "what a further try costs",
    "similar": "how many similar questions there are",
    "similar_cost": "what a similar question costs",
}


def unequal(before: Rules, after: Rules) -> list[str]:
    """What would make a sitting that has begun unequal, in words: everything but a later closing, more attempts, which
    of them counts, the entry word, what is seen, and the texts."""
    changed = [words for name, words in FIXED.items() if getattr(before, name) != getattr(after, name)]
    if before.come_in != after.come_in and "anonymous" in {before.come_in, after.come_in}:
        changed.append("whether there are names")
    if before.come_in != after.come_in and "paper" in {before.come_in, after.come_in}:
        changed.append("whether it is sat on paper")
    if before.practice != after.practice and "only" in {before.practice, after.practice}:
        changed.append("whether it is practice and nothing else")
    if after.attempts is not None and (before.attempts is None or after.attempts < before.attempts):
        changed.append("fewer attempts")
    if after.closes is not None and (before.closes is None or after.closes < before.closes):
        changed.append("an earlier closing")
    return changed

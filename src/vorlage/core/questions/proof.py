"""Proving a question once more, long after it was kept: what a new version of the application, or of something that it
stands on, would have changed."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from hashlib import blake2b

from .diagnostics import run_trials
from .drawn import DrawnQuestion
from .frozen import freeze
from .question import CompiledQuestion
from .soundness import LOOKED_AT, soundness

# What is no fault of a question that may be kept, and one of a question that stands in a bank.
ALSO = frozenset(["off_frame"])


@dataclass(frozen=True, slots=True)
class Proof:
    """What is wrong with a question, in sentences; and its first draws by their prints, to be compared later."""

    faults: tuple[str, ...]
    prints: tuple[str, ...]


def print_of(drawn: DrawnQuestion) -> str:
    """A short text that two draws have in common when they show and mark the same: values, orders, worked-out texts."""
    frozen = json.dumps(asdict(freeze(drawn)), sort_keys=True, default=str)
    return blake2b(frozen.encode(), digest_size=8, person=b"vorlage draws").hexdigest()


def prints_of(drawn: Iterable[DrawnQuestion]) -> tuple[str, ...]:
    """The prints of the draws that are looked at before a question is kept, in order."""
    first = sorted((item for item in drawn if 0 < item.draw.number <= LOOKED_AT), key=lambda item: item.draw.number)
    return tuple(print_of(item) for item in first)


def prove(question: CompiledQuestion, key: str, revision: int, known: Sequence[str] = ()) -> Proof:
    """Whether all that let a question be kept still holds: its draws are the same (``known`` are their prints), every
    key passes its own check, the author's sample answers come out as they were kept, figures stay inside their frames.
    """
    judged = soundness(question, key, revision)
    faults = list(judged.reasons)
    faults += [warning.message for warning in judged.warnings if warning.code in ALSO]
    prints = prints_of(judged.drawn)
    if judged.drawn:
        others = [str(k) for k, (now, then) in enumerate(zip(prints, known), start=1) if now != then]
        if others:
            faults.append(f"Draw {', '.join(others)} is not what it was when this was kept.")
        labels = question.document.labels
        for result in run_trials(question, judged.drawn):
            if result.others:
                draw, outcome = result.others[0]
                label = f" of {labels[result.part].full}" if labels[result.part].full else ""
                kept = f"The sample answer “{result.trial.response}”{label} was kept as {result.trial.outcome}"
                faults.append(f"{kept} and comes out as {outcome} in draw {draw}.")
    return Proof(tuple(dict.fromkeys(faults)), prints)

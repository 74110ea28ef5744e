"""A whole form set, drawn, proved and typeset by several processes, a stretch of forms each, in bounded memory."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from ..crew import Crew
from ..forms import MadeForm, MadeItem, MadeSet, Outlines, drawn_forms, shown_key
from ..plans import Plan
from .heading import Heading
from .printing import Printing

# So many forms are one stretch: their keys are typeset together, and their papers come back together. Fewer take more
# time, more take more memory. The answers of so many stand in one table, on a page of its own mostly.
STRETCH, ROWS = 10, 30


@dataclass(frozen=True, slots=True)
class Pressed:
    """A stretch of forms with the paper of each and their part of the key, as PDF, and the key of every part of every
    question of each as markup."""

    forms: tuple[MadeForm, ...]
    papers: tuple[bytes, ...]
    key: bytes
    shown: list[list[list[str]]]


@dataclass(frozen=True)
class Order:
    """What is to be made: ``outlines`` say which questions and draws each form has."""

    plan: Plan
    heading: Heading
    outlines: Outlines
    seed: str
    # the content of the uploaded pictures by their hash
    pictures: Mapping[str, bytes] = field(default_factory=dict)

    @property
    def count(self) -> int:
        return len(self.outlines.forms)


@dataclass(frozen=True, slots=True)
class Stretch:
    """Some forms, with those of their questions that are drawn and proved already: their papers and key are to be made,
    or their ``answers`` alone."""

    span: range
    made: Mapping[tuple[int, int, int], MadeItem]
    answers: bool = False


class Press:
    """Makes a form set. What is drawn, proved and typeset is the same however many processes there are."""

    def __init__(self, order: Order, processes: int = 0) -> None:
        # what is made already goes with the stretch that needs it, and is held no longer
        self.order = replace(order, outlines=replace(order.outlines, made={}))
        self.made = order.outlines
        self.crew = Crew(self.order, made, processes)
        # tables of the answers of all forms as PDF, when all stretches are made
        self.answers: list[bytes] = []

    @property
    def length(self) -> int:
        """How many stretches there are."""
        return len(self.spans(STRETCH))

    def stretches(self, progress: Callable[[int], None]) -> Iterator[Pressed]:
        """The stretches in their order. ``progress`` is told how many forms are made, and what it raises ends the work.
        Raises ``NotDone``."""
        self.answers.clear()
        # a few forms are made before others would have begun
        few = self.order.count <= STRETCH
        results = (self.crew.done_here if few else self.crew.results)(self.tasks(), progress)
        for found in results:
            if isinstance(found, Pressed):
                yield found
            else:
                self.answers.append(found)

    def tasks(self) -> list[Stretch]:
        """Everything that is to be done: the answers of some forms come behind their papers."""
        outlines, self.made = self.made, self.order.outlines
        papers = [Stretch(span, outlines.made_for(span)) for span in self.spans(STRETCH)]
        answers = [Stretch(span, outlines.made_for(span), answers=True) for span in self.spans(ROWS)]
        return sorted(papers + answers, key=lambda each: (each.span.stop, each.answers))

    def spans(self, length: int) -> list[range]:
        """The numbers of the forms from 0, so many together."""
        return [range(start, min(start + length, self.order.count)) for start in range(0, self.order.count, length)]

    def set_of(self, forms: tuple[MadeForm, ...]) -> MadeSet:
        return MadeSet(forms, self.order.outlines)


def made(order: Order, stretch: Stretch, told: Callable[[], None]) -> Pressed | bytes:
    """A stretch of forms: drawn, proved, and typeset."""
    span, outlines = stretch.span, replace(order.outlines, made=stretch.made)
    printing = Printing(order.plan, order.heading, order.pictures.__getitem__)
    forms, papers = list[MadeForm](), list[bytes]()
    if stretch.answers:
        return printing.short_key(list(drawn_forms(order.plan, outlines, order.seed, span)), order.count)
    for form in drawn_forms(order.plan, outlines, order.seed, span):
        forms.append(form)
        papers.append(printing.papers([form]))
        told()
    habits = order.plan.habits
    shown = [[[shown_key(key.key, habits) for key in item.keys] for item in form.items] for form in forms]
    return Pressed(tuple(forms), tuple(papers), printing.key(forms, order.count, span.start > 0), shown)

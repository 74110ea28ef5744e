"""Keys: answers with what is accepted and worked solutions, and answers alone on a sheet."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from decimal import Decimal

from ..forms import KeyEntry, MadeForm, plain_amount
from ..notation import Habits, Node, NotationError, quoted, read_authored, told
from ..notation import typst as typst_equation
from ..plans import Plan
from ..questions import CompiledQuestion, DrawnQuestion, key_picture, written_solution
from ..text import TYPST
from .drawings import Drawings
from .markup import content, is_tall, unit_after
from .typesetting import compiled


class Keys(Drawings):
    """The keys of a form set."""

    def key(self, forms: Sequence[MadeForm], count: int = 0, continued: bool = False) -> bytes:
        """The key of these forms: answers with what is accepted, then the worked solutions. ``count`` says of how many
        forms they are a part, ``continued`` that others come before them."""
        title = f"{self.heading.title}: key"
        body = "\n".join(
            self.key_of(form, title, "" if continued or place else self.key_title(title, count or len(forms)))
            for place, form in enumerate(forms)
        )
        return compiled(self.document(title, body), self.heading.look.of_keys)

    def short_key(self, forms: Sequence[MadeForm], count: int = 0) -> bytes:
        """The answers alone: a row for every form, on as few pages as can be. ``count`` says of how many forms they are
        a part."""
        count = count or len(forms)
        title = f"{self.heading.title}: answers"
        tables = ""
        answers = [{label: (entry, asked) for label, entry, asked in labels_of(form, self.plan)} for form in forms]
        labels = sorted({label for row in answers for label in row})
        for start in range(0, len(labels), SHORT_COLUMNS):
            some, rows = labels[start : start + SHORT_COLUMNS], ""
            for form, row in zip(forms, answers):
                cells = [short_answer(*row[label]) if label in row else "[]" for label in some]
                rows += f"strong({content(form.code)}), {', '.join(cells)},\n"
            heads = ", ".join(f"strong({content(label)})" for _, _, label in some)
            tables += f"#short-key({len(some)}, ({heads},), (\n{rows}))\n"
        codes = f"{forms[0].code} to {forms[-1].code} · " if len(forms) < count else ""
        marks = f"{codes}{self.of_each(count)}"
        for grade in self.heading.grades(self.plan):
            marks += f" · {grade.name} from {self.told_marks(grade.marks)}"
        said = f"title: {content(title)}, subtitle: {content(marks)}"
        return compiled(self.document(title, f"#answers({said}, [\n{tables}])"), self.heading.look.of_keys)

    def earning_less(self, drawn: DrawnQuestion, part: int, entry: KeyEntry) -> str:
        """What earns a part of the marks, below what is accepted for all of them."""
        answer, found = drawn.answers[part], ""
        for each in () if answer is None else answer.earning_less():
            if isinstance(each.what, str):
                shown = content(told(each.what, self.plan.habits))
            else:
                shown = f"[{equation_of(each.what, drawn.question)}]"
            said = content(each.feedback) if each.feedback.strip() else "none"
            found += f"#less({shown}, {self.marks(entry.marks * each.share)}, {said})"
        return found

    def of_each(self, count: int) -> str:
        """How many forms, and the marks of each."""
        forms, marks = "form" if count == 1 else "forms", "mark" if self.plan.marks == 1 else "marks"
        return f"{count} {forms} · {self.told_marks(self.plan.marks)} {marks} each"

    def key_title(self, title: str, count: int) -> str:
        subtitle = f"Key to {self.of_each(count)}"
        return f"#key-title({content(title)}, {content(subtitle)}){self.grades()}"

    def grades(self) -> str:
        """The grade boundaries as a small table; nothing where there are none."""
        grades, rows = self.heading.grades(self.plan), ""
        for grade in grades:
            share = f"{self.told_marks(grade.share * 100)} %"
            rows += f"({content(grade.name)}, {content(share)}, {content(self.told_marks(grade.marks))}), "
        total = self.told_marks(self.heading.total(self.plan))
        return f"#grades({content(total)}, ({rows}))" if grades else ""

    def key_of(self, form: MadeForm, title: str, before: str) -> str:
        """The key of a form as Typst markup; ``before`` stands above it."""
        rows, solutions = "", ""
        for number, (drawn, item) in enumerate(zip(self.drawn(form), form.items), start=1):
            labels = drawn.question.document.labels
            for k, entry in enumerate(item.keys):
                specification = drawn.question.document.parts[k].answer
                if not specification.asks:
                    continue
                label = f"{number} {labels[k].full}".strip()
                answer = key_markup(entry.key, drawn.question)
                after = unit_after(entry.after)
                close = f"#{content(told(entry.tolerance, self.plan.habits))}" + self.earning_less(drawn, k, entry)
                rows += key_row(content(label), answer + after, f"[{close}]", f"[#{self.marks(entry.marks)}]")
                solutions += rubric_markup(label, specification.rubric_rows, self.plan.habits)
                outlined = key_picture(drawn, k, TYPST)
                if outlined:
                    solutions += f"#solution({content(label)}, [{outlined}])\n"
                text = drawn.question.solutions[k]
                if text.source.strip():
                    solutions += f"#solution({content(label)}, [{written_solution(drawn, k, TYPST)}])\n"
        worked = f"#block(above: 6mm, below: 3mm, strong[Worked solutions])\n{solutions}" if solutions else ""
        return (
            f"#key-form(title: {content(title)}, code: {content(form.code)}, before: [{before}], "
            f"[#key-table(\n{rows})\n{worked}])"
        )


# Where an answer stands on a paper: the number of its question, that of its part from 0, and what it is called.
Answered = tuple[int, int, str]


def labels_of(form: MadeForm, plan: Plan) -> Iterator[tuple[Answered, KeyEntry, CompiledQuestion]]:
    """Every answer that is asked for on a paper, with its key and its question."""
    for number, item in enumerate(form.items, start=1):
        question = plan.places[item.place].candidates[item.candidate].question
        for k, (part, label, entry) in enumerate(zip(question.document.parts, question.document.labels, item.keys)):
            if part.answer.asks:
                yield (number, k, f"{number} {label.full}".strip()), entry, question


def key_row(label: str, answer: str, accepted: str, marks: str) -> str:
    """A row of the table of one form; what stands beside an answer is on its line."""
    if is_tall(answer):
        return f"..tall-row({label}, begun => [#begun;{answer}], {accepted}, {marks}),\n"
    return f"{label}, [{answer}], {accepted}, {marks},\n"


def rubric_markup(label: str, rubric: Iterable[tuple[str, Sequence[tuple[Decimal, str]]]], habits: Habits) -> str:
    """A rubric: every criterion, and its levels with their marks; nothing where there is none."""
    rows = ""
    for name, levels in rubric:
        cells = "".join(f"({content(told(str(marks), habits))}, {content(text)}), " for marks, text in levels)
        rows += f"({content(name)}, ({cells})), "
    return f"#rubric({content(label)}, {rows})\n" if rows else ""


def key_markup(key: str, question: CompiledQuestion) -> str:
    """A frozen key, typeset."""
    try:
        return equation_of(read_authored(key, question.settings), question)
    except NotationError:
        return f"#{quoted(key)};"


def equation_of(tree: Node, question: CompiledQuestion) -> str:
    """A formula in a table."""
    equation = typst_equation(tree, question.style)
    return f"#alone[{equation};];" if is_tall(equation) else equation + ";"


# So many answers stand beside each other in the short key.
SHORT_COLUMNS = 12


def short_answer(entry: KeyEntry, question: CompiledQuestion) -> str:
    """A key with what stands after it. A plain number is set as text, which takes a tenth of the memory of a formula:
    there are very many of them."""
    after = unit_after(entry.after)
    plain = plain_amount(entry.key)
    if plain is None:
        return f"[{key_markup(entry.key, question)}{after}]"
    number = told(plain[0], question.habits).replace("-", "−")
    unit = unit_after(plain[1])
    return f"[#{quoted(number)};{unit}{after}]"

"""A change as it is typed: another key, tolerance, bands, slips, shares, marks; what does not count; how marks are
counted. Each is read into what would hold, and a sentence that says it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from typing import Any

from vorlage.core.answers import KINDS, read_plain, shown_marks, to_marks
from vorlage.core.answers.asking import ABSENT, asked_of
from vorlage.core.answers.asking import Asked as AskedOf
from vorlage.core.answers.spelling import tolerance_of, tolerance_words
from vorlage.core.marking import STOPS, Counting
from vorlage.core.notation import Habits
from vorlage.core.plans import TOLD_IN, Boundaries
from vorlage.core.questions import CompiledQuestion, DocumentError
from vorlage.core.sittings import COUNTING, Rules
from vorlage.web.forms.models import FormItem
from vorlage.web.sittings.models import Similar, Sitting
from vorlage.web.sittings.questions import with_answers

from .changing import Held, with_annulled, with_answer, with_bonus, with_counting
from .columns import numbers_of
from .overview import Asked
from .results import boundaries_now

# The fields of an answer that say what is demanded of it beside being right.
DEMANDS = frozenset(
    ["unit", "unit_rule", "convert", "written", "form", "share", "up_to", "subject", "where", "cost", "partial",
     "different", "multiple", "states", "match", "case", "spacing", "score"]
)  # fmt: skip
# The field of what is needed in a section, by its number.
SECTION = re.compile(r"section_\d{1,2}")
# How a question that does not count is taken.
HOW = {"full": "full marks to those concerned", "out": "taken out of what can be reached"}


class ChangeRefused(ValueError):
    """A change that cannot be made: the field, and why."""

    def __init__(self, name: str, message: str) -> None:
        super().__init__(message)
        self.name, self.message = name, message


@dataclass(frozen=True)
class Field:
    """A field of an answer that can be changed afterwards."""

    name: str
    label: str
    value: str
    help: str = ""
    lines: bool = False
    # what can be chosen from, or whether it is a box to tick
    choices: Sequence[tuple[str, str]] = ()
    tick: bool = False


def answer_now(sitting: Sitting, asked: Asked) -> dict[str, Any]:
    """The specification of a part's answer as it holds in a sitting."""
    own = sitting.changed.get("answers", {}).get(str(asked.candidate.pk), {})
    parts = asked.candidate.revision.document["parts"]
    return deepcopy(own.get(asked.part) or next(each["answer"] for each in parts if each["id"] == asked.part))


def fields_of(sitting: Sitting, asked: Asked) -> list[Field]:
    """What can be changed of a part, as it stands."""
    answer, found = answer_now(sitting, asked), []
    if isinstance(answer.get("key"), str):
        found.append(Field("key", "Key", answer["key"]))
    if isinstance(answer.get("tolerance"), dict):
        words = tolerance_words(answer["tolerance"])
        found.append(Field("tolerance", "Close enough within", words, "2%, 0.5, 1 dp, 3 sf or 3..4; empty is exact"))
    if "bands" in answer:
        rows = [
            " | ".join([tolerance_words(each["tolerance"]), str(each["share"]), each.get("feedback", "")]).rstrip(" |")
            for each in answer["bands"]
        ]
        found.append(Field("bands", "Bands", "\n".join(rows), "One a line: 10% | 1/2 | Check your rounding.", True))
    if "slips" in answer:
        rows = [
            " | ".join([each["key"], str(each["share"]), each.get("feedback", "")]).rstrip(" |")
            for each in answer["slips"]
        ]
        found.append(Field("slips", "Slips", "\n".join(rows), "One a line: m*h | 1/4 | Weight, not mass.", True))
    if isinstance(answer.get("accept"), list):
        found.append(Field("accept", "Accepted words", "\n".join(answer["accept"]), "One a line", True))
    for k, option in enumerate(answer.get("options", ())):
        if "share" in option:
            found.append(Field(f"option_{k}", f"Share of “{option['text'][:60]}”", str(option["share"])))
    return found


def demands_of(sitting: Sitting, asked: Asked) -> list[Field]:
    """What the answer to a part demands beside being right, as it stands: its unit, its form, how it is written."""
    answer, found = answer_now(sitting, asked), []
    for each in demands_in(answer):
        shown = each.write(answer[each.field]) if each.field in answer else {}
        for entry in each.inputs:
            label = entry.before or entry.label or entry.words
            value, more = str(shown.get(entry.name) or ""), entry.after or entry.help
            found.append(
                Field(
                    f"demand_{entry.name}", label[:1].upper() + label[1:], value, "" if more == label else more,
                    choices=entry.choices if entry.way == "choice" else (), tick=entry.way == "tick",
                )
            )  # fmt: skip
    return found


def demands_in(answer: Mapping[str, Any]) -> list[AskedOf]:
    """The fields of an answer that say what is demanded of it."""
    kind = str(answer.get("kind", ""))
    return [each for each in asked_of(KINDS[kind].document, kind) if each.field in DEMANDS]


def read_demands(answer: dict[str, Any], typed: Mapping[str, str]) -> None:
    """Put what is demanded, as it was typed, into an answer. Boxes that are not ticked are not sent, so a field says
    that they were there."""
    if "demands" not in typed:
        return
    for each in demands_in(answer):
        given = {entry.name: typed.get(f"demand_{entry.name}", "").strip()[:200] for entry in each.inputs}
        value = each.read(given)
        if value is ABSENT or value is None:
            answer.pop(each.field, None)
        elif shown_as(each, value) != shown_as(each, answer.get(each.field)):
            answer[each.field] = value


def shown_as(each: AskedOf, value: Any) -> Any:
    """What is demanded, as its inputs show it; as it is where it is nothing that can be demanded, which the document
    refuses."""
    try:
        return each.write(value)
    except (KeyError, TypeError):
        return value


def share(text: str, name: str) -> str:
    try:
        found = read_plain(text)
    except ValueError:
        raise ChangeRefused(name, f"“{text.strip()[:20]}” is no share: write it as 1/2, 0.5 or -1/4.") from None
    if not -1 <= found <= 1:
        raise ChangeRefused(name, "A share lies between -1 and 1.")
    return str(found)


def rows_in(text: str, name: str) -> list[list[str]]:
    """Lines of two or three pieces."""
    rows = [[piece.strip() for piece in line.split("|")] for line in text.splitlines() if line.strip()]
    for number, row in enumerate(rows, start=1):
        if not 2 <= len(row) <= 3:
            raise ChangeRefused(name, f"Line {number}: two or three pieces with | between, such as 10% | 1/2 | words.")
    return rows


def read_answer(sitting: Sitting, asked: Asked, typed: Mapping[str, str]) -> tuple[Held, str]:
    """Another answer of a part, and other marks for it. Raises ``ChangeRefused``."""
    before = answer_now(sitting, asked)
    answer, said = deepcopy(before), []
    for field in fields_of(sitting, asked):
        text = typed.get(field.name, field.value).replace("\r\n", "\n").strip()[:4000]
        if text == field.value.strip():
            continue
        said.append(f"{field.label.lower()}: {text.splitlines()[0] if text else 'none'}")
        if field.name == "tolerance":
            answer["tolerance"] = tolerance_of(text)
        elif field.name == "bands":
            answer["bands"] = [
                {"tolerance": tolerance_of(row[0]), "share": share(row[1], "bands"), "feedback": [*row, ""][2]}
                for row in rows_in(text, "bands")
            ]
        elif field.name == "slips":
            answer["slips"] = [
                {"key": row[0], "share": share(row[1], "slips"), "feedback": [*row, ""][2]}
                for row in rows_in(text, "slips")
            ]
        elif field.name == "accept":
            answer["accept"] = [line.strip() for line in text.splitlines() if line.strip()]
        elif field.name.startswith("option_"):
            answer["options"][int(field.name[7:])]["share"] = share(text, field.name)
        else:
            answer[field.name] = text
    demands = deepcopy(answer)
    read_demands(answer, typed)
    if said_of_demands(answer) != said_of_demands(demands):
        said.append("what is demanded")
    marks = read_worth(sitting, asked, typed, said)
    if not said:
        raise ChangeRefused("", "Nothing is changed yet.")
    check_answer(sitting, asked, answer, before)
    return with_answer(
        Held.of(sitting), asked.candidate.pk, asked.part, answer, marks
    ), f"{asked.name}: {', '.join(said)}"


def said_of_demands(answer: Mapping[str, Any]) -> list[Any]:
    """Everything that is demanded, as its inputs show it."""
    return [shown_as(each, answer.get(each.field)) for each in demands_in(answer)]


def worth_of(sitting: Sitting, asked: Asked) -> Fraction | None:
    """What a part is worth here, as far as it was changed."""
    own = sitting.changed.get("marks", {}).get(str(asked.candidate.pk), {})
    return Fraction(own[asked.part]) if asked.part in own else None


def read_worth(sitting: Sitting, asked: Asked, typed: Mapping[str, str], said: list[str]) -> Fraction | None:
    text = typed.get("worth", "").strip()
    if not text:
        return worth_of(sitting, asked)
    try:
        worth = Fraction(to_marks(text.replace(",", ".")))
    except ValueError:
        raise ChangeRefused("worth", f"“{text[:20]}” is no number of marks.") from None
    if not 0 <= worth <= 100:
        raise ChangeRefused("worth", "Marks are a number from 0 to 100.")
    said.append(f"worth {shown_marks(worth)}")
    return worth


def check_answer(sitting: Sitting, asked: Asked, answer: Mapping[str, Any], before: Mapping[str, Any]) -> None:
    """Raises ``ChangeRefused`` where the changed question could not be marked."""
    own = dict(sitting.changed.get("answers", {}).get(str(asked.candidate.pk), {})) | {asked.part: dict(answer)}
    try:
        document = with_answers(asked.candidate.revision.document, own)
    except DocumentError as problem:
        raise ChangeRefused(field_of(str(problem), answer), str(problem)) from None
    compiled = CompiledQuestion(document, Habits(**sitting.form_set.habits))
    if compiled.problems:
        found = compiled.problems[0]
        where = next((str(step) for step in reversed(found.path) if str(step) in answer), "")
        raise ChangeRefused(where, found.message)


def field_of(message: str, answer: Mapping[str, Any]) -> str:
    return next((name for name in ("tolerance", "bands", "slips", "accept", "options", "key") if name in message), "")


def read_annulled(sitting: Sitting, asked: Asked, typed: Mapping[str, str], chosen: list[str]) -> tuple[Held, str]:
    """A question that does not count. Raises ``ChangeRefused``."""
    how = typed.get("how", "")
    if how not in HOW:
        raise ChangeRefused("how", "Say how it is taken: full marks, or out of what can be reached.")
    whom = typed.get("whom", "all")
    row: dict[str, Any] = {"candidate": asked.candidate.pk, "how": how}
    if typed.get("whole") != "1":
        row["part"] = asked.part
    who = "for all"
    if whom == "forms":
        forms = {
            form.pk: form.code
            for form in sitting.form_set.forms.filter(code__in=[each.strip().upper() for each in chosen])
        }
        if not forms:
            raise ChangeRefused("forms", "No form of this sitting has such a code.")
        row["forms"], who = sorted(forms), f"for form {', '.join(sorted(forms.values()))}"
    elif whom == "draw":
        draws = same_draws(asked, [each.strip().upper() for each in chosen])
        if not draws:
            raise ChangeRefused("forms", "No form of this sitting has such a code.")
        row["draws"], who = draws, f"for those with the numbers of form {', '.join(chosen)}"
    return with_annulled(Held.of(sitting), row), f"{asked.number} does not count {who}: {HOW[how]}"


def same_draws(asked: Asked, codes: Sequence[str]) -> list[int]:
    """The draws of whoever had the same numbers as one of these forms, on whatever form or as a similar question: the
    same numbers may have been drawn more than once."""
    items = list(FormItem.objects.filter(candidate=asked.candidate).select_related("form"))
    wanted = {numbers_of(each.frozen_draw) for each in items if each.form.code in codes}
    there = [(each.draw, each.frozen_draw) for each in items]
    there += [(each.draw, each.frozen_draw) for each in Similar.objects.filter(candidate=asked.candidate)]
    return sorted({draw for draw, frozen in there if numbers_of(frozen) in wanted})


def read_bonus(sitting: Sitting, asked: Asked, typed: Mapping[str, str]) -> tuple[Held, str]:
    beyond = typed.get("beyond") == "1"
    words = "adds to what is reached and not to what can be" if beyond else "counts as any other"
    return with_bonus(Held.of(sitting), asked.candidate.pk, beyond), f"{asked.number} {words}"


def read_counting(sitting: Sitting, typed: Mapping[str, str]) -> tuple[Held, str]:
    """How marks are counted together, which attempt counts, when one has passed, and the boundaries. Raises
    ``ChangeRefused``."""
    before = sitting.counted_by
    counting = Counting(
        stop=typed.get("stop", "") if typed.get("stop") in STOPS else before.stop,
        taking_part=per_cent(typed.get("taking_part", ""), "taking_part"),
        drop=whole(typed.get("drop", ""), "drop", 20),
        cap=typed.get("cap") == "1",
        maximum=marks_in(typed, "maximum"),
    )
    held = with_counting(Held.of(sitting), counting)
    rules = sitting.held
    which = typed.get("which", rules.which)
    rules = replace(
        rules,
        which=which if which in COUNTING else rules.which,
        pass_share=per_cent(typed["pass_share"], "pass_share") or None if "pass_share" in typed else rules.pass_share,
        pass_marks=marks_in(typed, "pass_marks") if "pass_marks" in typed else rules.pass_marks,
        section_passes=section_passes_in(typed, rules),
    )
    changed = deepcopy(dict(held.changed))
    boundaries = boundaries_in(sitting, typed)
    if boundaries.kept != boundaries_now(sitting).kept:
        changed["boundaries"] = boundaries.kept
    held = Held(changed, held.counting, rules.kept)
    said = words_of(sitting, counting, rules, changed)
    if not said:
        raise ChangeRefused("", "Nothing is changed yet.")
    return held, "; ".join(said)


def words_of(sitting: Sitting, counting: Counting, rules: Rules, changed: Mapping[str, Any]) -> list[str]:
    """What is counted otherwise than before, in words."""
    before, was = sitting.counted_by, sitting.held
    drop = f"the weakest {counting.drop} left out" if counting.drop else "no question left out"
    scaled = f"out of {shown_marks(counting.maximum)}" if counting.maximum else "as the test scales"
    passing = f"passed with {float(rules.pass_share * 100):g} %" if rules.pass_share else "no share to pass"
    needed = f"passed with {shown_marks(rules.pass_marks)} marks" if rules.pass_marks else "no marks to pass"
    told = [
        (counting.stop != before.stop, f"shares below nothing stop at the {counting.stop}"),
        (counting.taking_part != before.taking_part, f"taking part earns {float(counting.taking_part * 100):g} %"),
        (counting.drop != before.drop, drop),
        (counting.cap != before.cap, "no total above what can be reached" if counting.cap else "totals may go beyond"),
        (counting.maximum != before.maximum, scaled),
        (rules.which != was.which, COUNTING.get(rules.which, rules.which)),
        (rules.pass_share != was.pass_share, passing),
        (rules.pass_marks != was.pass_marks, needed),
        (rules.section_passes != was.section_passes, "something else needed in a section"),
        (changed.get("boundaries") != sitting.changed.get("boundaries"), "other grade boundaries"),
    ]
    return [words for differs, words in told if differs]


def per_cent(text: str, name: str) -> Fraction:
    typed = text.strip().removesuffix("%").strip()
    if not typed:
        return Fraction(0)
    try:
        found = read_plain(typed) / 100
    except ValueError:
        found = Fraction(-1)
    if not 0 <= found <= 1:
        raise ChangeRefused(name, "Type per cent from 0 to 100.")
    return found


def whole(text: str, name: str, most: int) -> int:
    typed = text.strip() or "0"
    if not (typed.isdecimal() and len(typed) < 4 and int(typed) <= most):
        raise ChangeRefused(name, f"Type a whole number up to {most}.")
    return int(typed)


def marks_in(typed: Mapping[str, str], name: str) -> Fraction | None:
    """Marks that may be left out."""
    text = typed.get(name, "").strip()
    if not text:
        return None
    try:
        found = read_plain(text)
    except ValueError:
        found = Fraction(0)
    if not 0 < found <= 1000:
        raise ChangeRefused(name, "Type marks above 0 and up to 1000, or nothing.")
    return found


def section_passes_in(typed: Mapping[str, str], rules: Rules) -> tuple[Fraction | None, ...]:
    """The shares that are needed in each section, as far as they were asked for."""
    names = sorted((each for each in typed if SECTION.fullmatch(each)), key=lambda each: int(each[8:]))
    if not names:
        return rules.section_passes
    found = tuple(per_cent(typed[name], name) or None for name in names)
    before = (*rules.section_passes, *[None] * len(found))[: len(found)]
    return rules.section_passes if found == before else found


def boundaries_in(sitting: Sitting, typed: Mapping[str, str]) -> Boundaries:
    """Grade boundaries as lines: ``merit 62.5``, from the best on. Raises ``ChangeRefused``."""
    now = boundaries_now(sitting)
    if "boundaries" not in typed:
        return now
    rows: list[tuple[str, Decimal]] = []
    for number, line in enumerate(filter(str.strip, typed["boundaries"].splitlines()[:12]), start=1):
        name, _, least = line.strip().rpartition(" ")
        try:
            rows.append((name.strip()[:30] or least, shown_marks(read_plain(least.removesuffix("%")))))
        except ValueError:
            raise ChangeRefused(
                "boundaries", f"Line {number}: a name and from where it holds, such as merit 62.5."
            ) from None
    told_in = typed.get("told_in", now.told_in)
    found = Boundaries(told_in if told_in in dict(TOLD_IN) else now.told_in, tuple(rows))
    if wrong := found.wrong(Fraction(1000)):
        number, message = next(iter(wrong.items()))
        raise ChangeRefused("boundaries", f"Line {number + 1}: {message}")
    return found

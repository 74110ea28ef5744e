"""What can be read and is hardly what an author meant: each thing at its field, with what could stand there instead."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from fractions import Fraction

from ..algebra import EvaluationError, to_fraction
from ..answers.records import Tolerance
from ..answers.tolerance import CompiledTolerance
from ..budget import Path
from ..draws import doubtful
from ..notation import SPAN, NotationError, Settings, names_in, repeated
from ..quantities import is_unit
from .cautions import Caution
from .question import CompiledQuestion

# A tolerance beyond this share of the key admits nearly anything.
HALF = Fraction(1, 2)


def unmeant(question: CompiledQuestion) -> list[Caution]:
    """What an author hardly meant, in the order of the document."""
    return [
        *doubtful_definitions(question),
        *multiplied_names(question),
        *placeholders(question),
        *never_shown(question),
        *wide_tolerances(question),
        *(
            Caution("units", doubt.message, (), path=doubt.path, place=doubt.place, length=doubt.length,
                    instead=doubt.instead)
            for doubt in question.doubts
        ),
        *(
            Caution("unclosed", found.message, path=path, place=found.place, length=found.length)
            for path, found in question.unclosed
        ),
    ]  # fmt: skip


def doubtful_definitions(question: CompiledQuestion) -> Iterator[Caution]:
    """``150-600`` and the like."""
    names = question.settings.names
    for k, parameter in enumerate(question.document.parameters):
        found = doubtful(parameter.definition, names.__contains__, is_unit)
        if found:
            message, instead = found
            path: Path = ("parameters", k, "definition")
            yield Caution("habit", message, path=path, length=len(parameter.definition), instead=instead)


def authored_lines(question: CompiledQuestion) -> Iterator[tuple[Path, str]]:
    """Every line of maths that an author writes, with its field."""
    for k, parameter in enumerate(question.document.parameters):
        yield ("parameters", k, "definition"), parameter.definition
    for k, condition in enumerate(question.document.conditions):
        yield ("conditions", k), condition
    for k, part in enumerate(question.document.parts):
        for path, inner in part.answer.inner():
            for name, text in inner.lines():
                yield ("parts", k, "answer", *path, name), text


def multiplied_names(question: CompiledQuestion) -> Iterator[Caution]:
    """``mm*g``, where m is a parameter and mm none."""
    told = set[tuple[Path, str]]()
    for path, text in authored_lines(question):
        for run in repeated(text, question.settings):
            product = "*".join(run.names)
            message = f"{run.text} is no parameter; it is read as {product}."
            if (path, run.text) not in told:
                yield Caution("multiplied", message, path=path, place=run.place, length=len(run.text), instead=product)
            told.add((path, run.text))


# How the place of a number is written in texts elsewhere.
PLACEHOLDER = re.compile(
    r"\\\((?P<tex>.{1,300}?)\\\)|\\\[(?P<display>.{1,300}?)\\\]|\{\{\s*(?P<double>[A-Za-z]\w*)\s*\}\}"
    r"|\$?\{\s*(?P<braced>[A-Za-z]\w*)\s*\}|#(?P<hashed>[A-Za-z]\w*)#?|(?<![\w.])@(?P<at>[A-Za-z]\w*)\b|%(?P<percent>[A-Za-z]\w*)%"
    r"|<(?P<angle>[A-Za-z]\w*)>|(?<!!)\[(?P<square>[A-Za-z]\w*)\](?!\()|`(?P<code>[A-Za-z]\w*)`"
)


def placeholders(question: CompiledQuestion) -> Iterator[Caution]:
    """Names of parameters that stand in texts as they would elsewhere: ``{m}``, and maths as TeX has it."""
    names = question.settings.names
    for path, text in question.texts:
        # what is maths already is read as such
        plain = SPAN.sub(lambda span: " " * len(span[0]), text.source)
        for found in PLACEHOLDER.finditer(plain):
            inside = next(each for each in found.groups() if each is not None).strip()
            is_tex = found["tex"] is not None or found["display"] is not None
            if not (is_tex or inside in names):
                continue
            instead = f"${inside}$"
            message = f"This is shown as it stands; {'maths' if is_tex else 'a number'} is written `{instead}`."
            yield Caution("placeholder", message, path=path, place=found.start(), length=len(found[0]), instead=instead)


def never_shown(question: CompiledQuestion) -> Iterator[Caution]:
    """Parameters that an answer needs and that no text, figure or option shows, neither by themselves nor in what is
    computed from them."""
    parameters = question.parameters
    told = {each.instead.strip("$") for each in placeholders(question)}
    if parameters.errors or any(problem.path[-1] in {"wording", "lines"} for problem in question.problems):
        # what cannot be read may show them
        return
    uses = {name: definition.names for name, definition in parameters.computed.items()}

    def behind(names: Iterable[str]) -> set[str]:
        """The names, and all that they are computed from."""
        found, waiting = set[str](), list(names)
        while waiting:
            name = waiting.pop()
            if name not in found:
                found.add(name)
                waiting += uses.get(name, ())
        return found

    if not any(text.source.strip() for _, text in question.sheet_texts):
        # nothing is written yet
        return
    shown = {name for _, text in question.sheet_texts for tree in text.trees.values() for name in names_in(tree)}
    shown |= question.drawn_names
    needed = {
        name
        for part in question.document.parts
        if part.answer.checked and part.answer.typed
        for _, inner in part.answer.inner()
        for _, text in inner.lines()[:1]
        for name in question.names_of(text)
    }
    seen, wanted = behind(shown), behind(needed)
    for k, (name, parameter) in enumerate(zip(parameters.names, question.document.parameters)):
        columns = {f"{name}.{column.name}" for column in parameters.columns_of(name)}
        if name in uses or name in told or not ({name, *columns} & wanted) or {name, *columns} & seen:
            continue
        message = f"The answer needs {name}, and no student sees it: write `${name}$` into the wording."
        yield Caution("never_shown", message, path=("parameters", k, "name"), length=len(parameter.name))


MANY_TIMES = 1000


def wide_tolerances(question: CompiledQuestion) -> Iterator[Caution]:
    """Tolerances of more than half of the key: ``2`` within the key is 200 %."""
    for k, part in enumerate(question.document.parts):
        for path, inner in part.answer.inner():
            tolerance = getattr(inner, "tolerance", None)
            if not isinstance(tolerance, Tolerance) or tolerance.mode != "relative":
                continue
            share = constant_share(tolerance, question.settings)
            if share is None or share <= HALF:
                continue
            written = tolerance.value.strip()
            instead = f"{written}%" if not written.endswith("%") and share <= 100 else ""
            words = f" Did you mean {written} %?" if instead else ""
            # a number of hundreds of digits has no percentage that anybody reads
            size = f"{float(share * 100):g} % of the key" if share < MANY_TIMES else "very many times the key"
            message = f"This is {size}: nearly every answer would be right.{words}"
            place: Path = ("parts", k, "answer", *path, "tolerance")
            yield Caution("wide", message, path=place, length=len(tolerance.value), instead=instead)


def constant_share(tolerance: Tolerance, settings: Settings) -> Fraction | None:
    """The share of the key that a tolerance reaches, where it is the same in every draw."""
    try:
        drawn = CompiledTolerance(tolerance, settings).constant
    except (NotationError, EvaluationError):
        return None
    return None if drawn is None else to_fraction(drawn.value)

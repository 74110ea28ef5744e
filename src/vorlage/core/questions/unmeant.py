"""What can be read and is hardly what an author meant: each thing at its field, with what could stand there instead."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..algebra import EvaluationError, to_fraction
from ..answers.records import Tolerance
from ..answers.tolerance import CompiledTolerance
from ..draws import doubtful
from ..notation import NotationError, Settings, repeated
from ..quantities import is_unit
from .cautions import Caution
from .question import CompiledQuestion, Path

# A tolerance beyond this share of the key admits nearly anything.
HALF = Fraction(1, 2)


def unmeant(question: CompiledQuestion) -> list[Caution]:
    """What an author hardly meant, in the order of the document."""
    return [
        *doubtful_definitions(question),
        *multiplied_names(question),
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
            instead = f"{written}%" if not written.endswith("%") and float(share) <= 100 else ""
            words = f" Did you mean {written} %?" if instead else ""
            message = f"This is {float(share * 100):g} % of the key: nearly every answer would be right.{words}"
            place: Path = ("parts", k, "answer", *path, "tolerance")
            yield Caution("wide", message, path=place, length=len(tolerance.value), instead=instead)


def constant_share(tolerance: Tolerance, settings: Settings) -> Fraction | None:
    """The share of the key that a tolerance reaches, where it is the same in every draw."""
    try:
        drawn = CompiledTolerance(tolerance, settings).constant
    except (NotationError, EvaluationError):
        return None
    return None if drawn is None else to_fraction(drawn.value)

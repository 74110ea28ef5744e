"""Deciding whether an answer equals a key: proved, refuted with a witness, or agreeing where tried."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

from flint import arb, ctx, fmpq

from ..notation import Call, Constant, Neg, Node, Relation, Sum, names_in, walk
from .balls import Undefined, ball
from .canonical import Difference, NoCanonicalForm, canonical_difference
from .complexes import complex_value
from .errors import EvaluationError, Irrational
from .evaluation import Condition
from .kronecker import differing_values, identical
from .rationals import NotRational, Ratio, RationalReader, TooComplex

POINTS_WANTED = 12
POINTS_TRIED = 160
CLOSE_BITS = 330
# Small values first: a teacher checks a witness by hand.
SMALL = [fmpq(*value) for value in (
    (2, 1), (3, 1), (1, 1), (5, 1), (-1, 1), (4, 1), (-2, 1), (1, 2), (-3, 1), (0, 1), (7, 1), (-1, 2), (3, 2),
    (1, 3), (-5, 1), (6, 1), (1, 4), (-1, 3), (10, 1), (9, 10), (-7, 1), (1, 10), (-9, 10),
)]  # fmt: skip
NEARBY = fmpq(1, 997)


@dataclass(frozen=True, slots=True)
class Certainty:
    """How sure a comparison is.

    ``kind`` is ``proved``, ``refuted`` or ``agrees``. A refutation carries its witness: a value for each
    letter, and what the two sides are there (``None`` for a side that has no value). ``points`` counts
    the points at which two formulas agreed.
    """

    kind: str
    points: int = 0
    witness: tuple[tuple[str, Fraction], ...] = ()
    key_value: str | None = None
    response_value: str | None = None

    @property
    def holds(self) -> bool:
        return self.kind != "refuted"


PROVED = Certainty("proved")


@dataclass(frozen=True, slots=True)
class Comparison:
    """What is to be compared, and where."""

    key: Node
    response: Node
    # relations that the letters satisfy
    where: tuple[Node, ...] = ()
    angle: str = "radians"


def equivalent(key: Node, response: Node, where: Sequence[Node] = (), angle: str = "radians") -> Certainty:
    """Whether ``response`` equals ``key`` wherever the key is defined over the reals, within ``where``.

    Isolated points at which only the response is undefined do not matter.

    >>> from vorlage.core.notation import read
    >>> equivalent(read("x + 1"), read("(x^2 - 1)/(x - 1)")).kind
    'proved'
    >>> equivalent(read("ln(x^2)"), read("2 ln x")).kind
    'refuted'
    """
    same = identical(key, response)
    if same:
        return PROVED
    comparison = Comparison(key, response, tuple(where), angle)
    if is_complex(key) or is_complex(response):
        return compared_as_complex(comparison)
    names = sorted(names_in(key) | names_in(response))
    if same is False:
        return by_hand(comparison, names) or sampled(comparison, names)
    try:
        first, second = rational_pair(key, response, names)
        if first.equals(second):
            return PROVED
    except NotRational:
        # most wrong answers are wrong at the first point that is tried
        refutation = refuted_at_once(comparison, names)
        if refutation is not None:
            return refutation
        proof = canonical_proof(comparison)
        if proof is not None:
            return proof
    except (TooComplex, EvaluationError):
        pass
    return sampled(comparison, names)


def is_complex(tree: Node) -> bool:
    """Whether the imaginary unit stands in a formula."""
    return any(isinstance(node, Constant) and node.name == "i" for node in walk(tree))


def compared_as_complex(comparison: Comparison) -> Certainty:
    """Formulas with the imaginary unit: proved when they are rational, compared at real points otherwise."""
    plain = all(not isinstance(node, Call) for tree in (comparison.key, comparison.response) for node in walk(tree))
    found = difference(comparison) if plain else None
    if found is not None and found.vanishes():
        return PROVED
    names = sorted(names_in(comparison.key) | names_in(comparison.response))
    agreed = 0
    for point in points(names):
        try:
            wanted = complex_value(comparison.key, point)
        except EvaluationError:
            continue
        try:
            given = complex_value(comparison.response, point)
        except EvaluationError:
            continue
        if not wanted.overlaps(given):
            witness = tuple((name, Fraction(int(value.p), int(value.q))) for name, value in point.items())
            return Certainty("refuted", 0, witness)
        agreed += 1
        if agreed == POINTS_WANTED:
            break
    return Certainty("agrees", agreed) if agreed else Certainty("refuted")


def by_hand(comparison: Comparison, names: list[str]) -> Certainty | None:
    """A refutation at a point of small whole numbers, where there is nothing else to be minded."""
    if comparison.where:
        return None
    for whole in ((2, 3, 5, 7), (3, 1, 2, 5), (1, 2, 4, 3)):
        if len(names) > len(whole):
            return None
        point = dict(zip(names, whole))
        found = differing_values(comparison.key, comparison.response, point)
        if found is not None:
            witness = tuple((name, Fraction(value)) for name, value in point.items())
            return Certainty("refuted", 0, witness, *(short_fraction(*value) for value in found))
    return None


def short_fraction(top: int, bottom: int) -> str:
    """A fraction for people: as it is when it is short, else a decimal."""
    if max(top.bit_length(), bottom.bit_length()) <= 200:
        return str(Fraction(top, bottom))
    return shown(arb(fmpq(top, bottom)))


def rational_pair(key: Node, response: Node, names: list[str]) -> tuple[Ratio, Ratio]:
    reader = RationalReader(names)
    return reader.of(key), reader.of(response)


def difference(comparison: Comparison) -> Difference | None:
    try:
        return canonical_difference(
            comparison.key, comparison.response, not_negative(comparison.where), comparison.angle
        )
    except (NoCanonicalForm, TooComplex, EvaluationError):
        return None


def canonical_proof(comparison: Comparison) -> Certainty | None:
    """A proof by canonical forms; the domains are compared too, by points when not by form."""
    found = difference(comparison)
    if found is None:
        return None
    try:
        if not found.vanishes():
            return None
    except (TooComplex, EvaluationError):
        return None
    if found.domain_contained:
        return PROVED
    return sampled(comparison, sorted(names_in(comparison.key) | names_in(comparison.response)))


def not_negative(where: Sequence[Node]) -> list[Node]:
    """Formulas that the relations in ``where`` make positive or zero."""
    found: list[Node] = []
    for relation in where:
        if isinstance(relation, Relation):
            for sign, low, high in zip(relation.signs, relation.terms, relation.terms[1:]):
                if sign in {"<", "≤"}:
                    found.append(Sum((high, Neg(low))))
                elif sign in {">", "≥"}:
                    found.append(Sum((low, Neg(high))))
    return found


def points(names: list[str], tried: int = POINTS_TRIED) -> Iterator[dict[str, fmpq]]:
    """Small points, spread so that no two letters march in step."""
    count = len(SMALL)
    for k in range(tried):
        yield {
            name: SMALL[(k * (1 + 2 * place) + 3 * place + (k // count) * (place + 1)) % count]
            + (k // count) * fmpq(place + 1, 7)
            for place, name in enumerate(names)
        }
        if not names:
            return


def refuted_at_once(comparison: Comparison, names: list[str]) -> Certainty | None:
    """A refutation at the first point where both sides have a value, or None."""
    conditions = [Condition(relation, comparison.angle) for relation in comparison.where]
    for point in points(names, 4):
        if not admitted(conditions, point):
            continue
        try:
            wanted = ball(comparison.key, point, 64, comparison.angle)
            given = ball(comparison.response, point, 64, comparison.angle)
        except EvaluationError:
            continue
        return None if wanted.overlaps(given) else refuted(point, wanted, given)
    return None


def sampled(comparison: Comparison, names: list[str]) -> Certainty:
    """Compare at small points, by balls; a point where the two surely differ refutes."""
    conditions = [Condition(relation, comparison.angle) for relation in comparison.where]
    agreed = 0
    for point in points(names):
        if not admitted(conditions, point):
            continue
        try:
            wanted = value_at(comparison.key, point, comparison.angle)
        except EvaluationError:
            continue
        verdict = compared_at(comparison, point, wanted)
        if verdict is not None:
            return verdict
        agreed += 1
        if agreed == POINTS_WANTED:
            break
    # Nothing that could be tried speaks for the answer: it is not accepted on trust.
    return Certainty("agrees", agreed) if agreed else Certainty("refuted")


def admitted(conditions: list[Condition], point: dict[str, fmpq]) -> bool:
    try:
        return all(condition.holds(point) for condition in conditions)
    except (EvaluationError, Irrational):
        return False


def value_at(tree: Node, point: dict[str, fmpq], angle: str, least: int = 64) -> arb:
    """The value with at least forty good bits, or ``Undefined``; worked out at ``least`` bits or more."""
    failure = Undefined()
    for bits in (least, 192, 640):
        try:
            value = ball(tree, point, bits, angle)
        except Undefined as problem:
            failure = problem
            continue
        if value.rel_accuracy_bits() > 40 or (value.contains(0) and value.rad() < arb(2) ** -60) or bits == 640:
            return value
    raise failure


def compared_at(comparison: Comparison, point: dict[str, fmpq], wanted: arb) -> Certainty | None:
    """A refutation, or None when the two sides cannot be told apart here."""
    try:
        given = value_at(comparison.response, point, comparison.angle)
    except EvaluationError:
        return None if isolated(comparison, point) else refuted(point, wanted, None)
    if not wanted.overlaps(given):
        return refuted(point, wanted, given)
    # they agree to some twenty figures: look again with a hundred
    close_key = value_at(comparison.key, point, comparison.angle, CLOSE_BITS)
    close_response = value_at(comparison.response, point, comparison.angle, CLOSE_BITS)
    return None if close_key.overlaps(close_response) else refuted(point, close_key, close_response)


def isolated(comparison: Comparison, point: dict[str, fmpq]) -> bool:
    """Whether the response has a value close by, where the key has one too."""
    if not point:
        return False
    for step in (NEARBY, -NEARBY):
        beside = {name: value + step * (2 * place + 1) for place, (name, value) in enumerate(point.items())}
        try:
            value_at(comparison.key, beside, comparison.angle)
        except EvaluationError:
            continue
        try:
            value_at(comparison.response, beside, comparison.angle)
        except EvaluationError:
            return False
    return True


def refuted(point: dict[str, fmpq], wanted: arb, given: arb | None) -> Certainty:
    witness = tuple((name, Fraction(int(value.p), int(value.q))) for name, value in point.items())
    return Certainty("refuted", 0, witness, shown(wanted), None if given is None else shown(given))


def shown(value: arb) -> str:
    """A short decimal for people; whole numbers as they are."""
    whole = value.unique_fmpz()
    if whole is not None and value.is_exact():
        return str(whole)
    return str(value.mid().str(6, radius=False))


def equal_up_to(comparison: Comparison, up_to: str) -> Certainty:
    """Equality up to an added ``constant``, a non-zero ``multiple``, or the ``sign``."""
    if up_to == "sign":
        straight = equivalent(comparison.key, comparison.response, comparison.where, comparison.angle)
        if straight.holds:
            return straight
        turned = equivalent(Neg(comparison.key), comparison.response, comparison.where, comparison.angle)
        return turned if turned.holds else straight
    letters = names_in(comparison.key)
    found = difference(comparison)
    if found is not None:
        try:
            if up_to == "multiple" and (found.left.top.is_zero() or found.right.top.is_zero()):
                both = found.left.top.is_zero() and found.right.top.is_zero()
                return PROVED if both else Certainty("refuted")
            if not found.depends_on(letters, up_to == "multiple"):
                return PROVED
        except (TooComplex, NoCanonicalForm, EvaluationError):
            pass
    return sampled_up_to(comparison, up_to)


def sampled_up_to(comparison: Comparison, up_to: str) -> Certainty:
    """Whether the difference (or the ratio) is the same at every point; other letters are held still."""
    letters = sorted(names_in(comparison.key))
    others = {name: fmpq(k + 2) for k, name in enumerate(sorted(names_in(comparison.response) - set(letters)))}
    conditions = [Condition(relation, comparison.angle) for relation in comparison.where]
    constant: arb | None = None
    agreed = 0
    for point in points(letters):
        if not admitted(conditions, point):
            continue
        try:
            wanted = value_at(comparison.key, point, comparison.angle, CLOSE_BITS)
        except EvaluationError:
            continue
        try:
            given = value_at(comparison.response, point | others, comparison.angle, CLOSE_BITS)
        except EvaluationError:
            if isolated(comparison, point | others):
                continue
            return refuted(point, wanted, None)
        if up_to == "multiple" and wanted.contains(0):
            continue
        with ctx.workprec(CLOSE_BITS):
            gap = given / wanted if up_to == "multiple" else given - wanted
        if constant is not None and not constant.overlaps(gap):
            return refuted(point, wanted, given)
        constant = gap
        agreed += 1
        if agreed == POINTS_WANTED:
            break
    if constant is None or (up_to == "multiple" and constant.contains(0)):
        return Certainty("refuted")
    return Certainty("agrees", agreed)

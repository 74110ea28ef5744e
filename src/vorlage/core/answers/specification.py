"""The answer specification: what a part of a question document says about its answer."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, field_validator, model_validator


def to_share(value: Any) -> Fraction:
    """A share of the marks from ``"1/2"``, ``"50%"``, ``0.5`` or ``1``."""
    if isinstance(value, Fraction):
        return value
    text = str(value).strip()
    try:
        return Fraction(text[:-1].strip()) / 100 if text.endswith("%") else Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise ValueError("A share is a fraction of the marks, such as 1/2 or 50%.") from None


def in_range(value: Any) -> Fraction:
    share = to_share(value)
    if not 0 <= share <= 1:
        raise ValueError("A share lies between 0 and 1.")
    return share


Share = Annotated[Fraction, BeforeValidator(in_range), PlainSerializer(str, return_type=str)]
Line = Annotated[str, Field(max_length=2000)]
HALF = Fraction(1, 2)


# What stays the same of a part, an option or a region from revision to revision, whatever becomes of its words.
Identity = Annotated[str, Field(max_length=20, pattern=r"^[a-z0-9-]*$")]


def to_marks(value: Any) -> Decimal:
    """Marks from ``2``, ``2.5``, ``"2.5"`` or ``"1/2"``, without zeros at the end. Raises ``ValueError``."""
    text = str(value).strip()
    above, stroke, below = text.partition("/")
    try:
        marks = Decimal(above) / Decimal(below) if stroke else Decimal(text)
    except (InvalidOperation, ArithmeticError):
        marks = Decimal("NaN")
    usable = not isinstance(value, bool) and marks.is_finite() and 0 <= marks <= 100
    if not usable or marks * 100 != int(marks * 100):
        raise ValueError("Marks are a number from 0 to 100 with at most two decimal places, such as 2 or 2.5.")
    return plain_marks(marks)


def plain_marks(marks: Decimal) -> Decimal:
    """The same marks without zeros at the end.

    >>> plain_marks(Decimal("2.50")), plain_marks(Decimal("10.00"))
    (Decimal('2.5'), Decimal('10'))
    """
    return marks.quantize(Decimal(1)) if marks == int(marks) else marks.normalize()


def total_marks(marks: Iterable[Decimal]) -> Decimal:
    """All of them together, without zeros at the end."""
    return plain_marks(sum(marks, Decimal(0)))


def as_json_number(marks: Decimal) -> int | float:
    return int(marks) if marks == int(marks) else float(marks)


Marks = Annotated[Decimal, BeforeValidator(to_marks), PlainSerializer(as_json_number, return_type=int | float)]


class Strict(BaseModel):
    """A record that refuses what it does not know."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_strip_whitespace=True)


def renamed(given: Any, names: dict[str, str]) -> Any:
    """A record with other usual names of its fields turned into ours."""
    return {names.get(name, name): value for name, value in given.items()} if isinstance(given, dict) else given


TOLERANCE_NAMES = {
    "n": "value", "places": "value", "figures": "value", "lo": "low", "hi": "high", "from": "low", "to": "high",
}  # fmt: skip


class Tolerance(Strict):
    """How close is close enough.

    ``value`` is line maths: a distance, a fraction such as ``2%``, or a count of places or figures;
    ``between`` uses ``low`` and ``high`` instead, ends included.
    """

    mode: Literal["exact", "absolute", "relative", "decimal_places", "significant_figures", "between"] = "exact"
    value: Line = ""
    low: Line = ""
    high: Line = ""

    @model_validator(mode="before")
    @classmethod
    def spread(cls, given: Any) -> Any:
        """Numbers may stand for their line maths, and ``between`` may come as a pair."""
        if not isinstance(given, dict):
            return given
        spread = renamed(given, TOLERANCE_NAMES)
        pair = spread.get("value")
        if isinstance(pair, list | tuple) and len(pair) == 2:
            spread.pop("value")
            spread["low"], spread["high"] = pair
        return {
            name: value if name == "mode" or isinstance(value, str) else str(value) for name, value in spread.items()
        }

    @model_validator(mode="after")
    def complete(self) -> Tolerance:
        if self.mode == "between":
            if not self.low or not self.high:
                raise ValueError("“between” needs a lower and an upper end.")
        elif self.mode != "exact" and not self.value:
            raise ValueError("This tolerance needs a value, such as 2% or 0.05.")
        return self


class Limit(Strict):
    """What may be typed at all, told at once in the author's own words; it is about the form and costs nothing."""

    rule: Literal["whole", "between", "length", "pattern"]
    # the ends of ``between``, and the least and the most characters of ``length``; either may be left out
    low: Line = ""
    high: Line = ""
    # a regular expression that the whole answer fits
    pattern: str = Field(default="", max_length=500)
    words: str = Field(default="", max_length=300)

    @model_validator(mode="before")
    @classmethod
    def bare(cls, given: Any) -> Any:
        """``"whole"`` by itself, and ends that are numbers."""
        if isinstance(given, str):
            return {"rule": given}
        if isinstance(given, dict):
            numbers = (int, float)
            return {name: str(value) if isinstance(value, numbers) else value for name, value in given.items()}
        return given

    @model_validator(mode="after")
    def complete(self) -> Limit:
        if self.rule in {"between", "length"} and not (self.low.strip() or self.high.strip()):
            raise ValueError("This limit needs a lower or an upper end.")
        if self.rule == "pattern" and not self.pattern:
            raise ValueError("This limit needs a pattern.")
        return self


Limits = Annotated[tuple[Limit, ...], Field(max_length=5)]


def even_shares(shares: Iterable[Fraction | None]) -> tuple[Fraction, ...]:
    """The shares, those that are not given being what is left, evenly."""
    listed = list(shares)
    given = sum((share for share in listed if share is not None and share > 0), Fraction(0))
    unsaid = sum(share is None for share in listed)
    rest = (1 - given) / unsaid if unsaid else Fraction(0)
    return tuple(rest if share is None else share for share in listed)


class Band(Strict):
    """A range of closeness around the key and the share of the marks it earns."""

    tolerance: Tolerance
    share: Share = HALF
    feedback: str = ""


class Slip(Strict):
    """A mistake that is expected, as a formula."""

    key: Line
    share: Share = Fraction(0)
    feedback: str = ""


WrittenForm = Literal["integer", "fraction", "mixed", "decimal", "percent", "standard_form", "surd", "cartesian"]


class Written(Strict):
    """A demand on how a number is written, apart from its value."""

    decimal_places: int | None = Field(default=None, ge=0, le=30)
    significant_figures: int | None = Field(default=None, ge=1, le=30)
    form: WrittenForm | None = None
    lowest_terms: bool = False
    share: Share = HALF


NearMissName = Literal["rounding", "truncation", "sign", "power_of_ten", "digit_swap", "digit", "angle_unit"]


def name_or_object(schema: dict[str, Any]) -> None:
    """In the JSON Schema: the bare name of a near-miss will do."""
    described = dict(schema)
    schema.clear()
    schema["anyOf"] = [described["properties"]["name"], described]


class Recognised(Strict):
    """A near-miss that Vorlage looks for itself; it earns marks only when a share is set."""

    model_config = ConfigDict(json_schema_extra=name_or_object)

    name: NearMissName
    share: Share = Fraction(0)

    @model_validator(mode="before")
    @classmethod
    def by_name(cls, given: Any) -> Any:
        return {"name": given} if isinstance(given, str) else given


class NumberAnswer(Strict):
    kind: Literal["number"] = "number"
    key: Line = Field(min_length=1)
    tolerance: Tolerance = Tolerance()
    written: Written | None = None
    bands: tuple[Band, ...] = Field(default=(), max_length=10)
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    recognise: tuple[Recognised, ...] = Field(default=(), max_length=10)
    limits: Limits = ()


FormName = Literal[
    "any", "expanded", "factorised", "lowest_terms", "single_fraction", "completed_square", "rationalised",
    "no_brackets", "as_key",
]  # fmt: skip


class FormulaAnswer(Strict):
    kind: Literal["formula"] = "formula"
    key: Line = Field(min_length=1)
    form: FormName = "any"
    # what an equal answer in another form earns
    share: Share = HALF
    up_to: Literal["constant", "multiple", "sign"] | None = None
    where: tuple[Line, ...] = Field(default=(), max_length=10)
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    limits: Limits = ()


class QuantityAnswer(Strict):
    """A number with a unit; as ``number``, with the unit of the key and what is done about a typed one."""

    kind: Literal["quantity"] = "quantity"
    key: Line = Field(min_length=1)
    unit: str = Field(min_length=1, max_length=60)
    unit_rule: Literal["required", "given", "any"] = "required"
    # whether another unit of the same dimension is accepted
    convert: bool = True
    # what a right value without a required unit earns
    share: Share = HALF
    tolerance: Tolerance = Tolerance()
    written: Written | None = None
    bands: tuple[Band, ...] = Field(default=(), max_length=10)
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    recognise: tuple[Recognised, ...] = Field(default=(), max_length=10)
    limits: Limits = ()


class EquationAnswer(Strict):
    """An equation, right in every rearrangement and non-zero multiple."""

    kind: Literal["equation"] = "equation"
    key: Line = Field(min_length=1)
    # the letter that has to stand alone on one side
    subject: str = Field(default="", max_length=40)
    form: Literal["any", "standard", "slope_intercept"] = "any"
    share: Share = HALF
    where: tuple[Line, ...] = Field(default=(), max_length=10)
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    limits: Limits = ()

    @model_validator(mode="before")
    @classmethod
    def subject_as_form(cls, given: Any) -> Any:
        """``"form": {"subject": "y"}`` and ``"form": "subject"`` ask for a subject as well."""
        if isinstance(given, dict) and isinstance(given.get("form"), dict):
            return {**given, "form": "any", **given["form"]}
        if isinstance(given, dict) and given.get("form") == "subject":
            return {**given, "form": "any"}
        return given


class InequalityAnswer(Strict):
    """A set of real numbers given by relations or intervals, or one inequality in several letters."""

    kind: Literal["inequality", "interval"] = "inequality"
    key: Line = Field(min_length=1)
    # whether the letter has to stand alone, and what the same set in another form earns
    form: Literal["any", "solved"] = "any"
    share: Share = HALF
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    limits: Limits = ()


class CollectionAnswer(Strict):
    """Several values: a set in any order, or a list, point, vector or matrix place by place."""

    kind: Literal["set", "list", "point", "vector", "matrix"]
    key: Line = Field(min_length=1)
    tolerance: Tolerance = Tolerance()
    # whether each value found earns its share; sets always do
    partial: bool = False
    # what every element that does not belong costs; when nothing is said, an element more than were asked for
    # costs as much as one is worth
    cost: Share | None = None
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    limits: Limits = ()


class Requirement(Strict):
    """A relation that the answer has to meet, and the share of the marks it earns; without one what is left is shared
    evenly."""

    relation: Line = Field(min_length=1)
    share: Share | None = None
    feedback: str = ""

    @model_validator(mode="before")
    @classmethod
    def bare(cls, given: Any) -> Any:
        return {"relation": given} if isinstance(given, str) else given


class ConditionsAnswer(Strict):
    """Any number, or any few numbers, that meet relations in ``r``, or in ``r1``, ``r2``, … in any order."""

    kind: Literal["conditions"] = "conditions"
    # an example, which shows that the relations can be met
    key: Line = Field(min_length=1)
    relations: tuple[Requirement, ...] = Field(min_length=1, max_length=10)
    # how many values are asked for, and whether they have to differ
    count: int = Field(default=1, ge=1, le=6)
    different: bool = True
    # how each value has to be written
    form: Literal["any", "product", "sum"] = "any"
    limits: Limits = ()

    @property
    def shares(self) -> tuple[Fraction, ...]:
        """The share of every relation; they add up to 1."""
        return even_shares([each.share for each in self.relations])

    @model_validator(mode="after")
    def adds_up(self) -> ConditionsAnswer:
        if sum(self.shares, Fraction(0)) != 1:
            raise ValueError("The shares of the conditions have to add up to 1.")
        return self


class ChemicalAnswer(Strict):
    """A chemical formula or a balanced equation."""

    kind: Literal["chemical"] = "chemical"
    key: Line = Field(min_length=1)
    # whether an equation may be a multiple of the key
    multiple: bool = False
    # whether states such as (aq) have to be given, and what an answer with wrong ones earns
    states: bool = False
    share: Share = HALF
    slips: tuple[Slip, ...] = Field(default=(), max_length=20)
    limits: Limits = ()

    @model_validator(mode="before")
    @classmethod
    def multiple_as_up_to(cls, given: Any) -> Any:
        """``"up_to": "multiple"`` allows a common factor, as it does for formulas."""
        if isinstance(given, dict) and "up_to" in given:
            rest = {name: value for name, value in given.items() if name != "up_to"}
            return {**rest, "multiple": given["up_to"] == "multiple"}
        return given


class TextAnswer(Strict):
    """Words, compared with a list of accepted ones; without a list somebody reads them."""

    kind: Literal["text"] = "text"
    accept: tuple[str, ...] = Field(default=(), max_length=100)
    match: Literal["whole", "contains", "pattern"] = "whole"
    case: bool = False
    spacing: bool = False
    limits: Limits = ()

    @model_validator(mode="before")
    @classmethod
    def one_or_many(cls, given: Any) -> Any:
        """A single accepted text, and a ``pattern`` by its own name."""
        given = renamed(given, {"mode": "match", "case_sensitive": "case", "key": "accept"})
        if isinstance(given, dict) and isinstance(given.get("pattern"), str):
            rest = {name: value for name, value in given.items() if name != "pattern"}
            given = {**rest, "accept": [given["pattern"]], "match": "pattern"}
        if isinstance(given, dict) and isinstance(given.get("accept"), str):
            return {**given, "accept": [given["accept"]]}
        return given

    @field_validator("accept")
    @classmethod
    def not_blank(cls, accept: tuple[str, ...]) -> tuple[str, ...]:
        if any(not text.strip() for text in accept):
            raise ValueError("An accepted text is not empty: every answer would be right.")
        return accept


def signed_share(value: Any) -> Fraction:
    share = to_share(value)
    if not -1 <= share <= 1:
        raise ValueError("The share of an option lies between -1 and 1.")
    return share


SignedShare = Annotated[Fraction, BeforeValidator(signed_share), PlainSerializer(str, return_type=str)]
Option = Annotated[str, Field(min_length=1, max_length=2000)]


class ChoiceOption(Strict):
    """An option: question text, what it earns when chosen, and whether it keeps its place."""

    id: Identity = ""
    text: Option
    share: SignedShare = Fraction(0)
    feedback: str = ""
    fixed: bool = False


class ChoiceAnswer(Strict):
    """One or many options out of several."""

    kind: Literal["choice"] = "choice"
    choose: Literal["one", "many"] = "one"
    options: tuple[ChoiceOption, ...] = Field(min_length=2, max_length=26)
    # whether the order changes from form to form
    shuffle: bool = True

    @model_validator(mode="after")
    def possible(self) -> ChoiceAnswer:
        earned = [option.share for option in self.options if option.share > 0]
        most = max(earned, default=Fraction(0)) if self.choose == "one" else sum(earned, Fraction(0))
        if most < 1:
            raise ValueError(
                "The best answer has to earn all the marks: give the right options shares that add up to 1."
            )
        return self


class TrueFalseAnswer(Strict):
    """A statement that is true or false; ``key`` may be a relation between parameters."""

    kind: Literal["true_false"] = "true_false"
    key: Line = Field(min_length=1)

    @model_validator(mode="before")
    @classmethod
    def from_boolean(cls, given: Any) -> Any:
        if isinstance(given, dict) and isinstance(given.get("key"), bool):
            return {**given, "key": str(given["key"]).lower()}
        return given


class Pair(Strict):
    """A left side with its right side, and what finding them earns, or costs where the two only seem to belong
    together; without a share what is right is shared evenly."""

    id: Identity = ""
    left: Option
    right: Option
    share: SignedShare | None = None


class Offer(Strict):
    """Question text that is offered and has no share of its own: an item to be put in order, a distractor."""

    id: Identity = ""
    text: Option

    @model_validator(mode="before")
    @classmethod
    def bare(cls, given: Any) -> Any:
        return {"text": given} if isinstance(given, str) else given


class MatchAnswer(Strict):
    """Left sides to be matched with right sides; distractors are right sides that belong to nothing."""

    kind: Literal["match"] = "match"
    pairs: tuple[Pair, ...] = Field(min_length=2, max_length=13)
    distractors: tuple[Offer, ...] = Field(default=(), max_length=13)
    # what every wrong pair costs
    cost: Share = Fraction(0)

    @property
    def worths(self) -> tuple[Fraction, ...]:
        """What finding each pair earns."""
        return even_shares(pair.share for pair in self.pairs)

    @model_validator(mode="after")
    def possible(self) -> MatchAnswer:
        if sum((worth for worth in self.worths if worth > 0), Fraction(0)) != 1:
            raise ValueError("The shares of the right pairs have to add up to 1.")
        return self

    @property
    def right_sides(self) -> tuple[str, ...]:
        return (*(pair.right for pair in self.pairs), *(each.text for each in self.distractors))


class OrderAnswer(Strict):
    """Items to be put in order; they are written in the right one."""

    kind: Literal["order"] = "order"
    items: tuple[Offer, ...] = Field(min_length=2, max_length=26)
    # by the longest correct run, or by the items in their places
    score: Literal["run", "position"] = "run"


class Level(Strict):
    """How far a criterion is met, and the marks for it."""

    marks: Marks
    text: str = Field(default="", max_length=500)


class Criterion(Strict):
    """One thing that is looked for in an answer at length; without levels it is a remark to the marker."""

    id: Identity = ""
    name: str = Field(min_length=1, max_length=200)
    levels: tuple[Level, ...] = Field(default=(), max_length=10)

    @property
    def most(self) -> Decimal:
        return max((level.marks for level in self.levels), default=Decimal(0))


def read_rubric(text: str) -> list[dict[str, Any]]:
    """A rubric from its lines: ``Method | 0 nothing | 1 a right start | 2 complete``."""
    criteria = []
    for number, written in enumerate(filter(str.strip, text.splitlines()), start=1):
        name, *levels = (piece.strip() for piece in written.split("|"))
        found = []
        for level in filter(None, levels):
            marks, _, words = level.partition(" ")
            try:
                worth = to_marks(marks)
            except ValueError:
                message = f"Line {number}: a level begins with its marks, such as `2 complete and clear`."
                raise ValueError(message) from None
            found.append({"marks": worth, "text": words.strip()})
        criteria.append({"name": name, "levels": found})
    return criteria


def rubric_lines(criteria: Any) -> str:
    """A rubric as ``read_rubric`` reads it."""
    return "\n".join(
        " | ".join([each["name"], *(f"{level['marks']} {level['text']}".strip() for level in each["levels"])])
        for each in criteria
    )


class Spot(Strict):
    """A region of a figure and what a place in it earns; without a share what is right is shared evenly."""

    id: Identity = ""
    region: Line = Field(min_length=1)
    share: SignedShare | None = None
    feedback: str = ""


class HotspotAnswer(Strict):
    """Places that are pointed at in a figure of the question."""

    kind: Literal["hotspot"] = "hotspot"
    figure: str = Field(min_length=1, max_length=30)
    regions: tuple[Spot, ...] = Field(min_length=1, max_length=20)
    # how many places may be marked
    clicks: int = Field(default=1, ge=1, le=20)

    @property
    def worths(self) -> tuple[Fraction, ...]:
        """What a place in each region earns."""
        given = sum((spot.share for spot in self.regions if spot.share is not None and spot.share > 0), Fraction(0))
        unsaid = sum(spot.share is None for spot in self.regions)
        even = Fraction(1) if self.clicks == 1 else max(Fraction(0), 1 - given) / max(1, unsaid)
        return tuple(even if spot.share is None else spot.share for spot in self.regions)

    @model_validator(mode="after")
    def possible(self) -> HotspotAnswer:
        earned = [worth for worth in self.worths if worth > 0]
        most = max(earned, default=Fraction(0)) if self.clicks == 1 else sum(earned, Fraction(0))
        if most < 1:
            raise ValueError("The best answer has to earn all the marks: the regions' shares have to add up to 1.")
        return self


class EssayAnswer(Strict):
    """Written at length and marked by hand."""

    kind: Literal["essay"] = "essay"
    # about how many words are asked for; 0 when nothing is said
    words: int = Field(default=0, ge=0, le=5000)
    rubric: tuple[Criterion, ...] = Field(default=(), max_length=12)

    @field_validator("rubric", mode="before")
    @classmethod
    def from_lines(cls, given: Any) -> Any:
        return read_rubric(given) if isinstance(given, str) else given

    @property
    def most(self) -> Decimal:
        """The marks that the rubric gives at most."""
        return total_marks(criterion.most for criterion in self.rubric)


class ScaleAnswer(Strict):
    """An opinion on a scale; no marks."""

    kind: Literal["scale"] = "scale"
    steps: int = Field(default=5, ge=2, le=10)
    low: str = Field(default="", max_length=60)
    high: str = Field(default="", max_length=60)


# The kinds that can stand in a gap of a text.
InGap = (
    NumberAnswer
    | QuantityAnswer
    | FormulaAnswer
    | EquationAnswer
    | InequalityAnswer
    | CollectionAnswer
    | ChemicalAnswer
    | TextAnswer
    | ChoiceAnswer
    | TrueFalseAnswer
)


class Gap(Strict):
    """One place in a text and its answer; without a share the gaps share what is left evenly."""

    id: Identity = ""
    answer: InGap = Field(discriminator="kind")
    share: Share | None = None


class BlanksAnswer(Strict):
    """Several answers inside the text of a part, in the order of its places ``___``."""

    kind: Literal["blanks"] = "blanks"
    gaps: tuple[Gap, ...] = Field(min_length=1, max_length=12)

    @property
    def shares(self) -> tuple[Fraction, ...]:
        """The share of the marks of every gap; they add up to 1."""
        return even_shares(gap.share for gap in self.gaps)

    @model_validator(mode="after")
    def adds_up(self) -> BlanksAnswer:
        if sum(self.shares, Fraction(0)) != 1 or any(share < 0 for share in self.shares):
            raise ValueError("The shares of the gaps have to add up to 1.")
        return self


class NoAnswer(Strict):
    """An information block: nothing is asked."""

    kind: Literal["none"] = "none"


# Kinds that no machine checks.
UNCHECKED = frozenset(["essay", "scale", "none"])
# Every kind that a question document can hold.
Answer = Annotated[
    InGap
    | ConditionsAnswer
    | MatchAnswer
    | OrderAnswer
    | BlanksAnswer
    | HotspotAnswer
    | EssayAnswer
    | ScaleAnswer
    | NoAnswer,
    Field(discriminator="kind"),
]

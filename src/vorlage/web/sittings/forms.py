"""What a teacher says of a sitting: to whom it is given, and the rules."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime, time, timedelta
from fractions import Fraction
from typing import Any

from django import forms
from django.utils import timezone

from vorlage.core.answers import shown_marks, to_share
from vorlage.core.sittings import (
    COSTS,
    COUNTING,
    ENTRIES,
    GRACE,
    HAND_IN,
    HANDED_IN_AGAIN,
    LATE_STARTS,
    LAYOUTS,
    MOMENTS,
    MOST_GRACE,
    MOST_TIMES,
    OPENINGS,
    PRACTICES,
    ROWS,
    TIMES_UP,
    NetworkError,
    Rules,
    TimeError,
    duration_words,
    read_duration,
    read_moment,
    read_networks,
    share_words,
)
from vorlage.core.sittings.moments import DAYS, MONTHS, clock
from vorlage.web.classes.models import Class
from vorlage.web.forms.models import FormSet
from vorlage.web.people.models import User
from vorlage.web.plans.models import Test

LINE = {"class": "form-control", "autocomplete": "off"}
SELECT = {"class": "form-select"}
TICK = {"class": "form-check-input"}
MINUTE, ONE_DAY, NO_TIME = timedelta(minutes=1), timedelta(days=1), timedelta(0)
# What is seen of the whole alone, and not of an answer.
OF_THE_WHOLE = frozenset({"total", "class"})


class GiveForm(forms.Form):
    """To which classes a test is given, and with which forms."""

    classes = forms.ModelMultipleChoiceField(
        Class.objects.none(), widget=forms.CheckboxSelectMultiple, label="Classes",
        error_messages={"required": "Choose at least one class."},
    )  # fmt: skip
    form_set = forms.ModelChoiceField(
        FormSet.objects.none(), required=False, label="Forms", empty_label="new forms, one for everybody",
        widget=forms.Select(attrs=SELECT),
    )  # fmt: skip

    def __init__(self, test: Test, user: User, data: Mapping[str, Any] | None = None) -> None:
        super().__init__(data, prefix="give")
        seen = Class.objects.seen_by(user).filter(department=test.department_id)
        choose: Any = self.fields["classes"]
        choose.queryset = seen.with_counts()
        sets: Any = self.fields["form_set"]
        sets.queryset = test.form_sets.exclude(frozen=None)
        sets.label_from_instance = lambda each: f"set {each.number}, {each.count} form{'' if each.count == 1 else 's'}"


def typed_moment(moment: datetime | None) -> str:
    """A moment as it stands in its field: with the day of the week, and typed back it is the same."""
    if moment is None:
        return ""
    local = timezone.localtime(moment)
    at = clock(local.replace(second=0))
    return f"{DAYS[local.weekday()][:3]} {local.day} {MONTHS[local.month - 1]} {local.year}, {at}"


class MomentField(forms.CharField):
    """A moment, typed freely, by the clock of the school; ``school_end`` is when a day without a time ends."""

    school_end = time(17)

    def __init__(self, example: str, **options: Any) -> None:
        widget = forms.TextInput(attrs=LINE | {"placeholder": example, "maxlength": 60})
        super().__init__(required=False, max_length=60, widget=widget, **options)

    def clean(self, value: Any) -> Any:
        text = super().clean(value)
        if not text:
            return None
        try:
            return read_moment(text, timezone.localtime(), self.school_end)
        except TimeError as problem:
            raise forms.ValidationError(problem.message) from None


class DurationField(forms.CharField):
    """A length of time, typed freely."""

    def __init__(self, example: str, least: timedelta = MINUTE, **options: Any) -> None:
        self.least = least
        widget = forms.TextInput(attrs=LINE | {"placeholder": example, "maxlength": 30})
        super().__init__(required=False, max_length=30, widget=widget, **options)

    def clean(self, value: Any) -> Any:
        text = super().clean(value)
        try:
            return read_duration(text, self.least) if text else None
        except TimeError as problem:
            raise forms.ValidationError(problem.message) from None


class CountField(forms.CharField):
    """A number of times; where nothing is typed it is as usual."""

    def __init__(self, example: str, usual: int | None, least: int, **options: Any) -> None:
        self.usual, self.least = usual, least
        widget = forms.TextInput(attrs=LINE | {"placeholder": example, "maxlength": 20, "inputmode": "numeric"})
        super().__init__(required=False, max_length=20, widget=widget, **options)

    def clean(self, value: Any) -> Any:
        text = str(super().clean(value)).strip()
        if not text:
            return self.usual
        if not text.isdecimal() or not self.least <= int(text) <= MOST_TIMES:
            nothing = "none" if self.usual == 0 else "no limit" if self.usual is None else str(self.usual)
            raise forms.ValidationError(
                f"Type a whole number from {self.least} to {MOST_TIMES}; left empty it is {nothing}."
            )
        return int(text)

    def has_changed(self, initial: Any, data: Any) -> bool:
        return super().has_changed("" if initial is None else str(initial), data)


class ShareField(forms.CharField):
    """A share of the marks, typed freely."""

    def __init__(self, **options: Any) -> None:
        widget = forms.TextInput(attrs=LINE | {"placeholder": "nothing, or 10 %"})
        super().__init__(required=False, max_length=12, widget=widget, **options)

    def clean(self, value: Any) -> Any:
        text = str(super().clean(value)).strip()
        try:
            share = to_share(text) if text else Fraction(0)
        except ValueError:
            share = Fraction(-1)
        if not 0 <= share <= 1:
            raise forms.ValidationError("Type a share of the marks, such as 10 % or 1/10.")
        return share


# Fields that are there once for each row or section.
DYNAMIC = ("seen_", "section_", "pass_")


class RulesForm(forms.Form):
    """All rules of a sitting, in their groups."""

    GROUPS = (
        ("When", "when", ("opens", "due", "closes", "late_cost")),
        ("How long", "how_long", ("limit", "late_start", "time_up", "hand_in", "grace")),
        (
            "How often", "how_often",
            (
                "attempts", "wait", "per_period", "period", "which", "look_back", "submissions", "resubmitted",
                "submission_cost", "take_back", "counts", "practice",
            ),
        ),
        ("Passing", "passing", ("pass_mark", "opening")),
        ("Trying a question again", "tries", ("tries", "try_cost", "similar", "similar_cost")),
        ("Who comes in", "who", ("come_in", "word", "begin_within", "networks", "one_by_one")),
        (
            "How it looks", "looks",
            ("layout", "back", "signs", "examples", "hints", "working", "questions", "before", "above", "after"),
        ),
    )  # fmt: skip

    opens = MomentField("now, or Tue 9:40", label="Opens")
    due = MomentField("no due time", label="Due")
    closes = MomentField("does not close", label="Closes")
    late_cost = ShareField(label="Each day late costs")
    limit = DurationField("no limit, or 50, or 1 h 40", label="Limit")
    late_start = forms.ChoiceField(
        choices=list(LATE_STARTS.items()), label="Who begins late has", widget=forms.Select(attrs=SELECT)
    )
    time_up = forms.ChoiceField(
        choices=list(TIMES_UP.items()), label="When time is up", widget=forms.Select(attrs=SELECT)
    )
    hand_in = DurationField("5", label="Handing in is possible for")
    attempts = CountField("no limit", None, least=1, label="Attempts")
    wait = DurationField("none", least=timedelta(seconds=1), label="Wait from one to the next")
    per_period = CountField("any number", None, least=1, label="At most so many begin")
    period = DurationField("1 day", label="within")
    which = forms.ChoiceField(
        choices=list(COUNTING.items()), label="Of several attempts", widget=forms.Select(attrs=SELECT)
    )
    look_back = forms.BooleanField(
        required=False, label="An earlier attempt can be looked at again", widget=forms.CheckboxInput(attrs=TICK)
    )
    submissions = CountField("1", 1, least=1, label="Times it can be handed in")
    resubmitted = forms.ChoiceField(
        choices=list(HANDED_IN_AGAIN.items()), label="Then counts", widget=forms.Select(attrs=SELECT)
    )
    submission_cost = ShareField(label="Each further time costs")
    pass_mark = forms.CharField(
        required=False, max_length=20, label="One passes with",
        widget=forms.TextInput(attrs=LINE | {"placeholder": "no pass mark, or 12 marks, or 60 %"}),
    )  # fmt: skip
    opening = forms.ChoiceField(
        choices=list(OPENINGS.items()), label="What comes after it", widget=forms.Select(attrs=SELECT)
    )
    tries = CountField("no limit", None, least=1, label="Tries of a question")
    try_cost = ShareField(label="A further try costs")
    similar = CountField("none", 0, least=0, label="Similar questions instead of a missed one")
    similar_cost = ShareField(label="Each of them costs")
    take_back = forms.BooleanField(
        required=False, label="What was handed in may be taken back until time is up",
        widget=forms.CheckboxInput(attrs=TICK),
    )  # fmt: skip
    counts = forms.BooleanField(required=False, label="It counts", widget=forms.CheckboxInput(attrs=TICK))
    practice = forms.ChoiceField(
        choices=list(PRACTICES.items()), label="Practice without credit", widget=forms.Select(attrs=SELECT)
    )
    layout = forms.ChoiceField(choices=list(LAYOUTS.items()), label="Shown", widget=forms.Select(attrs=SELECT))
    back = forms.BooleanField(
        required=False, label="One may go back to earlier questions", widget=forms.CheckboxInput(attrs=TICK)
    )
    come_in = forms.ChoiceField(choices=list(ENTRIES.items()), label="Let in are", widget=forms.Select(attrs=SELECT))
    begin_within = DurationField("any time", label="One may begin within")
    networks = forms.CharField(
        required=False, max_length=400, label="Only from these networks",
        widget=forms.TextInput(attrs=LINE | {"placeholder": "from anywhere, or 10.20.0.0/16"}),
    )  # fmt: skip
    one_by_one = forms.BooleanField(
        required=False, label="I let them in one by one", widget=forms.CheckboxInput(attrs=TICK)
    )
    grace = DurationField("15 seconds", least=GRACE, label="What is on its way counts for")
    signs = forms.BooleanField(
        required=False, label="Signs such as √ and π are offered", widget=forms.CheckboxInput(attrs=TICK)
    )
    examples = forms.BooleanField(
        required=False, label="Examples show how to type", widget=forms.CheckboxInput(attrs=TICK)
    )
    hints = forms.BooleanField(required=False, label="Hints may be taken", widget=forms.CheckboxInput(attrs=TICK))
    working = forms.BooleanField(
        required=False, label="Working can be written down", widget=forms.CheckboxInput(attrs=TICK)
    )
    questions = forms.BooleanField(
        required=False, label="Students may ask about a question", widget=forms.CheckboxInput(attrs=TICK)
    )
    own_pdf = forms.BooleanField(
        required=False, label="Students may keep what came back as a PDF", widget=forms.CheckboxInput(attrs=TICK)
    )
    word = forms.CharField(
        required=False, max_length=40, label="Entry word",
        widget=forms.TextInput(attrs=LINE | {"placeholder": "none"}),
    )  # fmt: skip
    before = forms.CharField(
        required=False, max_length=1000, label="Before they begin, students read",
        widget=forms.Textarea(attrs=LINE | {"rows": 2}),
    )  # fmt: skip
    above = forms.CharField(
        required=False, max_length=1000, label="Above the questions stands",
        widget=forms.Textarea(attrs=LINE | {"rows": 2}),
    )  # fmt: skip
    after = forms.CharField(
        required=False, max_length=1000, label="Once they have handed in, they read",
        widget=forms.Textarea(attrs=LINE | {"rows": 2}),
    )  # fmt: skip
    results = MomentField("when you release them", label="Results are released by themselves")

    def __init__(
        self, held: Rules, end: time, data: Mapping[str, Any] | None = None, sections: Sequence[str] = ()
    ) -> None:  # fmt: skip
        """``sections`` are the titles of those of the test, where it has several."""
        super().__init__(data, initial=initial_of(held))
        self.held, self.sections = held, range(len(sections))
        for k, title in enumerate(sections):
            limit = held.section_limits[k] if k < len(held.section_limits) else None
            self.fields[f"section_{k}"] = DurationField(
                "no time of its own", label=f"Time for {title or f'section {k + 1}'}",
                initial="" if limit is None else duration_words(limit),
            )  # fmt: skip
            share = held.section_passes[k] if k < len(held.section_passes) else None
            self.fields[f"pass_{k}"] = ShareField(
                label=f"and in {title or f'section {k + 1}'}", initial="" if share is None else share_words(share)
            )
        for row, words in ROWS.items():
            self.fields[f"seen_{row}"] = forms.ChoiceField(
                choices=[each for each in MOMENTS.items() if row not in OF_THE_WHOLE or each[0] != "each"],
                label=words[0].upper() + words[1:], initial=held.seen[row],
                widget=forms.Select(attrs=SELECT),
            )  # fmt: skip
        for each in self.fields.values():
            if isinstance(each, MomentField):
                each.school_end = end

    def clean_networks(self) -> tuple[str, ...]:
        try:
            return read_networks(self.cleaned_data["networks"])
        except NetworkError as problem:
            raise forms.ValidationError(problem.message) from None

    def clean_grace(self) -> Any:
        grace = self.cleaned_data["grace"]
        if grace is not None and grace > MOST_GRACE:
            raise forms.ValidationError(f"At most {duration_words(MOST_GRACE)}.")
        return grace

    def clean_pass_mark(self) -> tuple[Fraction | None, Fraction | None]:
        """The marks, or the share of them, with which one passes."""
        text = self.cleaned_data["pass_mark"].strip()
        if not text:
            return None, None
        number = text.removesuffix("marks").removesuffix("mark").strip()
        try:
            share = to_share(text) if "%" in text or "/" in text else None
            marks = Fraction(number.replace(",", ".")) if share is None else None
        except (ValueError, ZeroDivisionError):
            share, marks = Fraction(-1), None
        given = share if share is not None else marks
        if given is None or given <= 0 or (share is not None and share > 1) or given > 10_000:
            raise forms.ValidationError("Type marks, such as 12, or a share of them, such as 60 %.")
        return marks, share

    @property
    def rules(self) -> Rules:
        """The rules as they were said; what is wrong in its field is as it was."""
        # what was not touched stays as it is, to the second
        touched = set(self.changed_data)
        said = {
            name: value for name, value in self.cleaned_data.items() if name in touched and not name.startswith(DYNAMIC)
        }
        if any(f"section_{k}" in touched for k in self.sections):
            said["section_limits"] = tuple(self.cleaned_data.get(f"section_{k}") for k in self.sections)
        if any(f"pass_{k}" in touched for k in self.sections):
            said["section_passes"] = tuple(self.cleaned_data.get(f"pass_{k}") or None for k in self.sections)
        if "pass_mark" in touched:
            said["pass_marks"], said["pass_share"] = self.cleaned_data.get("pass_mark", (None, None))
        if "opens" in said:
            said["opens"] = said["opens"] or timezone.localtime()
        for name, usual in (("hand_in", HAND_IN), ("grace", GRACE), ("wait", NO_TIME), ("period", ONE_DAY)):
            if said.get(name, usual) is None:
                said[name] = usual
        seen = {row: self.cleaned_data.get(f"seen_{row}", self.held.seen[row]) for row in ROWS}
        return replace(self.held, **said, seen=seen)

    @property
    def groups(self) -> list[tuple[str, str, list[forms.BoundField]]]:
        more = {
            "how_long": [f"section_{k}" for k in self.sections], "passing": [f"pass_{k}" for k in self.sections]
        }  # fmt: skip
        return [
            (title, key, [self[name] for name in (*names[:1], *more.get(key, ()), *names[1:])])
            for title, key, names in self.GROUPS
        ]

    @property
    def table(self) -> list[forms.BoundField]:
        """What is seen when, a row each."""
        return [self[f"seen_{row}"] for row in ROWS]


def pass_mark_words(held: Rules) -> str:
    if held.pass_marks is not None:
        return f"{shown_marks(held.pass_marks)} marks"
    return "" if held.pass_share is None else share_words(held.pass_share)


def initial_of(held: Rules) -> dict[str, Any]:
    """What stands in the fields for rules."""
    moments = {name: typed_moment(getattr(held, name)) for name in ("opens", "due", "closes", "results")}
    plain = (
        "late_start", "time_up", "take_back", "counts", "practice", "layout", "back", "word", "before", "above",
        "after", "come_in",
        "one_by_one", "signs", "examples", "hints", "working", "questions", "own_pdf", "attempts", "per_period",
        "opening", "which", "look_back", "submissions", "resubmitted", "tries",
    )  # fmt: skip
    costs = {name: share_words(share) if (share := getattr(held, name)) else "" for name in COSTS}
    lengths = {
        "limit": "" if held.limit is None else duration_words(held.limit),
        "hand_in": duration_words(held.hand_in),
        "grace": duration_words(held.grace),
        "wait": duration_words(held.wait) if held.wait else "",
        "period": duration_words(held.period),
        "similar": held.similar or "",
        "pass_mark": pass_mark_words(held),
        "begin_within": "" if held.begin_within is None else duration_words(held.begin_within),
        "networks": ", ".join(held.networks),
    }
    return {**moments, **lengths, **costs, **{name: getattr(held, name) for name in plain}}

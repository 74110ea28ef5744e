"""The speed budgets, measured as ratios and rates in one run: ``./vorlage bench`` (``--json`` for one object)."""

from __future__ import annotations

import io
import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any

import sympy

from vorlage.core.algebra import equivalent
from vorlage.core.algebra.symbolic import to_sympy
from vorlage.core.answers.kinds.number import NumberAnswer
from vorlage.core.crew import Crew
from vorlage.core.documents import Heading, Joined, Look, Printing
from vorlage.core.draws import Declaration, Drawing, Parameters
from vorlage.core.forms import MadeForm, drawn_forms, make_forms, outlined
from vorlage.core.notation import Settings, read
from vorlage.core.plans import Place, Plan, Pool
from vorlage.core.questions import CompiledQuestion
from vorlage.library import DEMO, bank, ready_questions, samples
from vorlage.operations.cluster import Cluster
from vorlage.operations.fuzzing import slowest

from .busy import TAKING, TYPING, busy, p95
from .large_bank import QUESTIONS, found_and_counted
from .large_class import STUDENTS as MARKED
from .large_class import marking_pages
from .large_set import large_set
from .mistakes import RANDOM, mistakes
from .pairs import PAIRS

# A large school: so many students beside those of the demo.
STUDENTS = 5_000
# So many sit a test at once.
SITTING = 300


@dataclass(frozen=True)
class Measure:
    name: str
    words: str
    value: float
    # the budget, and whether the value has to be at least or at most that
    budget: float
    at_least: bool = True

    @property
    def kept(self) -> bool:
        return self.value >= self.budget if self.at_least else self.value <= self.budget


def seconds(action: Callable[[], object], least: float = 0.02, rounds: int = 5) -> float:
    """The time of one call: the best of some rounds, each long enough to be measured."""
    count = 1
    while True:
        started = time.perf_counter()
        for _ in range(count):
            action()
        spent = time.perf_counter() - started
        if spent >= least:
            break
        count *= 4
    best = spent / count
    for _ in range(rounds - 1):
        started = time.perf_counter()
        for _ in range(count):
            action()
        best = min(best, (time.perf_counter() - started) / count)
    return best


def formulas() -> tuple[list[Measure], list[tuple[float, float, str]]]:
    """Ours against ``simplify(a - b) == 0``, both sides already read; SymPy's cache emptied before each pair."""
    rows = []
    for key, answer in PAIRS:
        a, b = read(key), read(answer)
        ours = seconds(partial(equivalent, a, b), rounds=3)
        left, right = to_sympy(a), to_sympy(b)
        theirs = float("inf")
        for _ in range(2):
            sympy.core.cache.clear_cache()
            started = time.perf_counter()
            bool(sympy.simplify(left - right) == 0)
            theirs = min(theirs, time.perf_counter() - started)
        rows.append((ours, theirs / ours, f"{key}  ~  {answer}"))
    times = sorted(ours for ours, _, _ in rows)
    slowest = times[min(len(times) - 1, round(0.99 * (len(times) - 1)))] * 1000
    median = statistics.median(ratio for _, ratio, _ in rows)
    measures = [
        Measure("formula_ratio_median", "formula answer against simplify(a - b), median ratio", median, 200),
        Measure("formula_p99_ms", "formula answer, slowest 1 %, ms", slowest, 20, at_least=False),
    ]
    return measures, sorted(rows, reverse=True)


def numbers() -> Measure:
    answer = NumberAnswer.model_validate(
        {
            "key": "m*g*h/1000",
            "tolerance": {"mode": "relative", "value": "2%"},
            "bands": [{"tolerance": {"mode": "relative", "value": "10%"}, "share": "1/2"}],
            "slips": [{"key": "m*g*h", "share": "1/4"}],
        }
    )
    values = {"m": read_value("350"), "g": read_value("9.81"), "h": read_value("6.4")}
    drawn = answer.checker(Settings()).drawn(values)
    responses = ["21.95", "22.0", "21.97", "-3.2", "20.1", "22", "21974.4", "21.5"]
    spent = seconds(lambda: [drawn.check(response) for response in responses])
    return Measure("number_per_s", "number answers checked a second", len(responses) / spent, 20_000)


def read_value(text: str) -> object:
    from vorlage.core.algebra import Compiled

    return Compiled(read(text)).value({})


def hostile() -> Measure:
    """Answers meant to break it, to every kind: nesting, length, huge powers, tricks of Unicode."""
    worst = slowest()[0][0] * 1000
    return Measure("hostile_ms", "the slowest hostile answer, in milliseconds", worst, 50, at_least=False)


def draws() -> Measure:
    written = {
        "m": "150..600 step 50", "h": "4..9 step 0.2", "t": "12..40", "a": "2..9", "E": "m*9.81*h/1000", "P": "E/t",
    }  # fmt: skip
    rows = [Declaration(name, definition) for name, definition in written.items()]
    drawing = Drawing(Parameters(rows, ["E < 50", "P > 0.3"]), "bench", 1)
    checker = NumberAnswer(key="P*a").checker(drawing.parameters.settings)
    spent = seconds(lambda: [checker.drawn(drawing.draw(number).values) for number in range(1, 201)])
    return Measure("draws_per_s", "draws of a question with its key, a second", 200 / spent, 5_000)


def plan(places: int) -> Plan:
    there = [(name, document) for name, (document, _) in samples().items()]
    chosen = [there[k % len(there)] for k in range(places)]
    return Plan("Bench", [Place(CompiledQuestion(sample), f"{name}-{k}", 1) for k, (name, sample) in enumerate(chosen)])


def form_sets() -> list[Measure]:
    """A large set: the draws chosen by all processes there may be, and the values and keys of draws that are known,
    by one."""
    large = plan(20)
    started = time.perf_counter()
    chosen = outlined(large, 1000, "bench")
    choosing = time.perf_counter() - started
    bare, started = replace(chosen, made={}), time.perf_counter()
    list(drawn_forms(large, bare, "bench", range(1000)))
    spent = time.perf_counter() - started
    words = "1 000 forms of 20 questions"
    return [
        Measure("forms_1000x20_s", f"{words}, values and proved keys, s", spent, 15, at_least=False),
        Measure("chosen_1000x20_s", f"{words}, draws chosen for evenness, s", choosing, 40, at_least=False),
    ]


def demo_plans() -> Iterator[Plan]:
    """The plans of the demo whose places are said and in which several questions have numbers: where one has, its draws
    have to differ, and nothing is left to choose."""
    there = {name: document for name, (document, _) in {**bank(), **samples()}.items()}

    def place(name: str, said: dict[str, Any]) -> Place:
        marks = Decimal(said["marks"]) if "marks" in said else None
        return Place(CompiledQuestion(there[name]), name, 1, marks=marks, bonus="bonus" in said)

    for planned in json.loads((DEMO / "tests.json").read_text("utf-8")):
        places: list[Place | Pool] = []
        for said in (said for section in planned["sections"] for said in section["places"]):
            if isinstance(said, str):
                places.append(place(said, {}))
            elif "bonus" in said:
                places.append(place(said["bonus"], said))
            elif "pool" in said:
                pool = [place(name, said) for name in said["pool"]]
                places.append(Pool(pool, said["take"], pool[0].marks))
        plan = Plan(planned["title"], places)
        if sum(bool(each.question.document.parameters) for each in plan.questions) > 2:
            yield plan


def evenness() -> Measure:
    """How far 30 forms of each plan of the demo are apart, against forms whose questions and draws are taken as they
    come; the plan for which that is most."""
    found = [outlined(each, 30, "bench").evenness for each in demo_plans()]
    worst = max(even.spread / even.before for even in found)
    words = f"apart, chosen over random, 30 forms of {len(found)} plans"
    return Measure("evenness_ratio", words, worst, 1 / 3, at_least=False)


def typeset(work: tuple[Plan, Heading], forms: Sequence[MadeForm], told: Callable[[], None]) -> list[bytes]:
    """The papers of some forms, each by itself as they are kept."""
    printing = Printing(*work)
    return [printing.papers([form]) for form in forms]


def papers() -> list[Measure]:
    """Frozen forms to one finished file by two processes, from the first ten papers on."""
    printed, found = plan(10), []
    forms = make_forms(printed, 300, "bench").forms
    dressed = Look(cover=True, working="lines")
    for name, words, heading, budget in [
        ("pdf_forms_per_s", "papers of 10 questions", Heading("Bench", "Sandhaven Harbour School"), 100),
        ("dressed_forms_per_s", "with cover, codes, lines", Heading("Bench", "Sandhaven", "", 7, dressed), 60),
    ]:
        whole, started, done = Joined(io.BytesIO(), len(forms)), 0.0, 0
        stretches = [forms[start : start + 10] for start in range(0, len(forms), 10)]
        for made in Crew((printed, heading), typeset, 2).results(stretches, lambda steps: None):
            for paper in made:
                whole.add("paper", paper)
            done += len(made) if started else 0
            started = started or time.perf_counter()
        whole.finish()
        rate = done / (time.perf_counter() - started)
        found.append(Measure(name, f"{words} printed a second by two processes", rate, budget))
    return found


def previews() -> Measure:
    """The desk's answer to a keystroke in its text, for every ready question, with an answer being tried."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "vorlage.web.settings.test")
    import django

    django.setup()
    from vorlage.web.desk.form import Desk
    from vorlage.web.desk.preview import Wish, preview

    times = []
    for name, ready in ready_questions().items():
        desk = Desk.from_document(ready.document, ready.filing)
        wish = Wish(tried={desk.parts[0].uid: "1"})
        typed = iter(range(9))

        def keystroke(desk: Desk = desk, name: str = name, wish: Wish = wish, typed: Iterator[int] = typed) -> None:
            # what was typed before is remembered
            preview(replace(desk, wording=f"{desk.wording} {next(typed)}"), name, 1, wish)

        times.append(1000 * seconds(keystroke, least=0, rounds=3))
    times.sort()
    return Measure("preview_p95_ms", "preview of an edit, 95 of 100", times[int(0.95 * len(times))], 60, at_least=False)


class Pages:
    """Every page of the demo, with a set of forty forms and a large school, as each of its people gets it from the
    application itself."""

    def __init__(self) -> None:
        self.cluster = Cluster(Path(__file__).resolve().parents[1] / f".vorlage/bench-{os.getpid()}")

    def __enter__(self) -> Pages:
        self.cluster.start()
        self.cluster.ensure_database("vorlage")
        os.environ["VORLAGE_DATABASE"] = self.cluster.url("vorlage")
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", "vorlage.web.settings.test")
        import django

        django.setup()
        from django.core.management import call_command

        from vorlage.operations.demo_data import load
        from vorlage.web.classes.models import Student
        from vorlage.web.forms.models import FormSet
        from vorlage.web.jobs.tasks import perform
        from vorlage.web.people.models import School
        from vorlage.web.plans.models import Test

        call_command("migrate", verbosity=0)
        load()
        school = School.objects.get()
        Student.objects.bulk_create(
            Student(
                school=school, family=f"Family{k}", given="Given", number=f"F{k}", search_text=f"family{k} given f{k}"
            )
            for k in range(STUDENTS)
        )
        for test in Test.objects.all():
            perform(FormSet.order(test, 40, test.author).work.pk)
        return self

    def __exit__(self, *problem: object) -> None:
        self.cluster.destroy()

    def addresses(self) -> list[tuple[Any, str]]:
        """Everybody's pages: (person, address)."""
        from django.urls import reverse

        from vorlage.web.bank.models import Question
        from vorlage.web.classes.models import Class
        from vorlage.web.forms.models import FormSet
        from vorlage.web.people.models import User
        from vorlage.web.plans.models import Test

        found: list[tuple[Any, str]] = []
        for user in User.objects.all():
            held = user.memberships.order_by("-role").values_list("department", flat=True)
            if not held:
                wanted = ["people", "school", "classes", "students"] if user.administers else ["mine"]
                found += [(user, reverse(name)) for name in wanted]
                found += [(user, f"{reverse('students')}?find=am43")] if user.administers else []
                continue
            names = ["questions", "tests", "formula-book", "jump", "new-question", "gallery", "from-fixed"]
            writes = user.memberships.exclude(role="reader").exists()
            pages = [reverse(name) for name in (names if writes else names[:4])]
            pages += [reverse("classes"), reverse("students"), f"{reverse('students')}?find=am43"]
            for taught in Class.objects.seen_by(user):
                pages += [reverse("class", args=[taught.pk]), reverse("add-students", args=[taught.pk])]
            pages += [f"{reverse('questions')}?search=crane", f"{reverse('jump')}?jump=a"]
            for question in Question.objects.filter(department__in=held[:1]):
                pages += [reverse("question", args=[question.pk]), reverse("question-history", args=[question.pk])]
            for test in Test.objects.filter(department__in=held[:1]):
                pages += [reverse("test", args=[test.pk])]
            for made in FormSet.objects.filter(test__department__in=held[:1]):
                code = made.forms.all()[0].code
                pages += [reverse("form-set", args=[made.pk]), reverse("paper", args=[made.pk, code])]
                pages += [reverse("paper-beside", args=[made.pk, code]), reverse("paper-page", args=[made.pk, code, 1])]
            found += [(user, page) for page in pages]
        return found

    def measure(self) -> list[Measure]:
        """The 95 slowest of a hundred answers, the very first of every page among them."""
        from django.test import Client

        from vorlage.web.serving import load_pages

        load_pages()
        times: list[tuple[float, str]] = []
        for user, page in self.addresses():
            client = Client()
            client.force_login(user)
            for _ in range(3):
                started = time.perf_counter()
                answer: Any = client.get(page)
                if answer.streaming:
                    list(answer.streaming_content)
                times.append((1000 * (time.perf_counter() - started), page))
                if answer.status_code != 200:
                    raise AssertionError(f"{page} answers with {answer.status_code} to {user}")
        times.sort()
        self.slowest = times[-8:]
        own = times[int(0.95 * len(times))][0]
        found = busy(str(self.cluster.folder / "static"))
        if found.refused:
            raise AssertionError(f"{len(found.refused)} requests were refused, the first with {found.refused[0]}")
        typing, taking = p95(found.previews), p95(found.pages)
        took, held = large_set()
        marked = marking_pages()
        pages, counts = found_and_counted()
        bank = f"of a bank of {QUESTIONS:,} questions"
        return [
            Measure("page_p95_ms", f"any page of the demo, 95 of 100 ({len(times)} asked)", own, 100, at_least=False),
            Measure("busy_preview_p95_ms", f"preview, {TYPING} type and {TAKING} take", typing, 400, at_least=False),
            Measure("busy_page_p95_ms", "a stored page meanwhile", taking, 400, at_least=False),
            Measure("set_1000_s", "1 000 forms of 10 made, printed and stored, s", took, 60, at_least=False),
            Measure("set_1000_mb", "the memory of all its processes, MB", held, 600, at_least=False),
            Measure(
                "marking_page_p95_ms", f"marking {MARKED} students × 20, 95 of 100", p95(marked), 400, at_least=False
            ),
            Measure("bank_p95_ms", f"a page {bank}, 95 of 100", p95(pages), 100, at_least=False),
            Measure("facets_p95_ms", "all its facets counted, 95 of 100", p95(counts), 400, at_least=False),
        ]


def sitting() -> list[Measure]:
    """Students who sit a test through HTTP, with a server, a worker and a database of their own beside them."""
    words = [
        sys.executable,
        "-m",
        "vorlage.command",
        "rehearse",
        "--students",
        str(SITTING),
        "--seconds",
        "30",
        "--json",
    ]
    lines = subprocess.run(words, check=True, capture_output=True, text=True).stdout.splitlines()
    found = json.loads(lines[-1])
    if not found["confirmed"]:
        raise AssertionError("Nothing was confirmed.")
    return [
        Measure(name, said, found[name], budget, at_least=False)
        for name, said, budget in (
            ("sitting_save_p95_ms", f"a save, {SITTING} students sit, 95 of 100", 150),
            ("sitting_start_p95_ms", "beginning, all within some seconds, 95 of 100", 1000),
            ("sitting_lost", "saves that were confirmed and are not there", 0),
        )
    ]


def finding() -> list[Measure]:
    """Finding the mistake in many classes."""
    found = mistakes()
    return [
        Measure("mistakes_named", f"known mistakes among the first two, of {found.known} classes", found.named, 0.9),
        Measure("mistakes_by_chance", f"of {RANDOM:,} random classes with a claim", found.claims, 10, at_least=False),
        Measure("mistakes_worst_s", "the longest that one class takes, s", found.worst, 2, at_least=False),
    ]


def main(as_json: bool = False) -> int:
    """Measure everything; exit status 1 when a budget is not kept."""
    first, rows = formulas()
    with Pages() as served:
        pages = served.measure()
    measures = [
        *first,
        numbers(),
        hostile(),
        draws(),
        *form_sets(),
        evenness(),
        *finding(),
        *papers(),
        previews(),
        *pages,
        *sitting(),
    ]
    if as_json:
        print(json.dumps({measure.name: round(measure.value, 2) for measure in measures}))
        return 0 if all(measure.kept for measure in measures) else 1
    for measure in measures:
        budget = f"{measure.budget:,.0f}" if measure.budget >= 1 else f"{measure.budget:.2f}"
        limit = f"{'at least' if measure.at_least else 'at most'} {budget}"
        verdict = "kept" if measure.kept else "NOT KEPT"
        print(f"{measure.words:58} {measure.value:>12,.{1 if measure.budget >= 1 else 2}f}   {limit:>16}   {verdict}")
    ratios = sorted(ratio for _, ratio, _ in rows)
    spread = "  ".join(f"{share}%: {ratios[len(ratios) * share // 100]:,.0f}×" for share in (5, 25, 50, 75, 95))
    print(f"\nTimes faster than SymPy's simplify, over {len(ratios)} pairs:  {spread}")
    print("The slowest pairs (milliseconds, times faster than SymPy):")
    for ours, ratio, pair in rows[:8]:
        print(f"  {ours * 1000:8.2f} {ratio:8.0f}×  {pair}")
    print("The slowest pages (milliseconds):")
    for spent, page in reversed(served.slowest):
        print(f"  {spent:8.1f}  {page}")
    return 0 if all(measure.kept for measure in measures) else 1

"""Every change of a plan: kept at once, in words, so that it can be taken back."""

from __future__ import annotations

from collections.abc import Sequence
from urllib.parse import urlencode

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse, HttpResponseBadRequest
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import to_marks
from vorlage.core.questions import LEVELS
from vorlage.web.bank.models import Pool, Question, Topic, Tree
from vorlage.web.design.asking import chosen_number
from vorlage.web.once.models import claim
from vorlage.web.people.permissions import held, member
from vorlage.web.people.requests import MemberRequest

from .coverage import set_target, topics_of
from .forms import PlaceForm, SectionForm
from .models import Candidate, Held, Section, Test, TestPlace, count_uses
from .models.places import MOST_IN_A_POOL, found_by_rule
from .slots import WRITING_FOR
from .views import kept_searches, plan, test_of

# By what the places of every section can be put in order, and how that is said.
SORTS = {"marks": "marks", "level": "level", "topic": "topic"}
# The longest search that a rule can be.
LONGEST_RULE = 2_000


def changed(request: MemberRequest, pk: int) -> Test:
    return test_of(request, pk, "plans.change_test")


def place_of(request: MemberRequest, pk: int, place: int) -> tuple[Test, TestPlace, Held]:
    """A place of a test that may be changed, and what it takes from."""
    found = changed(request, pk)
    own = get_object_or_404(found.places, pk=place)
    return found, own, next(each for each in found.ordered() if each.pk == own.pk)


def candidate_of(request: MemberRequest, pk: int, candidate: int) -> tuple[Test, Candidate]:
    found = changed(request, pk)
    candidates = Candidate.objects.select_related("place", "revision__question__current")
    return found, get_object_or_404(candidates, place__test=found, pk=candidate)


def usable(request: MemberRequest, keys: Sequence[int]) -> list[Question]:
    """Questions that the member may use, in the order asked for."""
    return [
        held(request, "bank.view_question", Question.objects.select_related("current", "department"), pk=key)
        for key in dict.fromkeys(keys)
    ]


def named(titles: Sequence[str]) -> str:
    return f"“{titles[0]}”" if len(titles) == 1 else f"{len(titles)} questions"


# questions in and out


@member
@require_POST
def add_place(request: MemberRequest, pk: int, question: int) -> HttpResponse:
    """One question, at the end of a section or into a pool."""
    found = changed(request, pk)
    return added(request, found, usable(request, [question]))


@member
@require_POST
def add_places(request: MemberRequest, pk: int) -> HttpResponse:
    """The questions that were ticked: each at a place of its own, all into a pool that there is, or into a new one."""
    found = changed(request, pk)
    chosen = [chosen_number(each) for each in request.POST.getlist("question")[:MOST_IN_A_POOL]]
    if not chosen:
        return plan(request, found, refused="Tick the questions that are meant.")
    return added(request, found, usable(request, chosen))


def added(request: MemberRequest, found: Test, questions: Sequence[Question]) -> HttpResponse:
    into = request.POST.get("into", "")
    with transaction.atomic():
        if not claim(request):
            return plan(request, found)
        words = f"Added {named([each.title for each in questions])}"
        with found.changing(request.user, words):
            if into.startswith("p") and (pool := found.places.filter(pk=chosen_number(into[1:]), pool=True, rule="")):
                found.fill(pool[0], questions)
            elif into == "new":
                found.add_pool(found.last_section(), questions, 1)
            else:
                section = found.sections.filter(pk=chosen_number(into[1:])).first() if into.startswith("s") else None
                for each in questions:
                    found.add(each, section=section)
            found.set_order(found.tokens())
    request.session.pop(WRITING_FOR, None)
    return plan(request, found)


@member
@require_POST
def remove_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    found, own, before = place_of(request, pk, place)
    with found.changing(request.user, f"Took out “{before.title}”"):
        found.take_out(own)
    return plan(request, found)


@member
@require_POST
def remove_candidate(request: MemberRequest, pk: int, candidate: int) -> HttpResponse:
    """Take a question out of a pool; the place stays, with those that are left."""
    found, own = candidate_of(request, pk, candidate)
    with found.changing(request.user, f"Took “{own.revision.title}” out of a pool"):
        own.delete()
        count_uses([own.revision.question_id])
    return plan(request, found)


@member
@require_POST
def renew_candidate(request: MemberRequest, pk: int, candidate: int) -> HttpResponse:
    """Take the latest revision of a question."""
    found, own = candidate_of(request, pk, candidate)
    latest = own.revision.question.latest
    with found.changing(request.user, f"“{own.revision.title}” in its revision {latest}"):
        found.renew(own)
    return plan(request, found)


# places


@member
@require_POST
def edit_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    """How many questions a form gets here, what each is worth, and what the place is called."""
    found, own, before = place_of(request, pk, place)
    form = PlaceForm(request.POST, instance=own)
    if not form.is_valid():
        return plan(request, found, place_form=form, edited=f"p{place}")
    with found.changing(request.user, f"Changed “{before.title}”"):
        form.save()
    return plan(request, found)


@member
@require_POST
def turn_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    """A fixed question becomes a pool that has it; a pool becomes the one of its questions that is chosen."""
    found, own, before = place_of(request, pk, place)
    if not own.pool:
        with found.changing(request.user, f"Made a pool of “{before.title}”"):
            found.places.filter(pk=own.pk).update(pool=True)
        return plan(request, found)
    chosen = chosen_number(request.POST.get("question", ""))
    kept = next((each for each in before.candidates if each.revision.question_id == chosen), None)
    kept = kept or next(iter(before.candidates), None)
    if kept is None:
        return plan(request, found, refused="This pool has no question that could stay: add one, or take the pool out.")
    with found.changing(request.user, f"Kept “{kept.revision.title}” of a pool"):
        concerned = [each.revision.question_id for each in before.candidates]
        own.candidates.exclude(pk=kept.pk).delete()
        if kept.pk is None:
            kept.save()
        found.places.filter(pk=own.pk).update(pool=False, take=1, name="", rule="")
        count_uses(concerned)
    return plan(request, found)


@member
@require_POST
def add_pool_place(request: MemberRequest, pk: int) -> HttpResponse:
    """A place that takes some of a named pool of the bank, or of what a rule finds."""
    found = changed(request, pk)
    take = max(1, chosen_number(request.POST.get("take", ""), 1))
    source = request.POST.get("source", "")
    rule, name = rule_of(request, source)
    named_pool = None
    if source.startswith("pool"):
        pools = Pool.objects.filter(department=request.membership.department, archived=None)
        named_pool = get_object_or_404(pools, pk=chosen_number(source[4:]))
    elif not rule:
        return plan(request, found, refused="Choose a pool or a search, or write words that the questions have.")
    with transaction.atomic():
        if not claim(request):
            return plan(request, found)
        with found.changing(request.user, f"A pool: {named_pool.name if named_pool else name}"[:200]):
            if named_pool is not None:
                questions = [each.question for each in named_pool.pooled.select_related("question__current")]
                found.add_pool(found.last_section(), questions, take, named_pool.name)
            else:
                marks = request.membership.department.first_marks
                place = found.add_pool(found.last_section(), [], take, name)
                found.places.filter(pk=place.pk).update(rule=rule, marks=marks)
            found.set_order(found.tokens())
    return plan(request, found)


def rule_of(request: MemberRequest, source: str) -> tuple[str, str]:
    """A search that is named or typed, as it stands in an address, and what it is called; empty where there is none."""
    if source.startswith("search"):
        kept = get_object_or_404(kept_searches(request), pk=chosen_number(source[6:]))
        return kept.asked, kept.name
    words = " ".join(request.POST.get("words", request.GET.get("words", "")).split())[:200]
    return (urlencode({"search": words}), words) if words and not source else ("", "")


@member
@require_GET
def rule_count(request: MemberRequest, pk: int) -> HttpResponse:
    """How many questions a rule would find, while it is being written."""
    found = changed(request, pk)
    source = request.GET.get("source", "")
    take = max(1, chosen_number(request.GET.get("take", ""), 1))
    if source.startswith("pool"):
        pools = Pool.objects.filter(department=request.membership.department, archived=None)
        count = get_object_or_404(pools, pk=chosen_number(source[4:])).questions.count()
        name = "in the pool"
    else:
        rule, name = rule_of(request, source)
        if not rule:
            return render(request, "plans/_rule_count.html", {})
        count, name = found_by_rule(found, rule)[0], "found"
    return render(
        request, "plans/_rule_count.html", {"count": count, "take": take, "name": name, "most": MOST_IN_A_POOL}
    )


# sections


@member
@require_POST
def add_section(request: MemberRequest, pk: int) -> HttpResponse:
    """A section at the end; places are moved into it. The first one takes the questions that there are."""
    found = changed(request, pk)
    with transaction.atomic():
        if claim(request):
            with found.changing(request.user, "A new section"):
                section, count = found.first_section(), found.sections.count()
                if count == 1 and section.says_nothing:
                    # the questions that there are become its first
                    found.sections.filter(pk=section.pk).update(title="Part A")
                else:
                    section = found.sections.create(position=count, title=f"Part {chr(65 + min(count, 25))}")
                return plan(request, found, edited=f"s{section.pk}")
    return plan(request, found)


def section_of(request: MemberRequest, pk: int, section: int) -> tuple[Test, Section]:
    found = changed(request, pk)
    return found, get_object_or_404(found.sections, pk=section)


@member
@require_POST
def edit_section(request: MemberRequest, pk: int, section: int) -> HttpResponse:
    found, own = section_of(request, pk, section)
    form = SectionForm(request.POST, instance=own)
    if not form.is_valid():
        return plan(request, found, section_form=form, edited=f"s{section}")
    with found.changing(request.user, f"Changed the section “{own.title or 'without a name'}”"):
        form.save()
    return plan(request, found)


@member
@require_POST
def remove_section(request: MemberRequest, pk: int, section: int) -> HttpResponse:
    """Take a section away; its places go to the one before it, or after it where it is the first."""
    found, own = section_of(request, pk, section)
    others = list(found.sections.exclude(pk=own.pk).order_by("position"))
    if not others:
        with found.changing(request.user, "Took away what the section said"):
            blank = {"title": "", "text": "", "calculator": None, "new_page": False, "mixed": False}
            found.sections.filter(pk=own.pk).update(**blank)
        return plan(request, found)
    before = [each for each in others if each.position < own.position]
    with found.changing(request.user, f"Took away the section “{own.title or 'without a name'}”"):
        own.places.update(section=(before or others)[-1 if before else 0])
        own.delete()
        found.set_order(found.tokens())
    return plan(request, found)


# the order


@member
@require_POST
def move_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    """One line up or one down, from one section to the next as well."""
    found, own, before = place_of(request, pk, place)
    with found.changing(request.user, f"Moved “{before.title}”"):
        found.move(str(own.pk), -1 if request.POST.get("to") == "up" else 1)
    return plan(request, found)


@member
@require_POST
def move_section(request: MemberRequest, pk: int, section: int) -> HttpResponse:
    found, own = section_of(request, pk, section)
    with found.changing(request.user, f"Moved the section “{own.title or 'without a name'}”"):
        found.move(f"s{own.pk}", -1 if request.POST.get("to") == "up" else 1)
    return plan(request, found)


@member
@require_POST
def arrange(request: MemberRequest, pk: int) -> HttpResponse:
    """The order that dragging left behind."""
    found = changed(request, pk)
    with found.changing(request.user, "Another order"):
        found.arrange(request.POST.getlist("place"))
    return plan(request, found)


@member
@require_POST
def sort_places(request: MemberRequest, pk: int) -> HttpResponse:
    """Put the places of every section in order, by their marks, level or topic; what is alike stays as it is."""
    found = changed(request, pk)
    by = request.POST.get("by", "")
    if by not in SORTS:
        return HttpResponseBadRequest("By marks, level or topic.")
    places = found.ordered()

    def rank(each: Held) -> tuple[object, ...]:
        questions = [candidate.revision.question for candidate in each.candidates]
        if by == "marks":
            return (each.marks,)
        if by == "level":
            return (min((question.level for question in questions), default=0),)
        return (min((paths.get(question.pk, 10**6) for question in questions), default=0),)

    paths = topic_ranks(places) if by == "topic" else {}
    with found.changing(request.user, f"In the order of {SORTS[by]}"):
        ranked = sorted(places, key=rank)
        found.arrange(
            [
                token
                for section in found.sections.order_by("position")
                for token in (f"s{section.pk}", *(str(each.pk) for each in ranked if each.section.pk == section.pk))
            ]
        )
    return plan(request, found)


def topic_ranks(places: Sequence[Held]) -> dict[int, int]:
    """Where the first topic of each question stands in its department's tree."""
    questions = {each.revision.question_id: each.revision.question for held in places for each in held.candidates}
    orders: dict[int, dict[int, int]] = {}
    for question in questions.values():
        if question.department_id not in orders:
            rows = Tree(question.department_id).rows
            orders[question.department_id] = {topic.pk: k for k, (topic, _) in enumerate(rows)}
    return {key: orders[questions[key].department_id].get(topic, 10**6) for key, topic in topics_of(questions).items()}


# what is aimed at


@member
@require_POST
def aim(request: MemberRequest, pk: int) -> HttpResponse:
    """The marks that are aimed at, cell by cell: those that were sent; and a row for an objective."""
    found = changed(request, pk)
    topics = set(Topic.objects.filter(department=found.department_id).values_list("pk", flat=True))
    wrong: dict[str, str] = {}
    with found.changing(request.user, "What is aimed at"):
        for name, text in list(request.POST.dict().items())[:1000]:
            topic, _, level = name.removeprefix("t").partition("-")
            cell = chosen_number(topic), chosen_number(level)
            if not name.startswith("t") or cell[0] not in topics or cell[1] not in LEVELS:
                continue
            try:
                marks = to_marks(str(text).strip().replace(",", ".")) or None if str(text).strip() else None
            except ValueError:
                wrong[f"t{cell[0]}-{cell[1]}"] = str(text)[:20]
            else:
                set_target(found, *cell, marks)
    if request.POST.get("keep") == "yes" and not wrong:
        return plan(request, found)
    asked = [chosen_number(each) for each in (*request.POST.getlist("rows"), request.POST.get("row", ""))]
    refused = f"“{next(iter(wrong.values()))}” is no number of marks, such as 4 or 2.5." if wrong else ""
    rows = sorted(topics & set(asked))
    return plan(request, found, aiming=True, wrong=wrong, grid_refused=refused, rows=rows)


# taking back


@member
@require_POST
def take_back(request: MemberRequest, pk: int) -> HttpResponse:
    """Undo the last step that is still there."""
    found = changed(request, pk)
    with transaction.atomic():
        step = found.steps.select_for_update().filter(pk=chosen_number(request.POST.get("step", ""))).first()
        if step is None or step.pk != found.steps.values_list("pk", flat=True).first():
            return plan(request, found, refused="Somebody has changed the plan meanwhile; this is how it stands now.")
        words = step.words
        found.take_back(step)
    if not request.htmx:
        messages.success(request, f"Taken back: {words}.")
        return redirect("test", pk)
    return plan(request, found, taken_back=words)

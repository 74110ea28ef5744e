"""Many questions at once: filing them, handing them over, putting them out of the way; and taking that back."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import timedelta
from decimal import Decimal, InvalidOperation
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.http import require_http_methods, require_POST

from vorlage.core.answers import to_marks
from vorlage.core.questions import DEMANDS, LEVELS, folded, listed, read_paths, topics_meant
from vorlage.core.questions.filing import MOST_TAGS, MOST_TOPICS
from vorlage.web.design.asking import chosen_number
from vorlage.web.jobs.models import Job, last_seen, workers_live
from vorlage.web.people.models import Department, Membership, User
from vorlage.web.people.permissions import allowed, held, member
from vorlage.web.people.requests import MemberRequest

from .models import Done, Filed, Question, Tree
from .models.finding import know_words, note_filing, note_found, words_in
from .search import Hunt, Search
from .tasks import REVISING, order_proof

# so many at a time
MOST = 5_000
# for so long what was done last is offered to be taken back
OFFERED = timedelta(minutes=15)


class Refused(ValueError):
    """What was asked for cannot be done; the message says why."""


@dataclass
class Change:
    """A change of many questions: ``column`` of each goes from what it was to what ``turn`` makes of it.

    ``words`` say it of some questions: *Level 2 for 12 questions*.
    """

    words: str
    column: str
    turn: Callable[[Any], Any]
    new_words: Iterable[str] = field(default_factory=tuple)


def colleagues(request: MemberRequest) -> list[User]:
    """To whom questions of the department can be handed over."""
    writers = Membership.objects.filter(department=request.membership.department).exclude(role="reader")
    return list(User.objects.filter(memberships__in=writers, is_active=True).order_by("name"))


@allowed("bank.add_question")
@require_POST
def with_questions(request: MemberRequest) -> HttpResponse:
    """Do something with the questions that are ticked, or with all that were found."""
    search = Search.of(QueryDict(request.POST.get("asked", "")[:2_000]))
    back = redirect(f"{reverse('questions')}?{search.address}")
    try:
        chosen = chosen_questions(request, search)
        if request.POST.get("do") == "prove":
            order_proof(request.membership.department, request.user, chosen)
            return redirect("proofs")
        if request.POST.get("do") == "marks":
            return redirect("work", order_marks(request, chosen).pk)
        change = change_of(request)
        done = carry_out(request, chosen, change)
    except Refused as refusal:
        messages.error(request, str(refusal))
        return back
    if done is None:
        messages.info(request, "Nothing changed: they are so already.")
    return back


def order_marks(request: MemberRequest, chosen: list[int]) -> Job:
    """A job that gives questions other marks: a revision of each. Raises ``Refused``."""
    text = request.POST.get("marks", "").strip().replace(",", ".")
    try:
        marks = to_marks(text)
    except ValueError as problem:
        raise Refused(str(problem)) from None
    if not marks:
        raise Refused("Write the marks that each question is to have, such as 4.")
    named = {"department": request.membership.department_id, "marks": str(marks), "questions": chosen}
    return Job.order(REVISING, request.user, len(chosen), **named)


@member
@require_http_methods(["GET", "POST"])
def work(request: MemberRequest, pk: int) -> HttpResponse:
    """How far the revising of many questions is, and what became of it; it can be stopped."""
    mine = Job.objects.filter(kind=REVISING, author=request.user)
    job = get_object_or_404(mine, pk=pk, arguments__department=request.membership.department_id)
    if request.method == "POST":
        job.cancel()
        return redirect("work", pk)
    no_worker = job.open and not workers_live()
    context = {"job": job, "no_worker": no_worker, "last_seen": last_seen() if no_worker else None}
    if request.htmx:
        if job.open:
            return render(request, "bank/_working.html", context)
        return HttpResponse(status=204, headers={"HX-Refresh": "true"})
    return render(request, "bank/work.html", context)


def chosen_questions(request: MemberRequest, search: Search) -> list[int]:
    """The questions that are meant. Raises ``Refused`` where there are none, or too many at once."""
    if request.POST.get("all") == "yes":
        hunt = Hunt(search, request.membership.department)
        # what other departments share is found too, and is not changed from here
        own = hunt.matching().filter(department=request.membership.department)
        chosen = list(own.values_list("pk", flat=True)[: MOST + 1])
    else:
        ticked = [chosen_number(text) for text in request.POST.getlist("question")[: MOST + 1]]
        chosen = list(Question.objects.of(request.membership).filter(pk__in=ticked).values_list("pk", flat=True))
    if not chosen:
        raise Refused("No question is ticked: tick some, or take all that were found.")
    if len(chosen) > MOST:
        raise Refused(f"More than {MOST:,} questions at once: narrow the search.".replace(",", "\u202f"))
    return chosen


def change_of(request: MemberRequest) -> Change:
    """What is asked for. Raises ``Refused`` for what cannot be done."""
    do = request.POST.get("do", "")
    asked = ASKED.get(do)
    if asked is None:
        raise Refused("Choose what is to be done.")
    return asked(request)


def level(request: MemberRequest) -> Change:
    value = chosen_number(request.POST.get("level", ""))
    if value not in LEVELS:
        raise Refused("Choose a level.")
    return Change(f"Level {value} for", "level", lambda old: value)


def demand(request: MemberRequest) -> Change:
    value = chosen_number(request.POST.get("demand", ""))
    if value not in {0, *DEMANDS}:
        raise Refused("Choose a kind of demand.")
    name = dict(request.membership.department.demands).get(value, "not said")
    return Change(f"Demand “{name}” for", "demand", lambda old: value)


def calculator(request: MemberRequest) -> Change:
    value = request.POST.get("calculator") == "yes"
    return Change(f"{'With' if value else 'Without'} a calculator:", "calculator", lambda old: value)


def minutes(request: MemberRequest) -> Change:
    text = request.POST.get("minutes", "").strip().replace(",", ".")
    try:
        value = Decimal(text).quantize(Decimal("0.01")) if text else None
    except InvalidOperation:
        raise Refused(f"“{text[:20]}” is no number of minutes.") from None
    if value is not None and not 0 < value <= 999:
        raise Refused("Minutes are a number up to 999.")
    return Change(f"{text or 'No'} minutes for", "minutes", lambda old: value)


def owner(request: MemberRequest) -> Change:
    wanted = chosen_number(request.POST.get("colleague", ""))
    colleague = next((each for each in colleagues(request) if each.pk == wanted), None)
    if colleague is None:
        raise Refused("Choose a colleague who writes in this department.")
    return Change(f"Handed over to {colleague.name}:", "owner_id", lambda old: colleague.pk)


def archive(request: MemberRequest) -> Change:
    now = timezone.now()
    return Change("Put into the archive:", "archived", lambda old: old or now)


def restore(request: MemberRequest) -> Change:
    return Change("Taken out of the archive:", "archived", lambda old: None)


def share(request: MemberRequest) -> Change:
    """With another department too, with the whole school, or with nobody else any more."""
    wanted, department = request.POST.get("share", ""), request.membership.department
    if wanted == "none":
        return Change(f"For {department.name} alone:", "sharing", lambda old: [False, []])
    if wanted == "school":
        return Change("For the whole school:", "sharing", lambda old: [True, old[1]])
    others = Department.objects.filter(school=department.school_id).exclude(pk=department.pk)
    other = others.filter(pk=chosen_number(wanted)).first()
    if other is None:
        raise Refused("Choose with whom they are shared.")
    return Change(f"Shared with {other.name}:", "sharing", lambda old: [old[0], sorted({*old[1], other.pk})])


def typed_tags(request: MemberRequest) -> list[str]:
    tags = listed(request.POST.get("tags", ""))
    if not tags:
        raise Refused("Write the tags, with commas between.")
    long = next((tag for tag in tags if len(tag) > 60), None)
    if long is not None:
        raise Refused(f"“{long[:30]}…” is too long: a tag has at most 60 characters.")
    return tags


def tag(request: MemberRequest) -> Change:
    tags = typed_tags(request)

    def added(old: list[str]) -> list[str]:
        have = {folded(each) for each in old}
        return (old + [each for each in tags if folded(each) not in have])[:MOST_TAGS]

    return Change(f"Tagged {', '.join(tags)}:", "tags", added, words_in(" ".join(tags)))


def untag(request: MemberRequest) -> Change:
    unwanted = {folded(each) for each in typed_tags(request)}
    words = f"Without the tag{'s' if len(unwanted) > 1 else ''} {request.POST.get('tags', '').strip()[:80]}:"
    return Change(words, "tags", lambda old: [each for each in old if folded(each) not in unwanted])


def typed_topics(request: MemberRequest, make: bool) -> tuple[list[int], str]:
    """The topics that are meant, with their names; missing ones are made where that is wanted."""
    tree = Tree(request.membership.department)
    typed = read_paths(request.POST.get("topics", ""))
    meant = topics_meant(typed, list(tree.paths))
    if not typed:
        raise Refused("Write the topic, such as Physics ▸ Moments.")
    if meant.doubts:
        raise Refused(meant.doubts[0])
    if meant.new and not make:
        raise Refused(f"There is no topic “{meant.new[0][-1]}”.")
    topics = tree.made(meant.paths)
    return topics, ", ".join(tree.topics[pk].name for pk in topics)


def put_under(request: MemberRequest) -> Change:
    topics, names = typed_topics(request, make=True)

    def added(old: list[int]) -> list[int]:
        return (old + [pk for pk in topics if pk not in old])[:MOST_TOPICS]

    return Change(f"Filed under {names}:", "topics", added)


def take_from(request: MemberRequest) -> Change:
    topics, names = typed_topics(request, make=False)
    return Change(f"No longer under {names}:", "topics", lambda old: [pk for pk in old if pk not in topics])


def only_under(request: MemberRequest) -> Change:
    topics, names = typed_topics(request, make=True)
    return Change(f"Filed under {names} alone:", "topics", lambda old: topics)


ASKED: dict[str, Callable[[MemberRequest], Change]] = {
    "put-under": put_under, "only-under": only_under, "take-from": take_from, "tag": tag, "untag": untag,
    "level": level, "demand": demand, "calculator": calculator, "minutes": minutes, "hand-over": owner,
    "archive": archive, "restore": restore, "share": share,
}  # fmt: skip


@transaction.atomic
def carry_out(request: MemberRequest, chosen: list[int], change: Change) -> Done | None:
    """Change the questions; None when all are so already. What was before is kept, to be taken back."""
    before = values_of(chosen, change.column)
    after = {pk: change.turn(value) for pk, value in before.items()}
    changed = {pk: value for pk, value in after.items() if value != before[pk]}
    if not changed:
        return None
    store(change.column, changed)
    know_words(request.membership.department.school_id, change.new_words)
    count = len(changed)
    kept = [[pk, plain(before[pk]), plain(value)] for pk, value in changed.items()]
    return Done.objects.create(
        user=request.user,
        department=request.membership.department,
        words=f"{change.words[:240]} {count} question{'' if count == 1 else 's'}.",
        before={"column": change.column, "questions": kept},
    )


def values_of(questions: list[int], column: str) -> dict[int, Any]:
    """What stands in a column of each question; they are held for this transaction."""
    held_ones = Question.objects.filter(pk__in=questions).order_by("pk").select_for_update()
    if column == "sharing":
        sharing: dict[int, list[Any]] = {pk: [whole, []] for pk, whole in held_ones.values_list("pk", "whole_school")}
        through = Question.shared.through.objects.filter(question__in=questions).order_by("department")
        for question, department in through.values_list("question", "department"):
            sharing[question][1].append(department)
        return sharing
    if column != "topics":
        return dict(held_ones.values_list("pk", column))
    found: dict[int, list[int]] = {pk: [] for pk in held_ones.values_list("pk", flat=True)}
    for question, topic in Filed.objects.filter(question__in=questions).values_list("question", "topic"):
        found[question].append(topic)
    return found


def store(column: str, changed: dict[int, Any]) -> None:
    """Write the values of a column, and what the questions are found by."""
    now = timezone.now()
    if column == "topics":
        Filed.objects.filter(question__in=changed).delete()
        Filed.objects.bulk_create(
            [
                Filed(question_id=pk, topic_id=topic, position=place)
                for pk, topics in changed.items()
                for place, topic in enumerate(topics)
            ],
            batch_size=2_000,
        )
        Question.objects.filter(pk__in=changed).update(changed=now)
    elif column == "sharing":
        through = Question.shared.through
        through.objects.filter(question__in=changed).delete()
        through.objects.bulk_create(
            through(question_id=pk, department_id=department)
            for pk, (_, others) in changed.items()
            for department in others
        )
        for whole in (True, False):
            meant = [pk for pk, value in changed.items() if value[0] == whole]
            Question.objects.filter(pk__in=meant).update(whole_school=whole, changed=now)
    else:
        by_value: dict[str, tuple[Any, list[int]]] = {}
        for pk, value in changed.items():
            by_value.setdefault(repr(value), (value, []))[1].append(pk)
        for value, questions in by_value.values():
            Question.objects.filter(pk__in=questions).update(**{column: value, "changed": now})
    note_found(changed)
    if column in {"topics", "tags"}:
        note_filing(changed)


def plain(value: Any) -> Any:
    """A value as JSON has it."""
    if isinstance(value, Decimal):
        return str(value)
    return value.isoformat() if hasattr(value, "isoformat") else value


def read(column: str, value: Any) -> Any:
    """The value of a column from what was kept of it."""
    if value is None:
        return None
    if column == "minutes":
        return Decimal(value)
    return parse_datetime(value) if column == "archived" else value


def last_done(request: MemberRequest) -> Done | None:
    """What somebody did last in the department, while it is offered to be taken back."""
    mine = Done.objects.filter(user=request.user, department=request.membership.department)
    return mine.filter(moment__gt=timezone.now() - OFFERED).defer("before").first()


@allowed("bank.add_question")
@require_POST
def take_back(request: MemberRequest, pk: int) -> HttpResponse:
    """Undo what was done to many; a question that was changed since stays as it is."""
    done = held(request, "bank.take_back_done", Done.objects.all(), pk=pk)
    column, kept = done.before["column"], done.before["questions"]
    if column == "marks":
        back = [[question, new] for question, _, new in kept]
        named = {"department": done.department_id, "back": back, "done": done.pk}
        return redirect("work", Job.order(REVISING, request.user, len(back), **named).pk)
    with transaction.atomic():
        there = set(Tree(done.department_id).topics)
        now = values_of([pk for pk, _, _ in kept], column)
        before = {}
        for question, old, new in kept:
            if question in now and plain(now[question]) == new:
                value = read(column, old)
                before[question] = [topic for topic in value if topic in there] if column == "topics" else value
        if before:
            store(column, before)
        done.delete()
    stayed = len(kept) - len(before)
    words = "Taken back."
    if stayed:
        words += f" {stayed} {'has' if stayed == 1 else 'have'} been changed since and stayed as they are."
    messages.success(request, words)
    search = Search.of(QueryDict(request.POST.get("asked", "")[:2_000]))
    return redirect(f"{reverse('questions')}?{search.address}")

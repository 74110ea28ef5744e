"""The questions of a department: what a search finds, how many there are of each, and searches that are kept."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from django.contrib import messages
from django.db.models import Exists, OuterRef
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST
from django_htmx.http import trigger_client_event

from vorlage.core.notation import from_document
from vorlage.web.people.models import Department, User
from vorlage.web.people.permissions import allowed, held, member
from vorlage.web.people.requests import MemberRequest

from .bulk import colleagues, last_done
from .facets import FACETS, Facet
from .markup import rewritten, safe
from .models import Found, KeptSearch, Question, Topic, Tree
from .search import LOOKS, SORTS, Hunt, Search, counts, others, shown
from .tray import tray_context

# how many are shown at a time, as sheets and as rows
SHEETS, ROWS = 24, 60
# so many values of a facet are offered, the most frequent ones and those that are chosen
OFFERED = 12


@dataclass(frozen=True)
class Entry:
    """A question in a list."""

    found: Found
    stem: SafeString
    # what it stands under first of all
    topic: str

    @property
    def question(self) -> Question:
        return self.found.question


@member
@require_GET
def questions(request: MemberRequest) -> HttpResponse:
    """What a search finds, as small sheets or as rows."""
    context = found_context(request, Search.of(request.GET))
    if request.htmx and not request.htmx.boosted:
        # what was found changes what there is to choose
        return trigger_client_event(render(request, "bank/_results.html", context), "found")
    return render(request, "bank/list.html", context | frame_context(request))


def frame_context(request: MemberRequest) -> dict[str, Any]:
    """What stands around the questions that are found."""
    return {
        "sorts": SORTS,
        "looks": LOOKS,
        **tray_context(request),
    }


def found_context(request: MemberRequest, search: Search) -> dict[str, Any]:
    """One page of what is found: in two or three queries, however many questions there are."""
    department = request.membership.department
    hunt, size = Hunt(search, department), ROWS if search.look == "rows" else SHEETS
    first = (search.page - 1) * size
    rows = shown(hunt.ordered(), first, size + 1)
    tree = Tree(department)
    kept = KeptSearch.objects.filter(department=department).select_related("user")
    return {
        "search": search,
        "entries": entries(rows[:size], department.habits),
        "first": first + 1,
        "last": first + min(size, len(rows)),
        # all that is found is on this page
        "total": first + len(rows) if len(rows) <= size and (rows or not first) else None,
        "before": page_address(search, search.page - 1) if search.page > 1 else "",
        "after": page_address(search, search.page + 1) if len(rows) > size else "",
        "slips": hunt.slips,
        "asked": chips(search, tree, request),
        "done": last_done(request),
        "kept": [each for each in kept if each.shared or each.user_id == request.user.pk],
        "is_empty": not rows and not search.is_asked and search.page == 1,
        "levels": range(1, 6),
        "departments": other_departments(request) if request.membership.may_write else [],
        "demands": department.demands,
        "colleagues": colleagues(request) if request.membership.may_write else [],
    }


def other_departments(request: MemberRequest) -> list[Department]:
    """The departments that questions can be shared with."""
    school = request.membership.department.school_id
    return list(Department.objects.filter(school=school).exclude(pk=request.membership.department_id))


def entries(rows: list[Found], habits: Any) -> list[Entry]:
    """The questions of a list, with what each asks and its topic."""
    # of a tree of hundreds no more than what is shown
    wanted = {pk for row in rows for pk in row.under}
    topics = {
        pk: (above, name) for pk, above, name in Topic.objects.filter(pk__in=wanted).values_list("pk", "parent", "name")
    }

    def depth(pk: int | None) -> int:
        return 1 + depth(topics[pk][0]) if pk in topics else 0

    names = {}
    for row in rows:
        # the longest way leads to what it is filed under
        longest = max((pk for pk in row.under if pk in topics), key=depth, default=None)
        names[row.pk] = topics[longest][1] if longest is not None else ""
    return [Entry(row, safe(rewritten(row.question.newest.sheet, habits)), names[row.pk]) for row in rows]


def page_address(search: Search, page: int) -> str:
    """Where another page of what is found is."""
    return f"{reverse('questions')}?{search.address}{'&' if search.address else ''}page={page}"


@dataclass(frozen=True)
class Chip:
    """Something that was chosen, and where what is found without it is."""

    words: str
    address: str


def chips(search: Search, tree: Tree, request: MemberRequest) -> list[Chip]:
    """What was chosen of the facets, each with a way to let it go."""
    names = Names(request, tree, search)
    found = []
    for facet in FACETS:
        for value in search.chosen.get(facet.name, ()):
            address = f"{reverse('questions')}?{search.without(facet.name, value)}"
            found.append(Chip(f"{facet.label}: {names.of(facet, value)}", address))
    if search.others:
        found.append(Chip("Of other departments", f"{reverse('questions')}?{replace(search, others=False).address}"))
    if search.archive:
        found.append(Chip("In the archive", f"{reverse('questions')}?{replace(search, archive=False).address}"))
    return found


class Names:
    """What the values of facets are called in a department."""

    def __init__(self, request: MemberRequest, tree: Tree, search: Search):
        self.department, self.tree, self.search = request.membership.department, tree, search
        self._people: dict[str, str] | None = None

    def of(self, facet: Facet, value: str) -> str:
        if facet.words is not None:
            return facet.words[facet.read(value)]
        named = getattr(self, facet.name, None)
        return str(named(value)) if named is not None else value

    def topic(self, value: str) -> str:
        topic = self.tree.topics.get(int(value))
        return topic.name if topic is not None else "a topic that is gone"

    def level(self, value: str) -> str:
        names = self.department.level_names
        return f"{value} {names[int(value) - 1]}" if int(value) <= len(names) else value

    def demand(self, value: str) -> str:
        return dict(self.department.demands).get(int(value), f"demand {value}")

    def marks(self, value: str) -> str:
        plain = value.rstrip("0").rstrip(".") if "." in value else value
        return from_document(plain, self.department.habits)

    def owner(self, value: str) -> str:
        if self._people is None:
            school = self.department.school_id
            # one by one by the index: whoever asked for all their questions would read the whole bank
            owns = Found.objects.filter(owner=OuterRef("pk"), department=self.department)
            people = User.objects.filter(Exists(owns), school=school, studies=False)
            self._people = {str(pk): name for pk, name in people.values_list("pk", "name")}
        return self._people.get(value, "somebody else")


@dataclass(frozen=True)
class Offer:
    """A value of a facet: what stands for it in the address, what it is called, how many questions have it, whether it
    is chosen, and, of a topic, how far down in the tree it stands."""

    value: str
    words: str
    count: int
    chosen: bool
    height: int = 0


@member
@require_GET
def facets(request: MemberRequest) -> HttpResponse:
    """How many questions there are of each value of every facet, beside what is chosen of the others; all counted."""
    search = Search.of(request.GET)
    hunt = Hunt(search, request.membership.department)
    total, counted = counts(hunt)
    names = Names(request, hunt.tree, search)
    offered = [(facet, offers(facet, counted[facet.name], search, names)) for facet in FACETS]
    elsewhere = 0
    if not search.archive and others(hunt.department).exists():
        elsewhere = Hunt(replace(search, chosen={}, others=True), hunt.department).among().count()
    context = {
        "elsewhere": elsewhere,
        "facets": [(facet, values) for facet, values in offered if worth_showing(values)],
        "total": total,
        "search": search,
    }
    return render(request, "bank/_facets.html", context)


def worth_showing(values: list[Offer]) -> bool:
    """Whether there is anything to choose."""
    return sum(1 for each in values if each.count) > 1 or any(each.chosen for each in values)


def offers(facet: Facet, counted: dict[str, int], search: Search, names: Names) -> list[Offer]:
    """The values of a facet that are offered, in their order."""
    chosen = search.chosen.get(facet.name, ())
    if facet.name == "topic":
        return topic_offers(counted, chosen, names)

    if facet.name == "marks":
        counted = {as_chosen(facet, value): count for value, count in counted.items()}
        chosen = tuple(as_chosen(facet, value) for value in chosen)
    else:
        counted = {{"True": "yes", "False": "no"}.get(value, value): count for value, count in counted.items()}
    values = {**counted, **{value: 0 for value in chosen if value not in counted}}
    found = [Offer(value, names.of(facet, value), count, value in chosen) for value, count in values.items()]
    found = [each for each in found if each.count or each.chosen]
    if facet.few:
        return found
    if facet.name == "marks":
        return sorted(found, key=lambda each: facet.read(each.value))
    found.sort(key=lambda each: (-each.chosen, -each.count, each.words.casefold()))
    return found[: max(OFFERED, len(chosen))]


def as_chosen(facet: Facet, value: str) -> str:
    """A number as it stands in an address."""
    return f"{facet.read(value).normalize():f}"


def topic_offers(counted: dict[str, int], chosen: tuple[str, ...], names: Names) -> list[Offer]:
    """The subjects, and of those that are chosen, or hold what is chosen, what stands right below."""
    tree, found = names.tree, []
    open_ones = {each for value in chosen for each in tree.way(int(value))}
    subjects = tree.below.get(None, [])
    if len(subjects) == 1:
        open_ones.add(subjects[0].pk)

    def walk(parent: int | None, height: int) -> None:
        for topic in tree.below.get(parent, []):
            value = str(topic.pk)
            if counted.get(value, 0) or topic.pk in open_ones:
                found.append(Offer(value, topic.name, counted.get(value, 0), value in chosen, height))
            if topic.pk in open_ones:
                walk(topic.pk, height + 1)

    walk(None, 0)
    return found


@allowed("bank.keep_search")
@require_POST
def keep_search(request: MemberRequest) -> HttpResponse:
    """Name a search, for oneself or for all of the department."""
    asked = Search.of(QueryDict(request.POST.get("asked", "")[:2_000])).address
    name = " ".join(request.POST.get("name", "").split())[:80]
    address = f"{reverse('questions')}?{asked}"
    if not name:
        messages.error(request, "A search needs a name to be kept.")
        return redirect(address)
    KeptSearch.objects.update_or_create(
        department=request.membership.department,
        user=request.user,
        name=name,
        defaults={"asked": asked, "shared": request.POST.get("shared") == "yes"},
    )
    return redirect(address)


@allowed("bank.keep_search")
@require_POST
def drop_search(request: MemberRequest, pk: int) -> HttpResponse:
    """Forget a search that one has kept."""
    held(request, "bank.drop_keptsearch", KeptSearch.objects.all(), pk=pk).delete()
    return redirect("questions")

"""Reading files of questions, keeping what was chosen of them, and writing such files."""

from __future__ import annotations

import hashlib
import io
import tempfile
import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import timedelta
from decimal import Decimal
from typing import IO, Any

from django.db.models import F, Q
from django.utils import timezone

from vorlage.core.errors import CoreError
from vorlage.core.exchange.archive import (
    Archive,
    ArchiveError,
    Entry,
    Leaving,
    digests_in,
    read_archive,
    write_archive,
)
from vorlage.core.exchange.drafted import place_words
from vorlage.core.exchange.plain import write_plain
from vorlage.core.questions import (
    DocumentError,
    Filing,
    QuestionDocument,
    Unsound,
    folded,
    load_document,
    load_filed,
    read_paths,
    says_the_same,
)
from vorlage.web.bank.models import Done, Judged, Picture, Question, Rubric, Tree
from vorlage.web.bank.models.questions import joined
from vorlage.web.desk.uploads import Kept, NotTaken, taken
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does, nightly

from .models import READING, TAKING, WRITING, Brought, Intake, Outgoing, drop

# so many are looked at between two looks at whether it was stopped
AT_A_TIME = 10
# so many new topics are made at once
MOST_NEW_TOPICS = 500
# a file that nobody takes is put away after so long
KEPT_FOR = timedelta(days=7)
CHANGED_SINCE = "The question was changed while this was being looked at. Bring the file again."


def spooled(stored: Stored | None) -> IO[bytes]:
    """The content of a file, to be read in any order."""
    if stored is None:
        raise JobFailed("The file is not there any more: choose it again.")
    opened = tempfile.TemporaryFile()  # noqa: SIM115 (whoever asked closes it)
    for piece in stored.pieces():
        opened.write(piece)
    opened.seek(0)
    return opened


# reading


@dataclass(frozen=True)
class Known:
    """A picture of a file as it is kept in the bank."""

    digest: str
    media_type: str
    width: int
    height: int


@dataclass
class Reader:
    """Looks at the entries of an archive, one after the other, beside what the department has."""

    intake: Intake
    archive: Archive
    # the identities and the titles that were met in the file, with what stands there
    met: dict[Any, list[Any]] = field(default_factory=dict)
    # the pictures of the file by their hashes there, or why one cannot be taken
    pictures: dict[str, Known | str] = field(default_factory=dict)

    def look_at(self, number: int, entry: Entry) -> Brought:
        """What an entry is, how it stands to the bank, and what is proposed to become of it."""
        brought = Brought(
            intake=self.intake,
            number=number,
            name=entry.name[-300:],
            identity=entry.key,
            state=Brought.State.REFUSED,
            becomes=Brought.Becomes.NOTHING,
        )
        raw: Any = None
        try:
            raw = self.archive.document(entry)
            brought.pictures = self.with_pictures(raw)
            document, filing = load_filed(raw)
            brought.title, brought.filing = document.title, filing.model_dump(mode="json")
            self.compare(brought, document)
        except DocumentError as problem:
            brought.reasons = [f"{place_words(fault.path)}{fault.message}" for fault in problem.faults[:10]]
        except Unsound as problem:
            brought.reasons = problem.reasons[:10]
        except (CoreError, NotTaken) as problem:
            brought.reasons = [str(problem)]
        if brought.reasons and isinstance(raw, dict):
            brought.title = str(raw.get("title") or "")[:200]
        return brought

    def with_pictures(self, raw: Any) -> list[list[str]]:
        """Bring the pictures that a document names; it names them as they are kept from now on. Their hashes in the
        file and in the bank."""
        found = []
        named = list(dict.fromkeys(digests_in(raw)))
        for digest in named:
            known = self.known_picture(digest)
            for each in raw["pictures"]:
                if isinstance(each, dict) and each.get("digest") == digest:
                    each |= {"digest": known.digest, "width": known.width, "height": known.height}
            found.append([digest, known.digest])
        return found

    def known_picture(self, digest: str) -> Known:
        """Raises ``NotTaken``."""
        if digest not in self.pictures:
            self.pictures[digest] = self.looked_up(digest)
        known = self.pictures[digest]
        if isinstance(known, str):
            raise NotTaken(known)
        return known

    def looked_up(self, digest: str) -> Known | str:
        own = Picture.objects.filter(department=self.intake.department, file=digest).first()
        if own is not None:
            return Known(digest, own.media_type, own.width, own.height)
        try:
            kept = picture_of(self.archive, digest)
        except (CoreError, NotTaken) as problem:
            return str(problem)
        if kept is None:
            return "A picture of this question is not in the file."
        return Known(hashlib.sha256(kept.content).hexdigest(), kept.media_type, kept.width, kept.height)

    def compare(self, brought: Brought, document: QuestionDocument) -> None:
        """Whether the question is here already, by its identity or by what it says, and judge it as what it would
        become. Raises ``Unsound``."""
        plain = document.model_dump(mode="json")
        for key in filter(None, [brought.identity, ("title", document.title)]):
            before = self.met.setdefault(key, [])
            if any(says_the_same(plain, other) for other in before):
                raise NotTaken("The same question stands before this one in the file.")
            before.append(plain)
        there = self.found(brought.identity, document.title, plain)
        if there is not None:
            brought.question = there
            if there.newest.holds(document):
                brought.state = Brought.State.SAME
                brought.document, brought.key, brought.facts = plain, there.key, {"sheet": there.newest.sheet}
                brought.facts |= {"marks": str(there.newest.marks), "kinds": there.newest.kinds}
                return
            document = joined(document, there.newest)
            judged = Judged.of(document, there.key, there.latest + 1)
            brought.state = Brought.State.CHANGED
        else:
            taken_already = brought.identity and Question.objects.filter(key=brought.identity).exists()
            key = uuid.uuid4() if taken_already or brought.identity is None else brought.identity
            judged = Judged.of(document, key, 1)
            brought.state, brought.becomes = Brought.State.NEW, Brought.Becomes.QUESTION
        keep_judged(brought, judged)

    def found(self, identity: uuid.UUID | None, title: str, plain: dict[str, Any]) -> Question | None:
        """The question of the department that this is: of the same identity, or else one that says the same."""
        own = Question.objects.filter(department=self.intake.department).select_related("current")
        if identity is not None:
            known = (
                own.filter(Q(key=identity) | Q(came_as=identity))
                .order_by(F("archived").asc(nulls_first=True), "pk")
                .first()
            )
            if known is not None:
                return known
        for question in own.filter(current__title=title)[:20]:
            if says_the_same(question.newest.document, plain):
                return question
        return None


def keep_judged(brought: Brought, judged: Judged) -> None:
    brought.document, brought.key = judged.document.model_dump(mode="json"), judged.key
    brought.revision, brought.prints = judged.number, judged.prints
    brought.facts = judged.facts | {"marks": str(judged.facts["marks"])}


def judged_again(brought: Brought) -> Judged:
    """What was kept of a judgement."""
    facts = brought.facts | {"marks": Decimal(brought.facts["marks"])}
    if brought.document is None or brought.key is None:
        raise JobFailed(CHANGED_SINCE)
    return Judged(load_document(brought.document), brought.key, brought.revision, facts, brought.prints)


def picture_of(archive: Archive, digest: str) -> Kept | None:
    """A picture of an archive as it is kept: as it is where it comes from here, decoded and written anew otherwise.
    Raises ``ArchiveError``, ``NotTaken``."""
    content = archive.picture(digest)
    if content is None:
        return None
    ours = Picture.objects.filter(file=digest).first()
    if ours is not None:
        return Kept(content, ours.media_type, ours.width, ours.height)
    return taken(io.BytesIO(content), len(content))


@does(READING)
def read_intake(job: Job) -> None:
    """Look at everything in a file; what was found is kept together at the end."""
    intake = Intake.objects.select_related("department", "file").get(pk=job.arguments["intake"])
    with spooled(intake.file) as file:
        try:
            archive = read_archive(file, intake.name)
        except ArchiveError as problem:
            raise JobFailed(str(problem)) from problem
        Job.objects.filter(pk=job.pk).update(total=len(archive.entries))
        reader, found = Reader(intake, archive), []
        for number, entry in enumerate(archive.entries, start=1):
            if number % AT_A_TIME == 1:
                job.note(number - 1, "Looking at the questions")
            found.append(reader.look_at(number, entry))
        with job.finishing():
            Intake.objects.filter(pk=intake.pk).update(rubrics=archive.rubrics)
            Brought.objects.bulk_create(found, batch_size=200)


# taking


@does(TAKING)
def take_intake(job: Job) -> None:
    """Keep what was chosen of a file, all of it or nothing."""
    intake = Intake.objects.select_related("department__school", "file", "user").get(pk=job.arguments["intake"])
    chosen = list(intake.brought.exclude(becomes=Brought.Becomes.NOTHING).select_related("question__current"))
    instead = read_paths(intake.topics)
    keys = [brought.key for brought in chosen]
    there = set(Question.objects.filter(key__in=keys).values_list("key", flat=True))
    new: list[tuple[Brought, Judged, Filing]] = []
    newer: list[tuple[Brought, Judged]] = []
    for number, brought in enumerate(chosen):
        if number % AT_A_TIME == 0:
            job.note(number, "Proving")
        filing = Filing.model_validate(brought.filing | ({"topics": instead} if instead else {}))
        try:
            if brought.becomes == Brought.Becomes.REVISION:
                newer.append((brought, judged_now(brought)))
            else:
                new.append((brought, judged_apart(brought, there), filing))
        except Unsound as problem:
            raise JobFailed(f"“{brought.title}”: {problem}") from problem
    check_topics(intake, [filing for _, _, filing in new])
    job.note(len(chosen), "Storing")
    with spooled(intake.file) as file, job.finishing():
        bring_pictures(intake, read_archive(file, intake.name), chosen)
        made = Question.keep_new(intake.department, intake.user, [(judged, filing) for _, judged, filing in new])
        for question, (brought, _, _) in zip(made, new):
            question.came_as, question.origin_id = brought.identity, origin_of(brought)
            brought.question = question
        Question.objects.bulk_update(made, ["came_as", "origin"], batch_size=500)
        Brought.objects.bulk_update([brought for brought, _, _ in new], ["question"], batch_size=500)
        for brought, judged in newer:
            known = question_of(brought)
            Question.save_revision(
                intake.department, intake.user, judged.document, known.filing, known, judged=judged,
                note=f"From {intake.name}",
            )  # fmt: skip
        bring_rubrics(intake)
        if made:
            remember(intake, made)
        Intake.objects.filter(pk=intake.pk).update(file=None)
        drop(intake.file)


def judged_apart(brought: Brought, there: set[uuid.UUID]) -> Judged:
    """A question that comes as a new one; ``there`` are identities that are taken. Raises ``Unsound``."""
    if brought.state == Brought.State.NEW and brought.key not in there:
        return judged_again(brought)
    # under an identity of its own its draws are others
    return Judged.of(load_document(brought.document), uuid.uuid4(), 1)


def question_of(brought: Brought) -> Question:
    """The question that it is here."""
    if brought.question is None:
        raise JobFailed(CHANGED_SINCE)
    return brought.question


def judged_now(brought: Brought) -> Judged:
    """A new revision of a question that is here. Raises ``Unsound``."""
    question = question_of(brought)
    if question.latest + 1 == brought.revision:
        return judged_again(brought)
    return Judged.of(load_document(brought.document), question.key, question.latest + 1)


def origin_of(brought: Brought) -> int | None:
    """The revision of which a copy is one."""
    return brought.question.current_id if brought.question is not None else None


def check_topics(intake: Intake, filings: list[Filing]) -> None:
    there = {folded(path) for path in Tree(intake.department).paths}
    new = {folded(path) for filing in filings for path in filing.topics} - there
    if len(new) > MOST_NEW_TOPICS:
        raise JobFailed(
            f"{len(new)} topics of this file are not in the tree of the department; at most {MOST_NEW_TOPICS} are made "
            "at once. Choose a topic under which all of it is filed."
        )


def bring_pictures(intake: Intake, archive: Archive, chosen: list[Brought]) -> None:
    """Keep the pictures of what was chosen, and give them to the department."""
    wanted = {old: new for brought in chosen for old, new in brought.pictures}
    held = set(
        Picture.objects.filter(department=intake.department, file__in=wanted.values()).values_list("file", flat=True)
    )
    for old, new in wanted.items():
        if new in held:
            continue
        kept = picture_of(archive, old)
        if kept is None:
            raise JobFailed("A picture is not in the file any more. Bring the file again.")
        values = {"media_type": kept.media_type, "width": kept.width, "height": kept.height}
        Picture.objects.get_or_create(
            department=intake.department, file_id=Stored.keep(kept.content).digest, defaults=values
        )


def bring_rubrics(intake: Intake) -> None:
    """Keep the rubrics of names that the department does not have."""
    for name, text in intake.rubrics.items():
        Rubric.objects.get_or_create(department=intake.department, name=name, defaults={"text": text})


def remember(intake: Intake, made: list[Question]) -> None:
    """What was brought can be put out of the way again at once: as if each had come out of the archive."""
    now = timezone.now().isoformat()
    count = len(made)
    Done.objects.create(
        user=intake.user,
        department=intake.department,
        words=f"Brought in from {intake.name[:120]}: {count} question{'' if count == 1 else 's'}.",
        before={"column": "archived", "questions": [[question.pk, now, None] for question in made]},
    )


@nightly
def put_old_ones_away() -> None:
    """Forget what nobody took, and what was taken out long ago."""
    before = timezone.now() - KEPT_FOR
    for intake in Intake.objects.filter(created__lt=before):
        intake.put_away()
    for outgoing in Outgoing.objects.filter(created__lt=before):
        file = outgoing.file
        outgoing.delete()
        drop(file)


# writing


def leaving(questions: list[int]) -> Iterator[Leaving]:
    """Questions as they leave, in this order."""
    for start in range(0, len(questions), 100):
        stretch = questions[start : start + 100]
        found = {each.pk: each for each in Question.objects.filter(pk__in=stretch).select_related("current")}
        for pk in stretch:
            if pk in found:
                question = found[pk]
                document = load_document(question.newest.document)
                yield Leaving(question.key, question.latest, document, question.filing)


def picture_content(digest: str) -> tuple[bytes, str] | None:
    picture = Picture.objects.filter(file=digest).select_related("file").first()
    return (picture.file.read(), picture.media_type) if picture is not None else None


def written(outgoing: Outgoing, file: IO[bytes], noted: Callable[[int], None]) -> list[str]:
    """Write the questions into a file, telling how many are done; what could not be said, in words."""
    told = noting(leaving(outgoing.questions), noted)
    if outgoing.way == "archive":
        rubrics = Rubric.objects.filter(department=outgoing.department).values_list("name", "text")
        write_archive(file, told, picture_content, rubrics)
        return []
    found = [(each.document, each.filing) for each in told]
    file.write(write_plain(found, outgoing.department.habits).encode())
    shown = sorted({document.title for document, _ in found if document.pictures})
    return [f"The picture of “{title}” does not come with a text: take the documents out for that." for title in shown]


def noting(questions: Iterator[Leaving], noted: Callable[[int], None]) -> Iterator[Leaving]:
    for number, each in enumerate(questions):
        if number % AT_A_TIME == 0:
            noted(number)
        yield each


@does(WRITING)
def write_outgoing(job: Job) -> None:
    """Write a file of questions."""
    outgoing = Outgoing.objects.select_related("department").get(pk=job.arguments["outgoing"])
    with tempfile.TemporaryFile() as file:
        report = written(outgoing, file, lambda number: job.note(number, "Writing"))
        with job.finishing():
            Outgoing.objects.filter(pk=outgoing.pk).update(file=Stored.keep(file), report=report)

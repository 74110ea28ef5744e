"""Bringing questions in and taking them out: looked at first, kept together or not at all."""

import io
import json
import uuid
import zipfile
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.urls import reverse
from PIL import Image

from tests.core.test_exchange import KEYED, PASTED, packed, paragraph, word
from vorlage.core.exchange.archive import CONTENTS, FORMAT, filed_document
from vorlage.core.questions import load_document
from vorlage.library import samples
from vorlage.web.bank.models import Done, Found, Picture, Question, Revision, Rubric, Topic, Worded
from vorlage.web.desk.models import Draft
from vorlage.web.exchange.models import Brought, Intake, Outgoing
from vorlage.web.exchange.tasks import put_old_ones_away
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import perform

from .samples import department, person, question
from .test_bank import Bank, filed

TWELVE = "\n".join(
    f"{k}. A crate of mass {k + 20} kg is lifted 4 m. How much work is done?\nAnswer: {(k + 20) * 4 * 9.81:.0f} J\n"
    for k in range(1, 13)
)


def png(colour: str) -> bytes:
    written = io.BytesIO()
    Image.new("RGB", (40, 30), colour).save(written, "PNG")
    return written.getvalue()


class Exchange(Bank):
    def perform(self) -> Job:
        job = Job.objects.latest("pk")
        perform(job.pk)
        job.refresh_from_db()
        return job

    def send(self, content: bytes | io.BytesIO, name: str = "bank.zip") -> Intake | None:
        """Bring a file and let the worker look at it."""
        content = content if isinstance(content, bytes) else content.getvalue()
        self.client.post(reverse("bring"), {"file": SimpleUploadedFile(name, content)})
        self.perform()
        return Intake.objects.first()

    def take(self, intake: Intake, **more: Any) -> Job:
        self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "take", **more})
        return self.perform()

    def decide(self, intake: Intake, becomes: str, **meant: Any) -> HttpResponse:
        return self.client.post(reverse("decide", args=[intake.pk]), {"becomes": becomes, **meant})

    def take_out(self, *questions: Question, way: str = "documents") -> bytes:
        answer = self.client.post(reverse("take-out"), {"do": way, "question": [str(each.pk) for each in questions]})
        return b"".join(answer.streaming_content) if answer.streaming else answer.content


class Texts(Exchange):
    def test_twelve_pasted_questions_are_twelve_drafts(self) -> None:
        page = self.client.post(reverse("bring"), {"text": TWELVE})
        found = page.context["found"]
        self.assertEqual((len(found.questions), page.context["takeable"]), (12, 12))
        self.assertTrue(all(each.preview for each in found.questions))
        self.assertContains(page, "<strong>Key</strong>", 12)
        self.assertContains(page, "Nothing says how many marks: 1.", 1)
        self.assertEqual((Draft.objects.count(), Question.objects.count()), (0, 0))
        chosen = {"text": TWELVE, "question": [str(k) for k in range(1, 13)], "topics": "Physics > Work"}
        self.client.post(reverse("take-brought"), {**chosen, "do": "drafts"})
        drafts = Draft.objects.order_by("-changed", "pk")
        self.assertEqual(len(drafts), 12)
        # a draft opens on the desk as it was looked at
        desk = self.client.get(f"{reverse('new-question')}?draft={drafts[0].key}")
        self.assertContains(desk, "A crate of mass")
        self.assertContains(desk, "Physics ▸ Work")

    def test_the_formula_that_was_picked_lets_a_question_vary(self) -> None:
        page = self.client.post(f"{reverse('formulas-for')}?number=1", {"text": TWELVE})
        self.assertContains(page, 'name="formula-1"')
        formula = page.context["formulas"][0][0].formula
        chosen = {"text": TWELVE, "question": ["1"], "formula-1": formula}
        laid = self.client.post(f"{reverse('laid')}?number=1", chosen)
        self.assertContains(laid, 'class="drawn"')
        self.client.post(reverse("take-brought"), {**chosen, "do": "bank"})
        self.perform()
        self.take(Intake.objects.get())
        kept = Question.objects.get()
        self.assertEqual(
            [each["name"] for each in kept.newest.document["parameters"]],
            ["m", "h"][:2] if "h" in formula else ["m", "d"],
        )
        self.assertGreater(kept.newest.draws or 10**9, 20)
        refused = self.client.post(reverse("take-brought"), {**chosen, "formula-1": "m + d", "do": "drafts"})
        self.assertContains(refused, "This formula does not give the answer", status_code=422)

    def test_what_has_no_answer_waits_on_the_desk(self) -> None:
        page = self.client.post(reverse("bring"), {"text": PASTED})
        self.assertContains(page, "There is no answer yet")
        self.assertContains(page, "“Year 9 Forces” stands before the first question.")
        chosen = {"text": PASTED, "question": ["10"]}
        refused = self.client.post(reverse("take-brought"), {**chosen, "do": "bank"})
        self.assertContains(refused, "There is no answer yet in number 10", status_code=422)
        answer = self.client.post(reverse("take-brought"), {**chosen, "do": "drafts"})
        draft = Draft.objects.get()
        self.assertRedirects(answer, f"{reverse('new-question')}?draft={draft.key}")
        self.assertEqual(draft.fields["parts"][0]["kind"], "number")

    def test_what_is_wrong_loses_nothing_that_was_typed(self) -> None:
        for text, words in [("", "Paste some questions"), ("hello", "no numbers"), ("Name;Question;Answer\n", "")]:
            with self.subTest(text):
                page = self.client.post(reverse("bring"), {"text": text})
                self.assertContains(page, words, status_code=page.status_code)
        chosen = {"text": KEYED, "question": ["1"], "topics": "Nowhere", "do": "drafts"}
        filed(self.physics, self.author, "Wave", "Physics > Waves")
        page = self.client.post(reverse("take-brought"), chosen)
        self.assertContains(page, "There is no topic “Nowhere” yet", status_code=422)
        self.assertContains(page, "What is 15% of 240?", status_code=422)
        self.assertEqual(page.context["ticked"], {1})
        page = self.client.post(reverse("take-brought"), {"text": KEYED, "do": "drafts"})
        self.assertContains(page, "No question is ticked.", status_code=422)
        self.assertEqual(Draft.objects.count(), 0)

    def test_the_same_page_sent_twice_is_taken_once(self) -> None:
        chosen = {"text": TWELVE, "question": ["1", "2"], "do": "drafts", "once": str(uuid.uuid4())}
        for _ in range(2):
            self.client.post(reverse("take-brought"), chosen)
        self.assertEqual(Draft.objects.count(), 2)

    def test_tables_row_by_row(self) -> None:
        template = self.client.get(reverse("table-template"))
        self.assertEqual(template.headers["Content-Type"], "text/csv")
        page = self.client.post(reverse("bring"), {"file": SimpleUploadedFile("q.csv", template.content)})
        self.assertEqual([each.takeable for each in page.context["found"].questions], [True] * 4)
        text = template.content.decode("utf-8-sig") + "Physics,,,,7,,,,,,,,,,,\n"
        page = self.client.post(reverse("bring"), {"text": text})
        self.assertContains(page, "There is no question in this row.")
        good = [str(each.number) for each in page.context["found"].questions if each.takeable]
        self.client.post(
            reverse("take-brought"), {"text": page.context["found"].text, "question": good, "do": "drafts"}
        )
        self.assertEqual(Draft.objects.count(), 4)

    def test_a_document_of_a_word_processor_is_read_as_its_text(self) -> None:
        content = word(paragraph("How heavy is it?", 0) + paragraph("Answer: 5 kg"))
        for name in ("test.docx", "test.odt"):
            page = self.client.post(reverse("bring"), {"file": SimpleUploadedFile(name, content)})
            self.assertEqual([each.drafted.title for each in page.context["found"].questions], ["How heavy is it?"])
        page = self.client.post(reverse("bring"), {"file": SimpleUploadedFile("test.docx", b"PK\x03\x04 nonsense")})
        self.assertContains(page, "damaged", status_code=422)

    def test_a_reader_brings_nothing_in(self) -> None:
        self.client.force_login(self.reader)
        self.assertEqual(
            self.client.post(reverse("take-brought"), {"text": TWELVE, "question": ["1"]}).status_code, 403
        )
        self.assertNotContains(self.client.get(reverse("questions")), reverse("bring"))


class Files(Exchange):
    def test_out_and_in_again_elsewhere_with_pictures_rubrics_and_filing(self) -> None:
        digest = Stored.keep(png("navy")).digest
        values = {"media_type": "image/png", "width": 40, "height": 30}
        Picture.objects.create(department=self.physics, file_id=digest, **values)
        Rubric.objects.create(department=self.physics, name="Reasons", text="Why | 0 no | 1 yes")
        pictures = [{"name": "quay", "digest": digest, "width": 40, "height": 30}]
        one = question(self.physics, self.author, wording="![the quay](image:quay) $m$ $h$", pictures=pictures)
        two = filed(self.physics, self.author, "Wave", "Physics > Waves", tags=("sea",), level=3)
        content = self.take_out(one, two)
        chemistry = department("Chemistry")
        self.client.force_login(person("chemist", chemistry))
        intake = self.send(content) or self.fail()
        self.assertEqual([each.state for each in intake.brought.all()], ["new", "new"])
        page = self.client.get(reverse("intake", args=[intake.pk]))
        self.assertContains(page, "Take 2")
        self.assertContains(page, "Reasons")
        whole = self.client.get(reverse("brought", args=[intake.pk, 1]))
        self.assertContains(whole, "<strong>Key</strong>")
        self.assertEqual(self.take(intake).state, "done")
        made = {each.title: each for each in Question.objects.filter(department=chemistry)}
        self.assertEqual(made["Wave"].filing, two.filing)
        for before in (one, two):
            self.assertTrue(made[before.title].newest.holds(load_document(before.newest.document)))
            self.assertEqual((made[before.title].came_as, made[before.title].latest), (before.key, 1))
        self.assertTrue(Picture.objects.filter(department=chemistry, file=digest).exists())
        self.assertTrue(Rubric.objects.filter(department=chemistry, name="Reasons").exists())
        self.assertEqual(Found.objects.filter(question__department=chemistry).count(), 2)
        self.assertEqual(Worded.objects.filter(found__question__department=chemistry).count(), 2)
        self.assertContains(self.client.get(f"{reverse('questions')}?search=wave"), "Wave")
        # and all of it is undone at once
        self.client.post(reverse("take-back", args=[Done.objects.get().pk]))
        self.assertEqual(Question.objects.filter(department=chemistry, archived=None).count(), 0)

    def test_a_picture_from_elsewhere_is_decoded_anew(self) -> None:
        content = png("teal")
        named = __import__("hashlib").sha256(content).hexdigest()
        document, filing = samples()["harbour-crane"]
        raw = filed_document(document, filing)
        raw |= {"wording": raw["wording"] + " ![q](image:quay)",
                "pictures": [{"name": "quay", "digest": named, "width": 9, "height": 9}]}  # fmt: skip
        listing = {"questions": [{"file": "a.json"}], "pictures": [{"digest": named, "file": "p.png"}]}
        intake = self.send(packed({"a.json": json.dumps(raw), "p.png": content}, **listing)) or self.fail()
        self.take(intake)
        kept = Question.objects.get().newest.document["pictures"][0]
        self.assertEqual((kept["width"], kept["height"]), (40, 30))
        self.assertEqual(Picture.objects.get().file_id, kept["digest"])
        # the same file once more is the same
        again = self.send(packed({"a.json": json.dumps(raw), "p.png": content}, **listing)) or self.fail()
        self.assertEqual(again.brought.get().state, "same")
        for files, words in [({"a.json": json.dumps(raw)}, "is not in the file"),
                             ({"a.json": json.dumps(raw), "p.png": b"<svg/>"}, "is not in the file")]:  # fmt: skip
            intake = (
                self.send(packed({**files, "b.json": "{}"}, questions=[{"file": "a.json"}], pictures=[])) or self.fail()
            )
            with self.subTest(words):
                self.assertEqual(
                    intake.brought.get().state, "same" if Picture.objects.filter(file=named) else "refused"
                )

    def test_the_same_file_twice_offers_skip_new_revision_or_copy(self) -> None:
        crane = question(self.physics, self.author)
        wave = filed(self.physics, self.author, "Wave")
        content = self.take_out(crane, wave)
        changed = load_document(crane.newest.document | {"title": "Derrick"})
        Question.save_revision(self.physics, self.author, changed, crane.filing, crane)
        intake = self.send(content) or self.fail()
        states = {each.title: (each.state, each.becomes) for each in intake.brought.all()}
        self.assertEqual(states, {"Harbour crane": ("changed", "nothing"), "Wave": ("same", "nothing")})
        # nothing is chosen: nothing is taken
        self.assertEqual(self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "take"}).status_code, 302)
        self.assertEqual((Question.objects.count(), Revision.objects.count()), (2, 3))
        # what does not fit is not decided
        self.decide(intake, "revision", state="same")
        self.decide(intake, "revision", state="changed")
        self.decide(intake, "copy", number=str(intake.brought.get(title="Wave").number))
        self.assertEqual(
            {each.title: each.becomes for each in intake.brought.all()}, {"Harbour crane": "revision", "Wave": "copy"}
        )
        self.assertEqual(self.take(intake).state, "done")
        crane.refresh_from_db()
        self.assertEqual((crane.latest, crane.title), (3, "Harbour crane"))
        copy = Question.objects.exclude(pk__in=[crane.pk, wave.pk]).get()
        self.assertEqual((copy.title, copy.origin, copy.came_as), ("Wave", wave.newest, wave.key))
        # parts and parameters are those that they were
        first, last = crane.revisions.get(number=1), crane.newest
        self.assertEqual(
            [each["id"] for each in first.document["parts"]], [each["id"] for each in last.document["parts"]]
        )
        # the content of the file is gone when it was taken
        intake.refresh_from_db()
        self.assertIsNone(intake.file)

    def test_what_cannot_be_taken_says_why_and_hinders_nothing_else(self) -> None:
        document, filing = samples()["harbour-crane"]
        good = json.dumps(filed_document(document, filing))
        broken = filed_document(document, filing)
        broken["title"], broken["parts"][0]["answer"]["key"] = "Broken", "E +"
        files = {"good.json": good, "broken.json": json.dumps(broken), "no.json": "{", "twice.json": good,
                 "old.json": json.dumps({"format": "vorlage-question-99", "title": "From the future"})}  # fmt: skip
        intake = self.send(packed(files)) or self.fail()
        states = {each.name: (each.state, " ".join(each.reasons)) for each in intake.brought.all()}
        self.assertEqual(states["good.json"], ("new", ""))
        for name, words in [("broken.json", "E +"), ("no.json", "no JSON"), ("twice.json", "stands before"),
                            ("old.json", "not known here")]:  # fmt: skip
            with self.subTest(name):
                self.assertEqual(states[name][0], "refused")
                self.assertTrue(words in states[name][1] or (name == "broken.json" and states[name][1]), states[name])
        self.assertContains(self.client.get(reverse("intake", args=[intake.pk])), "From the future")
        self.take(intake)
        self.assertEqual(Question.objects.count(), 1)

    def test_hostile_archives_leave_nothing(self) -> None:
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as made:
            for k in range(80):
                made.writestr(f"{k}.json", b"0" * 8_000_000)
        before = (Stored.objects.count(), Topic.objects.count())
        for content, words in [(bomb.getvalue(), "more than 600 MB"), (b"PK\x03\x04 nonsense", "damaged"),
                               (packed({}, questions=[{"file": "../x"}]).getvalue(), "not in it")]:  # fmt: skip
            with self.subTest(words):
                intake = self.send(content) or self.fail()
                self.assertEqual(intake.stage, "failed")
                self.assertContains(self.client.get(reverse("intake", args=[intake.pk])), words)
                self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "put-away"})
        self.assertEqual((Intake.objects.count(), Brought.objects.count(), Question.objects.count()), (0, 0, 0))
        self.assertEqual((Stored.objects.count(), Topic.objects.count()), before)

    def test_what_is_stopped_keeps_nothing(self) -> None:
        content = self.many(20)
        self.client.post(reverse("bring"), {"file": SimpleUploadedFile("bank.zip", content)})
        intake = Intake.objects.get()
        self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "stop"})
        self.assertEqual(self.perform().state, "cancelled")
        self.assertEqual((Intake.objects.count(), Brought.objects.count(), Stored.objects.count()), (0, 0, 0))
        # while it is taken
        intake = self.send(content) or self.fail()
        self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "take"})
        self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "stop"})
        self.assertEqual(self.perform().state, "cancelled")
        self.assertEqual((Question.objects.count(), Topic.objects.count(), Found.objects.count()), (0, 0, 0))
        # and it can be taken after all
        self.assertEqual(self.take(intake, topics="Physics > From elsewhere").state, "done")
        self.assertEqual(Question.objects.count(), 20)
        self.assertEqual({each.filing.topic for each in Question.objects.all()[:3]}, {("Physics", "From elsewhere")})

    def many(self, count: int) -> bytes:
        document, filing = samples()["harbour-crane"]
        files = {
            f"{k}.json": json.dumps(filed_document(document.model_copy(update={"title": f"Crane {k}"}), filing))
            for k in range(count)
        }
        return packed(files).getvalue()

    def test_many_are_kept_with_few_questions_to_the_database(self) -> None:
        intake = self.send(self.many(30)) or self.fail()
        self.client.post(reverse("with-intake", args=[intake.pk]), {"do": "take"})
        with self.assertNumQueries(62):
            self.perform()
        self.assertEqual(Question.objects.count(), 30)

    def test_the_list_of_a_file_asks_the_database_so_often_whatever_is_in_it(self) -> None:
        for count in (2, 40):
            intake = self.send(self.many(count)) or self.fail()
            with self.subTest(count), self.assertNumQueries(8):
                self.client.get(reverse("intake", args=[intake.pk]))
            intake.put_away()

    def test_a_question_changed_meanwhile_is_judged_anew(self) -> None:
        crane = question(self.physics, self.author)
        content = self.take_out(crane)
        for title in ("Derrick", "Winch"):
            changed = load_document(crane.newest.document | {"title": title})
            Question.save_revision(self.physics, self.author, changed, crane.filing, crane)
            crane.refresh_from_db()
            if title == "Derrick":
                intake = self.send(content) or self.fail()
        self.decide(intake, "revision", state="changed")
        self.take(intake)
        crane.refresh_from_db()
        self.assertEqual((crane.latest, crane.title), (4, "Harbour crane"))

    def test_too_many_new_topics_are_refused_as_a_whole(self) -> None:
        document, filing = samples()["harbour-crane"]
        files = {
            f"{k}.json": json.dumps(
                filed_document(
                    document.model_copy(update={"title": f"Crane {k}"}),
                    filing.model_copy(update={"topics": tuple(("Physics", f"T{k}", f"O{j}") for j in range(10))}),
                )
            )
            for k in range(51)
        }
        intake = self.send(packed(files)) or self.fail()
        job = self.take(intake)
        self.assertIn("510 topics of this file", job.reason)
        self.assertEqual((job.state, Question.objects.count(), Topic.objects.count()), ("failed", 0, 0))

    def test_files_that_nobody_takes_are_put_away(self) -> None:
        intake = self.send(self.many(1)) or self.fail()
        put_old_ones_away()
        self.assertEqual(Intake.objects.count(), 1)
        Intake.objects.filter(pk=intake.pk).update(created="2020-01-01T00:00Z")
        put_old_ones_away()
        self.assertEqual((Intake.objects.count(), Stored.objects.count()), (0, 0))


class Leaving(Exchange):
    def test_a_few_are_sent_at_once_as_text_that_reads_back(self) -> None:
        crane, wave = question(self.physics, self.author), filed(self.physics, self.author, "Wave", "Physics > Waves")
        text = self.take_out(crane, wave, way="text").decode()
        page = self.client.post(reverse("bring"), {"text": text})
        read = {each.drafted.title: each.document for each in page.context["found"].questions}
        self.assertEqual(set(read), {"Harbour crane", "Wave"})
        self.assertTrue(crane.newest.holds(read["Harbour crane"]))

    def test_many_are_written_by_the_worker(self) -> None:
        from vorlage.web.exchange import views

        questions = [filed(self.physics, self.author, f"Wave {k}") for k in range(3)]
        limit, views.AT_ONCE = views.AT_ONCE, 2
        try:
            answer = self.client.post(reverse("take-out"), {"do": "documents", "all": "yes", "asked": "search=wave"})
        finally:
            views.AT_ONCE = limit
        outgoing = Outgoing.objects.get()
        self.assertRedirects(answer, reverse("outgoing", args=[outgoing.pk]))
        self.assertContains(self.client.get(reverse("outgoing", args=[outgoing.pk])), "0 of 3</progress>")
        self.perform()
        answer = self.client.get(reverse("outgoing-file", args=[outgoing.pk]))
        content = b"".join(answer.streaming_content) if answer.streaming else answer.content
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            listing = json.loads(archive.read(CONTENTS))
        self.assertEqual(listing["format"], FORMAT)
        self.assertEqual({each["key"] for each in listing["questions"]}, {str(each.key) for each in questions})
        self.client.force_login(self.colleague)
        self.assertEqual(self.client.get(reverse("outgoing-file", args=[outgoing.pk])).status_code, 404)
        self.client.force_login(self.author)
        self.client.post(reverse("take-out"), {"do": "documents", "question": []})
        self.assertEqual(Outgoing.objects.count(), 1)

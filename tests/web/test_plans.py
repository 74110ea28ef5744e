"""Plans on the web: sections, pools, rules, marks, what is aimed at, taking back; and sets that follow others."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Any
from unittest import mock

import pypdfium2
from django.test import TestCase
from django.urls import reverse

from vorlage.core.documents import CHOICES
from vorlage.core.forms import KeyFailure
from vorlage.core.questions import Filing, load_document
from vorlage.web.bank.models import Found, KeptSearch, Pool, Question, Tree
from vorlage.web.forms.models import Form, FormItem, FormSet, ItemKey
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import perform
from vorlage.web.plans.coverage import grid_of, set_target
from vorlage.web.plans.models import Test, snapshot

from .samples import department, frozen, made, person, question, test_of


class Plans(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.questions = [
            cls.filed(f"Question {k}", ["Moments", "Waves"][k % 2], 1 + k % 3, str(1 + k % 3)) for k in range(6)
        ]

    @classmethod
    def filed(cls, title: str, topic: str, level: int, marks: str, **changes: Any) -> Question:
        made = question(cls.physics, cls.author, "foghorn", title=title, **changes)
        document = made.newest.document
        document["parts"][0]["marks"] = marks
        filing = Filing(topics=(("Physics", topic),), level=level, minutes=Decimal(3))
        return Question.save_revision(cls.physics, cls.author, load_document(document), filing, question=made).question

    def setUp(self) -> None:
        self.client.force_login(self.author)
        self.test = test_of(self.physics, self.author, *self.questions[:3])

    def post(self, address: str, /, *arguments: Any, status: int = 302, **fields: Any) -> Any:
        answer = self.client.post(reverse(address, args=[self.test.pk, *arguments]), fields)
        self.assertEqual(answer.status_code, status)
        return answer

    def changed(self, name: str, /, *arguments: Any, **fields: Any) -> str:
        """The piece that htmx gets."""
        address = reverse(name, args=[self.test.pk, *arguments])
        return " ".join(self.client.post(address, fields, headers={"HX-Request": "true"}).content.decode().split())

    def page(self, name: str, *arguments: Any, **asked: Any) -> str:
        answer = self.client.get(reverse(name, args=arguments), asked)
        self.assertEqual(answer.status_code, 200)
        return " ".join(answer.content.decode().split())

    def titles(self) -> list[list[str]]:
        """The titles of every section, its own first."""
        found: dict[int, list[str]] = {section.pk: [section.title] for section in self.test.sections.all()}
        for held in self.test.ordered():
            found[held.section.pk].append(held.title)
        return list(found.values())

    def place(self, number: int) -> int:
        return self.test.ordered()[number].pk


class Sections(Plans):
    def test_places_go_from_one_to_the_next(self) -> None:
        self.post("add-section")
        self.assertEqual(self.titles(), [["Part A", "Question 0", "Question 1", "Question 2"]])
        self.post("add-section")
        self.post("move-place", self.place(2), to="down")
        self.assertEqual(self.titles()[1], ["Part B", "Question 2"])
        first, second = self.test.sections.order_by("position")
        order = [f"s{second.pk}", self.place(0), f"s{first.pk}", self.place(2), self.place(1), "x", "s99"]
        self.post("arrange", place=order)
        self.assertEqual(self.titles(), [["Part B", "Question 0"], ["Part A", "Question 2", "Question 1"]])
        self.post("move-section", first.pk, to="up")
        self.assertEqual(self.titles()[0][0], "Part A")
        self.post("remove-section", first.pk)
        self.assertEqual(self.titles(), [["Part B", "Question 2", "Question 1", "Question 0"]])
        # the last one stays, and says nothing
        self.post("remove-section", second.pk)
        self.assertEqual(self.titles()[0][0], "")

    def test_what_they_say_stands_in_the_plan_and_on_every_paper(self) -> None:
        section = self.test.first_section()
        said = {"title": "In the head", "text": "One line each.", "calculator": "no", "new_page": "on", "mixed": "on"}
        self.post("edit-section", section.pk, **said)
        section.refresh_from_db()
        self.assertEqual((section.calculator, section.new_page, section.mixed), (False, True, True))
        page = self.page("test", self.test.pk)
        for words in ("In the head", "One line each.", "no calculator", "mixed in every form"):
            self.assertIn(words, page)
        form_set = frozen(self.test, 8)
        orders = {
            tuple(form.items.order_by("position").values_list("slot", flat=True)) for form in form_set.forms.all()
        }
        self.assertGreater(len(orders), 2)
        section.refresh_from_db()
        self.assertEqual(form_set.sections.get().title, "In the head")
        refused = self.changed("edit-section", section.pk, title="漢" * 3, text="kept")
        self.assertIn('value="kept"', refused)
        self.assertIn("field-error", refused)

    def test_places_are_put_in_order_within_them(self) -> None:
        for each in self.questions[3:]:
            self.test.add(each)
        self.post("sort-places", by="marks")
        self.assertEqual([str(held.marks) for held in self.test.ordered()], ["1", "1", "2", "2", "3", "3"])
        self.post("sort-places", by="topic")
        self.assertEqual([held.title[-1] for held in self.test.ordered()], ["3", "1", "5", "0", "4", "2"])
        self.post("sort-places", by="level")
        self.assertEqual([held.revision.question.level for held in self.test.ordered()], [1, 1, 2, 2, 3, 3])
        self.post("sort-places", by="luck", status=400)


class Pools(Plans):
    def test_ticked_questions_become_a_pool_and_more_go_into_it(self) -> None:
        self.post("add-places", question=[each.pk for each in self.questions[3:5]], into="new")
        pool = self.test.places.get(pool=True)
        self.post("add-place", self.questions[5].pk, into=f"p{pool.pk}")
        self.post("add-places", question=[self.questions[5].pk, self.questions[4].pk], into=f"p{pool.pk}")
        self.assertEqual(pool.candidates.count(), 3)
        self.assertIn("different marks", self.page("test", self.test.pk))
        refused = self.client.post(reverse("make-forms", args=[self.test.pk]), {"count": "3"})
        self.assertContains(refused, "have different marks", status_code=422)
        self.post("edit-place", pool.pk, take="2", name="Waves and moments", marks="1,5")
        page = self.page("test", self.test.pk)
        self.assertIn("2 of 3: Waves and moments", page)
        self.assertIn("4–5", page)
        self.assertEqual(Test.objects.with_totals().get(pk=self.test.pk).total_marks, 9)
        form_set = frozen(self.test, 12)
        chosen = [
            sorted(form.items.filter(slot__gte=3).values_list("candidate__revision__title", flat=True))
            for form in form_set.forms.all()
        ]
        self.assertEqual({len(set(each)) for each in chosen}, {2})
        drawn = [title for each in chosen for title in each]
        self.assertEqual([drawn.count(each.title) for each in self.questions[3:]], [8, 8, 8])
        for key in ItemKey.objects.filter(item__form__form_set=form_set, item__slot__gte=3):
            self.assertEqual([Fraction(part["marks"]) for part in key.parts], [Fraction(3, 2)])
        self.assertIn("Waves and moments", self.page("form-set", form_set.pk))

    def test_a_fixed_place_becomes_a_pool_and_back(self) -> None:
        place = self.place(1)
        self.post("turn-place", place)
        self.post("add-place", self.questions[4].pk, into=f"p{place}")
        self.assertEqual(len(self.test.ordered()[1].candidates), 2)
        self.post("turn-place", place, question=self.questions[4].pk)
        held = self.test.ordered()[1]
        self.assertEqual((held.place.pool, held.title, held.pk), (False, "Question 4", place))
        self.assertEqual(Found.objects.get(pk=self.questions[1].pk).uses, 0)
        candidate = self.test.places.get(pk=place).candidates.get()
        self.post("turn-place", place)
        self.post("remove-candidate", candidate.pk)
        self.assertIn("has no question that could stay", self.changed("turn-place", place))

    def test_a_rule_finds_its_questions_when_forms_are_made(self) -> None:
        counted = self.page("rule-count", self.test.pk, words="foghorn", take="9")
        self.assertIn("6 found", counted)
        self.assertIn("too few for 9", counted)
        self.assertIn("Choose a pool or a search", self.changed("add-pool-place", take="1"))
        self.post("add-pool-place", words="foghorn", take="2")
        place = self.test.places.get(pool=True)
        self.assertEqual((place.rule, place.marks), ("search=foghorn", self.physics.first_marks))
        self.assertIn("2 of 6: foghorn", self.page("test", self.test.pk))
        # three of the six have places of their own, and no question stands twice
        self.post("edit-place", place.pk, take="4", name="foghorn", marks="2")
        self.assertIn("too few questions, since none stands twice", self.page("test", self.test.pk))
        refused = self.client.post(reverse("make-forms", args=[self.test.pk]), {"count": "3"})
        self.assertContains(refused, "none stands twice in a form", status_code=422)
        self.post("edit-place", place.pk, take="3", name="foghorn", marks="2")
        form_set = frozen(self.test, 4)
        for form in form_set.forms.all():
            titles = form.items.values_list("candidate__revision__title", flat=True)
            self.assertEqual(len(set(titles)), 6)
        kept = KeptSearch.objects.create(department=self.physics, user=self.author, name="Loud", asked="level=1")
        self.post("add-pool-place", source=f"search{kept.pk}", take="1")
        self.assertEqual(self.test.places.get(name="Loud").rule, "level=1")
        named = Pool.objects.create(department=self.physics, owner=self.author, name="Three")
        for k, each in enumerate(self.questions[:3]):
            named.pooled.create(question=each, position=k)
        self.assertIn("3 in the pool", self.page("rule-count", self.test.pk, source=f"pool{named.pk}", take="1"))
        self.post("add-pool-place", source=f"pool{named.pk}", take="1")
        self.assertEqual(len(self.test.ordered()[-1].candidates), 3)

    def test_the_tray_becomes_a_pool(self) -> None:
        for each in self.questions[3:]:
            self.client.post(reverse("collect", args=[each.pk]))
        self.client.post(reverse("test-from-tray"), {"test": str(self.test.pk), "take": "2"})
        self.assertEqual([(held.place.take, len(held.candidates)) for held in self.test.ordered()][-1], (2, 3))


class Worth(Plans):
    def test_marks_of_the_place_bonus_and_a_maximum(self) -> None:
        self.post("edit-place", self.place(0), marks="4/3", bonus="")
        refused = self.changed("edit-place", self.place(0), marks="a lot")
        self.assertIn("Marks are a number from 0 to 100", refused)
        self.assertIn('value="a lot"', refused)
        self.post("edit-place", self.place(0), marks="2.5")
        self.post("edit-place", self.place(2), marks="", bonus="on")
        self.client.post(reverse("edit-test", args=[self.test.pk]), {"title": "Sound", "maximum": "60"})
        page = self.page("test", self.test.pk)
        for words in ("4.5 marks", "3 marks of bonus", "scaled to 60", "about 9 minutes"):
            self.assertIn(words, page)
        form_set = frozen(Test.objects.get(pk=self.test.pk), 2)
        total = sum(place.counted for place in form_set.ordered)
        self.assertEqual((total, form_set.maximum), (Fraction(9, 2), 60))
        self.assertIn("scaled to 60", self.page("form-set", form_set.pk))

    def test_wrong_settings_are_told_beside_their_fields(self) -> None:
        answer = self.client.post(
            reverse("edit-test", args=[self.test.pk]), {"title": "", "maximum": "5000", "before": "x"}
        )
        self.assertContains(answer, "A test needs a title", status_code=422)
        self.assertContains(answer, "A number up to 1,000", status_code=422)
        self.assertContains(answer, 'value="5000"', status_code=422)


class TakingBack(Plans):
    def test_every_change_is_a_step_that_can_be_taken_back(self) -> None:
        place, section = self.place(1), self.test.first_section().pk
        more = self.questions[4].pk
        changes: list[tuple[str, list[Any], dict[str, Any]]] = [
            ("add-place", [more], {}), ("add-places", [], {"question": [more, self.questions[5].pk], "into": "new"}),
            ("edit-place", [place], {"marks": "7"}), ("turn-place", [place], {}), ("move-place", [place], {"to": "up"}),
            ("sort-places", [], {"by": "level"}), ("add-section", [], {}), ("add-section", [], {}),
            ("edit-section", [section], {"title": "Other"}), ("remove-section", [section], {}),
            ("remove-place", [place], {}), ("add-pool-place", [], {"words": "foghorn", "take": "1"}),
            ("edit-test", [], {"title": "Other", "instructions": "No talking."}),
        ]  # fmt: skip
        states = [snapshot(self.test)]
        for name, arguments, fields in changes:
            self.post(name, *arguments, **fields)
            self.test.refresh_from_db()
            self.assertNotEqual(snapshot(self.test), states[-1], name)
            states.append(snapshot(self.test))
        uses = dict(Found.objects.values_list("pk", "uses"))
        self.assertEqual(uses[more], 1)
        for before in reversed(states[:-1]):
            step = self.test.steps.first()
            self.post("undo-step", step=step.pk)
            self.assertEqual(snapshot(self.test), before, step.words)
        self.assertEqual(Found.objects.get(pk=more).uses, 0)
        self.assertEqual(self.test.steps.count(), 0)

    def test_only_the_last_one_is_and_what_changes_nothing_is_none(self) -> None:
        self.post("move-place", self.place(0), to="up")
        self.assertEqual(self.test.steps.count(), 0)
        self.post("move-place", self.place(0), to="down")
        self.post("remove-place", self.place(0))
        self.assertIn("Somebody has changed the plan", self.changed("undo-step", step=self.test.steps.last().pk))
        self.assertIn("Taken back: Took out", self.changed("undo-step", step=self.test.steps.first().pk))
        self.assertEqual(self.test.places.count(), 3)


class Copies(Plans):
    def test_a_copy_has_rows_of_its_own_with_the_settings_or_without(self) -> None:
        self.post("add-section")
        self.post("edit-section", self.test.first_section().pk, title="Loud", calculator="no", text="Listen.")
        self.client.post(
            reverse("edit-test", args=[self.test.pk]), {"title": "Sound", "maximum": "60", "before": "Bring ears."}
        )
        set_target(self.test, Tree(self.physics).paths["Physics", "Waves"], 1, Decimal(4))
        made = []
        for settings in ("yes", "no"):
            answer = self.post("copy-test", settings=settings)
            made.append(Test.objects.get(pk=int(answer["Location"].strip("/").split("/")[-1])))
        self.assertEqual([test.title for test in made], ["Sound (copy)", "Sound (copy)"])
        self.assertEqual(
            [(test.maximum, test.before, test.targets.count()) for test in made],
            [(60, "Bring ears.", 1), (None, "", 0)],
        )
        self.assertEqual([test.sections.get().text for test in made], ["Listen.", ""])
        made[0].take_out(made[0].places.first())
        self.assertEqual([test.places.count() for test in (self.test, *made)], [3, 2, 3])


class Looking(Plans):
    def test_the_whole_test_before_any_form_is_made(self) -> None:
        self.post("edit-place", self.place(2), marks="6")
        page = self.page("look-at-test", self.test.pk)
        self.assertEqual(page.count('class="sheet"'), 3)
        self.assertIn("6 marks", page)
        self.assertNotIn("Key", page)
        marker = self.page("look-at-test", self.test.pk, **{"as": "marker", "form": "2"})
        self.assertEqual(marker.count(">Key<"), 3)
        self.assertNotEqual(page, self.page("look-at-test", self.test.pk, form="3"))
        self.assertFalse(Form.objects.exists())

    def test_how_papers_look_is_kept_taken_back_and_frozen(self) -> None:
        usual = {name: next(iter(offered)) for name, offered in CHOICES.items()}
        chosen = {**usual, "language": "de", "cover": "on", "minutes": "45", "materials": "Lineal"}
        wrong = self.post("keep-look", status=422, **{**chosen, "minutes": "0"}).content.decode()
        self.assertIn("greater than or equal to 1", wrong)
        self.assertIn('value="Lineal"', wrong)
        self.assertEqual(self.again().look, {})
        answer = self.post("keep-look", **chosen)
        self.assertEqual(answer["Location"], reverse("test-paper", args=[self.test.pk]))
        look = {"language": "de", "cover": True, "minutes": 45, "materials": "Lineal"}
        self.assertEqual(self.again().look, look)
        self.assertIn('<option value="de" selected>', self.page("test-paper", self.test.pk))
        # what is frozen keeps its look; what is made after it was taken back has none
        first = frozen(self.again(), 1)
        self.post("undo-step", step=self.test.steps.first().pk)
        second = frozen(self.again(), 1)
        self.assertEqual((first.look, second.look), (look, {}))
        words = [self.printed(each) for each in (first, second)]
        self.assertEqual(["Für die Korrektur" in each for each in words], [True, False])
        self.assertEqual(["of 6 marks" in each for each in words], [False, True])
        # a copy with the settings looks the same
        self.post("keep-look", **chosen)
        self.post("copy-test", settings="yes", once="copied")
        self.assertEqual(Test.objects.latest("pk").look, look)

    def test_a_place_has_room_of_its_own(self) -> None:
        wrong = self.changed("edit-place", self.place(0), room="axes", room_height="3")
        self.assertIn("greater than or equal to 10", wrong)
        self.post("edit-place", self.place(0), room="axes", room_height="60")
        first = frozen(self.test, 1)
        place = first.ordered[0]
        self.assertEqual((place.room, place.room_height), ("axes", 60))
        # a set that follows has it too
        answer = self.client.post(reverse("another-set", args=[first.pk]), {"what": "anew"})
        second = FormSet.objects.get(pk=int(answer["Location"].split("/")[-2]))
        self.assertEqual([(each.room, each.room_height) for each in second.ordered][:2], [("axes", 60), ("", None)])
        self.post("undo-step", step=self.test.steps.first().pk)
        self.assertEqual(self.test.ordered()[0].place.room, "")

    def again(self) -> Test:
        return Test.objects.get(pk=self.test.pk)

    def printed(self, made: FormSet) -> str:
        text = pypdfium2.PdfDocument(made.forms.get().paper.read())
        return " ".join(page.get_textpage().get_text_range() for page in text)

    def test_the_paper_is_shown_as_it_is_chosen_before_it_is_kept(self) -> None:
        usual = {name: next(iter(offered)) for name, offered in CHOICES.items()}
        plain = self.page("test-paper-pages", self.test.pk)
        self.assertIn("1 page with the numbers of one draw", plain)
        self.assertEqual(plain.count("data:image/png;base64,"), 1)
        shown = self.page("test-paper-pages", self.test.pk, **usual, cover="on", even="on")
        self.assertEqual(shown.count("data:image/png;base64,"), 2)
        self.assertEqual(self.again().look, {})
        # what cannot be yet leaves the page as it is
        asked = {**usual, "minutes": "-1"}
        answer = self.client.get(reverse("test-paper-pages", args=[self.test.pk]), asked)
        self.assertEqual(answer.status_code, 204)
        empty = Test.objects.create(department=self.physics, author=self.author, title="Nothing yet")
        self.assertIn("no questions in this test yet", self.page("test-paper-pages", empty.pk))

    def test_why_there_is_no_paper_is_said(self) -> None:
        # a question is looked at in many draws before it is kept, so this is seldom
        failure = KeyFailure("3CX", 1, 0, 7, "it has no value")
        with mock.patch("vorlage.web.plans.printing.drawn_forms", side_effect=failure):
            page = self.page("test-paper-pages", self.test.pk)
        self.assertIn("question 2, part 1: in draw 7 the key does not pass its own check (it has no value)", page)

    def test_a_question_written_for_it_comes_to_its_place(self) -> None:
        answer = self.post("write-for-test")
        self.assertEqual(answer["Location"], reverse("new-question"))
        new = self.filed("Written for it", "Waves", 1, "1")
        page = self.page("question", new.pk)
        self.assertIn(f"This question is for “{self.test.title}”", page)
        self.post("add-place", new.pk)
        self.assertEqual(self.titles()[0][-1], "Written for it")
        self.assertNotIn("This question is for", self.page("question", self.questions[5].pk))


class Coverage(Plans):
    def cells(self) -> dict[tuple[str, int], tuple[Fraction, Fraction]]:
        grid = grid_of(self.test, self.test.ordered(), Tree(self.physics))
        return {(row.name, cell.level): (cell.least, cell.most) for row in grid.rows for cell in row.cells if cell.most}

    def test_a_pool_covers_what_every_choice_has_at_least(self) -> None:
        self.assertEqual(self.cells(), {("Moments", 1): (1, 1), ("Waves", 2): (2, 2), ("Moments", 3): (3, 3)})
        # of 3, 4 and 5: waves 1, moments 2, waves 3
        pool = self.test.add_pool(self.test.first_section(), self.questions[3:], 2)
        self.test.places.filter(pk=pool.pk).update(marks=4)
        self.assertEqual(self.cells()["Waves", 1], (0, 4))
        self.test.places.filter(pk=pool.pk).update(take=3)
        self.assertEqual(self.cells()["Waves", 1], (4, 4))
        self.test.places.filter(pk=pool.pk).update(bonus=True)
        self.assertNotIn(("Waves", 1), self.cells())

    def test_what_is_aimed_at_is_typed_into_it(self) -> None:
        waves = Tree(self.physics).paths["Physics", "Waves"]
        piece = self.changed("aim", row="")
        self.assertIn(f'name="t{waves}-2"', piece)
        self.changed("aim", **{f"t{waves}-2": "3,5", f"t{waves}-1": "", "keep": "yes", "t99999-1": "4", "t1-9": "4"})
        self.assertEqual(
            [(each.topic_id, each.level, each.marks) for each in self.test.targets.all()], [(waves, 2, Decimal("3.5"))]
        )
        refused = self.changed("aim", **{f"t{waves}-2": "many", "keep": "yes"})
        self.assertIn("“many” is no number of marks", refused)
        self.assertIn('value="many"', refused)
        self.changed("aim", **{f"t{waves}-2": "", "keep": "yes"})
        self.assertFalse(self.test.targets.exists())

    def fill(self) -> Job:
        answer = self.client.post(reverse("fill-plan", args=[self.test.pk]), headers={"HX-Request": "true"})
        self.assertContains(answer, "No worker is running")
        job = Job.objects.get(kind="fill plan")
        perform(job.pk)
        job.refresh_from_db()
        self.assertEqual((job.state, job.reason), (Job.State.DONE, ""))
        return job

    def test_questions_are_chosen_for_it_and_what_cannot_be_met_is_said(self) -> None:
        tree = Tree(self.physics)
        waves, moments = tree.paths["Physics", "Waves"], tree.paths["Physics", "Moments"]
        set_target(self.test, waves, 1, Decimal(1))
        set_target(self.test, waves, 3, Decimal(3))
        set_target(self.test, moments, 3, Decimal(5))
        set_target(self.test, moments, 5, Decimal(2))
        job = self.fill()
        self.assertEqual(self.titles()[0][4:], ["Question 3", "Question 5"])
        page = self.client.get(
            reverse("filling", args=[self.test.pk, job.pk]), headers={"HX-Request": "true"}
        ).content.decode()
        self.assertIn("Added 2 questions", page)
        self.assertIn("Moments, level 3: 3 of 5 marks; there is no question of it.", page)
        self.assertIn("Moments, level 5: 0 of 2 marks; there is no question of it.", page)
        # one step, and one that can be taken back
        self.post("undo-step", step=self.test.steps.first().pk)
        self.assertEqual(self.test.places.count(), 3)


class Following(Plans):
    def drawn(self, form_set: FormSet) -> dict[tuple[int, int], tuple[int, int]]:
        items = FormItem.objects.filter(form__form_set=form_set)
        rows = items.values_list("form__position", "slot", "draw", "candidate__revision")
        return {(form, slot): (draw, revision) for form, slot, draw, revision in rows}

    def another(self, source: FormSet, **fields: Any) -> FormSet:
        answer = self.client.post(reverse("another-set", args=[source.pk]), fields)
        self.assertEqual(answer.status_code, 302)
        return made(FormSet.objects.get(pk=int(answer["Location"].strip("/").split("/")[-1])))

    def test_one_question_or_one_form_or_all_are_drawn_anew(self) -> None:
        source = frozen(self.test, 5)
        before = self.drawn(source)
        code = source.forms.get(position=2).code
        place = source.places.get(position=1).pk
        for fields, renewed in [
            ({"place": place}, {(form, 1) for form in range(5)}), ({"code": code.lower()}, {(2, slot) for slot in range(3)}),
            ({"place": place, "code": code}, {(2, 1)}), ({}, set(before)),
        ]:  # fmt: skip
            with self.subTest(str(fields)):
                after = self.drawn(self.another(source, what="anew", **fields))
                self.assertEqual({where for where in before if before[where] != after[where]}, renewed)
                # a draw that is replaced comes nowhere again
                for slot in {slot for _, slot in renewed}:
                    gone = {before[form, slot][0] for form, at in renewed if at == slot}
                    self.assertFalse(gone & {after[form, slot][0] for form in range(5)})
        self.assertEqual(self.drawn(source), before)
        self.assertIn("Question 2 of set 1 drawn anew", self.page("form-set", source.pk))

    def test_one_place_is_put_right_and_the_rest_stays(self) -> None:
        source = frozen(self.test, 4)
        before = self.drawn(source)
        self.assertNotIn("Put it right", self.page("form-set", source.pk))
        self.filed_anew(self.questions[1])
        self.assertIn("Put it right", self.page("form-set", source.pk))
        right = self.another(source, what="right", place=source.places.get(position=1).pk)
        after = self.drawn(right)
        newest = Question.objects.get(pk=self.questions[1].pk).current_id
        for (form, slot), (draw, revision) in after.items():
            if slot == 1:
                self.assertEqual(revision, newest)
            else:
                self.assertEqual((draw, revision), before[form, slot])
        self.assertEqual((right.source, right.reason), (source, "Question 2 put right in set 1"))
        self.assertEqual(self.drawn(source), before)

    def filed_anew(self, held: Question) -> None:
        document = held.newest.document | {"wording": "The foghorn sounds at $f$. Sound travels at $c$. Once more."}
        Question.save_revision(self.physics, self.author, load_document(document), held.filing, question=held)

    def test_a_retest_has_draws_that_nobody_had(self) -> None:
        source = frozen(self.test, 5)
        code = source.forms.get(position=3).code
        again = self.another(source, what="retest", code=code, count="2")
        self.assertEqual((again.count, again.reason), (2, f"Retest for form {code} of set 1"))
        had = {(slot, draw) for (_, slot), (draw, _) in self.drawn(source).items()}
        self.assertFalse(had & {(slot, draw) for (_, slot), (draw, _) in self.drawn(again).items()})
        self.assertFalse(
            set(source.forms.values_list("code", flat=True)) & set(again.forms.values_list("code", flat=True))
        )

    def test_what_is_missing_is_told_and_what_was_typed_stays(self) -> None:
        source = frozen(self.test, 3)
        for fields, words in [
            ({"what": "retest", "code": "ZZZ", "count": "7"}, "There is no form ZZZ"),
            ({"what": "retest", "code": ""}, "Write the code of the form"),
            ({"what": "right"}, "Choose the question"),
        ]:  # fmt: skip
            with self.subTest(words):
                answer = self.client.post(reverse("another-set", args=[source.pk]), fields)
                self.assertContains(answer, words, status_code=422)
        self.assertContains(
            self.client.post(reverse("another-set", args=[source.pk]), {"what": "retest", "code": "ZZZ", "count": "7"}),
            'value="7"',
            status_code=422,
        )
        self.assertEqual(FormSet.objects.count(), 1)

    def test_how_even_they_are_is_told(self) -> None:
        source = frozen(self.test, 6)
        page = self.page("form-set", source.pk)
        self.assertIn("How even they are", page)
        self.assertEqual(page.count('class="profile"'), 6)
        self.assertIn("No form QQQ in this set", self.page("form-set", source.pk, form="qqq"))

"""A short rehearsal of a sitting, without a clock: simulated students save through HTTP, and what was confirmed is there."""

from unittest import mock

from django.test import LiveServerTestCase

from vorlage.operations import sitting_rehearsal
from vorlage.web.sittings.models import Response, Similar, Taking, Tried

from .samples import department, person, question


class Rehearsal(LiveServerTestCase):
    def test_what_was_confirmed_is_there_and_what_is_not_there_is_noticed(self) -> None:
        physics = department("Physics")
        lead = person("lead", physics, "lead")
        for name in ("foghorn", "harbour-crane"):
            question(physics, lead, name)
        quick = {"SAVES": 0.4, "ASKS": 0.5, "STARTS": 0.5, "FORMS": 3, "LINES": 4, "CLASS": 3, "TABLES": 0.5}
        with mock.patch.multiple(sitting_rehearsal, **quick):
            students, teacher = sitting_rehearsal.seated(5, 1)
            port = int(self.live_server_url.rpartition(":")[2])
            room = sitting_rehearsal.Sitters(port, students, sitting_rehearsal.Faults(), teacher)
            while not all(student.confirmed for student in students):
                room.ended.clear()
                room.run(1.0)
        confirmed, lost, doubled = sitting_rehearsal.what_became(students)
        self.assertGreaterEqual(confirmed, 5)
        self.assertEqual((lost, doubled), (0, 0))
        self.assertEqual(Taking.objects.exclude(marked=None).count(), 5)
        self.assertEqual(room.measured.failed, 0)
        # whoever was not done in a second has opened the page once more
        Response.objects.filter(tab__in={tab for tab, _ in students[0].confirmed}).delete()
        self.assertEqual(sitting_rehearsal.what_became(students)[1], len(students[0].confirmed))
        outcome = sitting_rehearsal.Outcome(room.measured, 1.0, confirmed, 0, 0)
        said = list[str]()
        self.assertEqual(sitting_rehearsal.told(outcome, 5, said.append), 0)
        self.assertIn("0 lost", said[-1])

    def test_questions_are_tried_again_and_none_more_often_than_may_be(self) -> None:
        physics = department("Physics")
        lead = person("lead", physics, "lead")
        question(physics, lead, "foghorn")
        quick = {"SAVES": 0.2, "ASKS": 0.5, "STARTS": 0.2, "FORMS": 2, "LINES": 4, "SIMILAR": 1.0}
        with mock.patch.multiple(sitting_rehearsal, **quick):
            students, _ = sitting_rehearsal.seated(2, 1, sitting_rehearsal.retried())
            port = int(self.live_server_url.rpartition(":")[2])
            room = sitting_rehearsal.Sitters(port, students, sitting_rehearsal.Faults(retries=True))
            while not (Similar.objects.exists() and any(student.settled for student in students)):
                room.ended.clear()
                room.run(1.0)
        tried, overtried = sitting_rehearsal.tries_of(students)
        self.assertGreater(tried, 0)
        self.assertEqual((overtried, room.measured.failed), (0, 0))
        again = Tried.objects.all()[0]
        for _ in range(sitting_rehearsal.TRIES):
            again.pk = None
            again.save(force_insert=True)
        self.assertEqual(sitting_rehearsal.tries_of(students)[1], 1)
        self.assertEqual(sitting_rehearsal.what_became(students)[1:], (0, 0))

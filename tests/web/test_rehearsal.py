"""A short rehearsal of a sitting, without a clock: simulated students save through HTTP, and what was confirmed is there."""

from unittest import mock

from django.test import LiveServerTestCase

from vorlage.operations import sitting_rehearsal
from vorlage.web.sittings.models import Response, Taking

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
        Response.objects.filter(tab=students[0].tab).delete()
        self.assertEqual(sitting_rehearsal.what_became(students)[1], len(students[0].confirmed))
        outcome = sitting_rehearsal.Outcome(room.measured, 1.0, confirmed, 0, 0)
        said = list[str]()
        self.assertEqual(sitting_rehearsal.told(outcome, 5, said.append), 0)
        self.assertIn("0 lost", said[-1])

"""One person's costly requests wait for each other, and nobody else waits."""

from threading import Event, Thread

from django.db import connection
from django.test import TransactionTestCase
from django.urls import reverse

from vorlage.web.people import turns
from vorlage.web.people.models import User
from vorlage.web.people.turns import AT_A_TIME, turn

from .samples import department, person


class Turns(TransactionTestCase):
    def setUp(self) -> None:
        physics = department("Physics")
        self.ines, self.noor = person("ines", physics), person("noor", physics)
        self.ended = Event()
        self.threads: list[Thread] = []
        self.addCleanup(self.end)

    def end(self) -> None:
        self.ended.set()
        for thread in self.threads:
            thread.join()

    def works(self, user: User) -> None:
        """Somebody else's process answers this person until the end."""
        begun = Event()

        def work() -> None:
            with turn(user):
                begun.set()
                self.ended.wait()
            connection.close()

        self.threads.append(Thread(target=work))
        self.threads[-1].start()
        begun.wait()

    def test_so_many_at_a_time_and_nobody_else_waits(self) -> None:
        for _ in range(AT_A_TIME):
            self.works(self.ines)
        with self.settings(), turn(self.noor) as mine:
            self.assertTrue(mine)
        turns.PATIENCE, patience = 0.05, turns.PATIENCE
        self.addCleanup(setattr, turns, "PATIENCE", patience)
        with turn(self.ines) as mine:
            self.assertFalse(mine)
        self.client.force_login(self.ines)
        answer = self.client.post(reverse("preview-question"), {"title": "Crane"})
        self.assertEqual((answer.status_code, answer["HX-Trigger"]), (204, "wait"))
        self.end()
        self.assertEqual(self.client.post(reverse("preview-question"), {"title": "Crane"}).status_code, 200)
        # nothing is held any more
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT count(*) FROM pg_locks WHERE locktype = 'advisory' AND classid = %s", [turns.TURN_LOCK]
            )
            self.assertEqual(cursor.fetchone(), (0,))

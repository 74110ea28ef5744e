"""The files that go with the pages, collected as a server does it."""

import re
import tempfile
from pathlib import Path

from django.core.management import call_command
from django.test import SimpleTestCase, override_settings

from vorlage.web.settings import base


class Collected(SimpleTestCase):
    def test_every_import_of_a_script_leads_to_a_file_by_its_name_of_today(self) -> None:
        with tempfile.TemporaryDirectory() as folder, override_settings(STATIC_ROOT=folder, STORAGES=base.STORAGES):
            call_command("collectstatic", interactive=False, verbosity=0)
            (desk,) = Path(folder, "desk").glob("desk.????????????.js")
            imported = re.findall(r'import ?"(.+?)"', desk.read_text())
            self.assertTrue(imported)
            for each in imported:
                self.assertRegex(each, r"\.[0-9a-f]{12}\.js$")
                self.assertTrue((desk.parent / each).is_file(), each)


class Written(SimpleTestCase):
    def test_the_lines_of_the_templates_can_be_read(self) -> None:
        pages = sorted(Path(base.__file__).parents[1].glob("*/templates/**/*.html"))
        self.assertTrue(pages)
        long = [f"{page.name}:{n}" for page in pages for n, line in enumerate(page.open(), 1) if len(line) > 141]
        self.assertEqual(long, [])

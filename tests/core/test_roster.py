"""Class lists: tables in every way that people have them, hostile ones, and what a list would change."""

import io
import zipfile
from unittest import TestCase

import openpyxl
from hypothesis import given
from hypothesis import strategies as st

from vorlage.core.roster import (
    MAXIMUM_BYTES,
    Comparison,
    Entry,
    Kind,
    Known,
    TableError,
    as_text,
    compare,
    read_file,
    read_people,
    read_text,
)


def workbook(*rows: tuple[object, ...], sheet: str = "Class list") -> bytes:
    book = openpyxl.Workbook()
    book.active.title = sheet
    for row in rows:
        book.active.append(row)
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()


ADAIR, BLOM = ("Adair", "Kofi", "1204", "kofi@sandhaven.example"), ("Blöm", "Wanda Inés", "0077", "")

# how a list of two students arrives
LISTS: dict[str, bytes] = {
    "semicolons": "Family name;Given name;Number;E-mail\nAdair;Kofi;1204;kofi@sandhaven.example\nBlöm;Wanda Inés;0077;\n".encode(),
    "commas, another order": "No.,Vorname,Nachname,Mail\n1204,Kofi,Adair,KOFI@sandhaven.example\n0077,Wanda Inés,Blöm,\n".encode(),
    "tabs with a mark": "\ufeffSurname\tFirst name\tStudent ID\temail\r\nAdair\tKofi\t1204\tkofi@sandhaven.example\r\nBlöm\tWanda Inés\t0077\t\r\n".encode(),
    "Windows-1252": "Surname;First name;Number;Mail\nAdair;Kofi;1204;kofi@sandhaven.example\nBlöm;Wanda Inés;0077;\n".encode("cp1252"),
    "UTF-16": "Surname\tFirst name\tNumber\tMail\nAdair\tKofi\t1204\tkofi@sandhaven.example\nBlöm\tWanda Inés\t0077\t\n".encode("utf-16"),
    "one column for the name": "Name;Number;Mail\n\"Adair, Kofi\";1204;kofi@sandhaven.example\nBlöm, Wanda Inés;0077;\n".encode(),
    "one column, commas, quotes": "Name,Number,Mail\n\"Adair, Kofi\",1204,kofi@sandhaven.example\n\"Blöm, Wanda Inés\",0077,\n".encode(),
    "a separator that is told": "sep=;\nNumber;Name;Mail\n1204;Adair, Kofi;kofi@sandhaven.example\n0077;Blöm, Wanda Inés;\n".encode(),
    "columns nobody asked for": "House;Surname;Born;First name;Number;Mail\nNorth;Adair;2011-02-03;Kofi;1204;kofi@sandhaven.example\nQuay;Blöm;2011-05-06;Wanda Inés;0077;\n".encode(),
    "no headings": "Adair;Kofi;1204;kofi@sandhaven.example\nBlöm;Wanda Inés;0077;\n".encode(),
    "blank rows and blanks": "\n\n Surname ; First name ;Number;Mail\n;;;\n  Adair ;Kofi  ;1204;kofi@sandhaven.example\n\nBlöm;Wanda   Inés;0077;\n\n".encode(),
    "a sheet": workbook(("Surname", "First name", "Number", "Mail"), ("Adair", "Kofi", 1204, "kofi@sandhaven.example"), ("Blöm", "Wanda Inés", "0077", None)),
    "a sheet with numbers that are not whole by type": workbook(("Name", "Number", "Mail"), ("Adair, Kofi", 1204.0, "kofi@sandhaven.example"), ("Blöm, Wanda Inés", "0077")),
}  # fmt: skip

# a list of which nothing is taken: the row that is told, and a word of what is said
WRONG: dict[str, tuple[bytes, int, str]] = {
    "a formula in a sheet": (workbook(("Surname", "First name"), ("=A1", "Kofi")), 2, "A2 holds a formula"),
    "a formula in a text": (b'Surname;First name\n"=HYPERLINK(""x"")";Kofi', 2, "begins like a formula"),
    "a command in a number": (b"Surname;First name;Number\nAdair;Kofi;@SUM(1)", 2, "begins like a formula"),
    "separators within": (b"Name,Number\nAdair, Kofi,1204", 2, "3 cells under 2 headings"),
    "two encodings": ("Name;Nr\nMüller, Ä;1\n".encode("cp1252") + "Öz, B;2\n".encode() + "Méz, C;3".encode("cp1252"), 3, "another encoding"),
    "read with the wrong encoding before": ("Name;Nr\nMÃ¼ller, Ada;1".encode(), 2, "“Müller” is meant"),
    "a letter that was lost": ("Name;Nr\nM\ufffdller, Ada;1".encode(), 2, "is lost"),
    "no family name": (b"Surname;First name;Number\nAdair;Kofi;1\n;Wanda;2", 3, "family name is missing"),
    "one name": (b"Name;Number\nAdair;1\nBlom, Wanda;2", 2, "is one name"),
    "a number twice": (b"Surname;First name;Number\nAdair;Kofi;7\nBlom;Wanda;7", 3, "stands in row 2"),
    "a name twice": (b"Surname;First name\nAdair;Kofi\nADAIR;kofi", 3, "stands in row 2"),
    "an address twice": (b"Surname;First name;Nr;Mail\nA;B;1;a@b.example\nC;D;2;A@b.example", 3, "stands in row 2"),
    "no address": (b"Surname;First name;Mail\nAdair;Kofi;kofi at quay", 2, "no e-mail address"),
    "a number of words": (b"Surname;First name;Number\nAdair;Kofi;twelve hundred", 2, "no school number"),
    "no columns for names": (b"Number;Mail\n1;a@b.example", 1, "Which columns hold the names"),
    "the name in two ways": (b"Name;Surname;Number\nAdair, Kofi;Adair;1", 1, "in one column or in two"),
    "a long name": (b"Surname;First name\n" + b"A" * 90 + b";Kofi", 2, "longer than 80"),
    "a name of digits": (b"Surname;First name\n123;Kofi", 2, "is no name"),
    "a sign nobody sees": ("Surname;First name\nAda\u202eir;Kofi".encode(), 2, "cannot be seen"),
    "headings alone": (b"Surname;First name;Number\n", 0, "no students"),
}  # fmt: skip


def bomb() -> bytes:
    kept = io.BytesIO()
    with zipfile.ZipFile(kept, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", b" " * 70_000_000)
    return kept.getvalue()


def document() -> bytes:
    kept = io.BytesIO()
    with zipfile.ZipFile(kept, "w") as archive:
        archive.writestr("word/document.xml", "<w/>")
    return kept.getvalue()


# a file that is no table: a word of what is said
NO_TABLE: dict[str, tuple[bytes, str]] = {
    "nothing": (b"", "nothing in this file"),
    "blanks": (b" \n\n ", "nothing in this file"),
    "separators alone": (b";;\n;;", "nothing in this table"),
    "50 MB": (b"a;b\n" * (MAXIMUM_BYTES // 3), "larger than 5 MB"),
    "a picture": (b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR", "no table"),
    "an old workbook": (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600, "older kind"),
    "a damaged archive": (workbook(("a", "b"))[:-40], "damaged"),
    "a cut archive": (b"PK\x03\x04 and nothing", "damaged"),
    "an archive that grows": (bomb(), "far larger"),
    "a letter": (document(), "no XLSX"),
    "too many rows": (b"Adair;Kofi\n" * 2_001, "more than 2000 rows"),
    "too wide": (b";".join([b"a"] * 50), "more than 40 cells"),
    "too much in all": (b"\n".join(b";".join([b"a" * 250] * 4) for _ in range(500)), "more in this table"),
    "a whole book in a cell": (b"Name;Number\n" + b"a" * 400 + b";1", "more than 300 characters"),
}


class Reading(TestCase):
    def test_a_list_is_read_however_it_arrives(self) -> None:
        for name, content in LISTS.items():
            with self.subTest(name):
                reading = read_people(read_file(content))
                self.assertEqual(reading.faults, ())
                self.assertEqual([(e.family, e.given, e.number, e.email) for e in reading.entries], [ADAIR, BLOM])

    def test_what_is_wrong_is_told_by_its_row(self) -> None:
        for name, (content, row, word) in WRONG.items():
            with self.subTest(name):
                faults = read_people(read_file(content)).faults
                self.assertEqual([fault.row for fault in faults if word in fault.message][:1], [row], faults)

    def test_what_is_no_table_is_told(self) -> None:
        for name, (content, word) in NO_TABLE.items():
            with self.subTest(name), self.assertRaisesRegex(TableError, word):
                read_file(content)

    def test_a_column_or_two_are_enough(self) -> None:
        for text in ("Adair, Kofi\nBlom, Wanda", "Adair\tKofi\nBlom\tWanda", "Kofi Adair\nWanda Blom"):
            with self.subTest(text):
                entries = read_people(read_text(text)).entries
                self.assertEqual([(e.family, e.given) for e in entries], [("Adair", "Kofi"), ("Blom", "Wanda")])
        self.assertEqual(
            read_people(read_text("Kofi Adair")).entries[0].doubt, "Read as family name Adair, given name Kofi"
        )

    def test_a_person_says_what_the_columns_hold(self) -> None:
        table = read_text("Rufname;Sippe\nKofi;Adair")
        self.assertTrue(read_people(table, ["number", ""]).faults)
        entries = read_people(table, ["given", "family"], headed=True).entries
        self.assertEqual([(e.row, e.family, e.given) for e in entries], [(2, "Adair", "Kofi")])
        # a first row whose headings are known can be a student all the same
        entries = read_people(read_text("Name;Number\nAdair;Kofi"), ["family", "given"], headed=False).entries
        self.assertEqual([(e.family, e.given) for e in entries], [("Name", "Number"), ("Adair", "Kofi")])

    @given(st.binary(max_size=400))
    def test_whatever_is_in_a_file_is_read_or_refused(self, content: bytes) -> None:
        for start in (b"", b"PK\x03\x04", b"\xff\xfe", b"Name;Number\n"):
            try:
                table = read_file(start + content)
            except TableError as problem:
                self.assertTrue(problem.message)
            else:
                read_people(table)

    @given(st.lists(st.lists(st.text("aB;, é|", max_size=6), min_size=3, max_size=3), min_size=1, max_size=6))
    def test_a_table_that_is_written_out_reads_back(self, rows: list[list[str]]) -> None:
        table = read_text("\n".join(["\t".join(["Name", "No", "Mail"]), *("\t".join(cells) for cells in rows)]))
        self.assertEqual(read_text(as_text(table)), table)

    def test_a_column_with_a_heading_is_one_column(self) -> None:
        sheet = read_file(workbook(("Name",), ("Adair, Kofi",), ("Blom, Wanda",)))
        for table in (read_text("Name\nAdair, Kofi\nBlom, Wanda"), sheet):
            for each in (table, read_text(as_text(table))):
                found = [(e.family, e.given) for e in read_people(each).entries]
                self.assertEqual(found, [("Adair", "Kofi"), ("Blom", "Wanda")])


SCHOOL = [
    Known(1, "Adair", "Kofi", "1204", "kofi@sandhaven.example", here=True),
    Known(2, "Blöm", "Wanda", "0077", here=True),
    Known(3, "Cho", "Min", "0078"),
    Known(4, "Cho", "Min", "0079"),
    Known(5, "Dray", "Ola", "0080", here=True),
    Known(6, "Dray", "Ola", "0081", here=True),
    Known(7, "Essa", "Lou", "0090"),
]

# a row (family, given, number, address) and what becomes of it: its kind, and whom it speaks of
JUDGED: list[tuple[tuple[str, ...], Kind, int | None]] = [
    (("Adair", "Kofi", "1204"), Kind.SAME, 1),
    (("ADAIR", "Kofi", "1204"), Kind.CHANGED, 1),
    (("Adair", "Kofi Maren", "1204"), Kind.CHANGED, 1),
    (("Adair-Lund", "Kofi", "1204"), Kind.CHANGED, 1),
    (("Zorn", "Mia", "1204"), Kind.DOUBTFUL, 1),
    (("Zorn", "Mia", "0090"), Kind.DOUBTFUL, None),
    (("Adair", "Kofi", "9999"), Kind.DOUBTFUL, 1),
    (("Adair", "Kofi"), Kind.SAME, 1),
    (("Blom", "Wanda"), Kind.CHANGED, 2),
    (("Blöm", "Wanda", "0077", "wanda@sandhaven.example"), Kind.CHANGED, 2),
    (("Blöm", "Wanda", "0077", "kofi@sandhaven.example"), Kind.DOUBTFUL, None),
    (("Cho", "Min", "0078"), Kind.JOINS, 3),
    (("Cho", "Min"), Kind.DOUBTFUL, None),
    (("Cho", "Min", "0099"), Kind.NEW, None),
    (("Dray", "Ola"), Kind.DOUBTFUL, None),
    (("Dray", "Ola", "0081"), Kind.SAME, 6),
    (("Essa", "Lou"), Kind.DOUBTFUL, 7),
    (("Essa", "Lou", "0091"), Kind.DOUBTFUL, 7),
    (("Fenn", "Ada"), Kind.NEW, None),
]


class Comparing(TestCase):
    def compared(self, *rows: tuple[str, ...]) -> Comparison:
        return compare([Entry(row, *fields) for row, fields in enumerate(rows, 1)], SCHOOL)

    def test_what_becomes_of_a_row(self) -> None:
        for row, kind, student in JUDGED:
            with self.subTest(row):
                line = self.compared(row).lines[0]
                self.assertEqual((line.kind, line.student.id if line.student else None), (kind, student), line)
                self.assertEqual(bool(line.why), kind == Kind.DOUBTFUL)

    def test_whoever_is_in_the_class_and_not_in_the_list_is_gone(self) -> None:
        found = self.compared(("Adair", "Kofi", "1204"), ("Fenn", "Ada", "0500"))
        self.assertEqual([each.id for each in found.gone], [2, 5, 6])

    def test_the_same_list_again_changes_nothing(self) -> None:
        rows = [(each.family, each.given, each.number, each.email) for each in SCHOOL if each.here]
        self.assertTrue(self.compared(*rows).changes_nothing)

    def test_two_of_one_name_are_told_apart_by_their_numbers(self) -> None:
        found = self.compared(("Dray", "Ola", "0080"), ("Dray", "Ola", "0085"))
        self.assertEqual([line.kind for line in found.lines], [Kind.SAME, Kind.DOUBTFUL])

    def test_numbers_that_only_capitals_tell_apart_are_two_students(self) -> None:
        school = [Known(8, "Gill", "Ben", "a1", here=True), Known(9, "Gill", "Cy", "A1", here=True)]
        for number, name, student in (("a1", "Ben", 8), ("A1", "Cy", 9)):
            line = compare([Entry(1, "Gill", name, number)], school).lines[0]
            self.assertEqual((line.kind, line.student and line.student.id), (Kind.SAME, student))
        self.assertEqual(compare([Entry(1, "Gill", "Ben", "a1")], school[1:]).lines[0].student, school[1])

    def test_what_a_list_leaves_empty_stays(self) -> None:
        self.assertEqual(self.compared(("Adair", "Kofi", "1204", "")).lines[0].changes, ())

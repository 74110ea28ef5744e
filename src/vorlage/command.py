"""The one command, ``./vorlage``: the demo, the tests, serving, and what a technician runs by hand."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
STATE = ROOT / ".vorlage"


def check(arguments: argparse.Namespace) -> int:
    """Mark answers, one case a line, without the web or the database."""
    from vorlage.core.answers import CaseError, check_case

    return each_line(arguments.file, lambda case: check_case(case).as_json(), CaseError)


def mistakes(arguments: argparse.Namespace) -> int:
    """Find the formulas that explain the wrong answers of classes, one class a line."""
    from vorlage.core.mistakes import ClassError, class_mistakes

    return each_line(arguments.file, lambda found: {"claims": list(map(asdict, class_mistakes(found)))}, ClassError)


def each_line(file: str, done: Callable[[Any], dict[str, Any]], refused: type[Exception]) -> int:
    """Read JSON line by line and write what is made of each, in order; 1 if a line could not be read."""
    failed = False
    with open(file, encoding="utf-8") if file != "-" else sys.stdin as lines:
        for text in lines:
            if not text.strip():
                continue
            identity = None
            try:
                case = json.loads(text)
                identity = case.get("id") if isinstance(case, dict) else None
                written = {"id": identity, **done(case)}
            except (json.JSONDecodeError, RecursionError):
                failed, written = True, {"id": None, "error": "This line is not JSON."}
            except refused as problem:
                failed, written = True, {"id": identity, "error": str(problem)}
            sys.stdout.write(json.dumps(written, ensure_ascii=False) + "\n")
    return 1 if failed else 0


def draw(arguments: argparse.Namespace) -> int:
    """Draw a question document and print the values and keys, one draw a line."""
    from vorlage.core.notation import line
    from vorlage.core.questions import CompiledQuestion, DocumentError, QuestionDrawing, load_document

    try:
        question = CompiledQuestion(load_document(json.loads(Path(arguments.file).read_text("utf-8"))))
    except (OSError, json.JSONDecodeError, DocumentError) as problem:
        print(f"{arguments.file}: {problem}", file=sys.stderr)
        return 1
    for found in question.problems:
        print(f"{' ▸ '.join(map(str, found.path))}: {found.message}", file=sys.stderr)
    if question.problems:
        return 1
    drawing = QuestionDrawing(question, arguments.key, arguments.revision)
    for number in range(1, arguments.count + 1):
        drawn = drawing.draw(number)
        values = {name: line(tree) for name, tree in drawn.shown_values.items()}
        trees = [drawn.key_tree(part) for part in range(len(drawn.answers))]
        keys = [None if tree is None else line(tree) for tree in trees]
        print(json.dumps({"draw": number, "values": values, "keys": keys}, ensure_ascii=False))
    return 0


def demo(arguments: argparse.Namespace) -> int:
    from vorlage.operations import running

    return running.demo(STATE / "demo", arguments.port)


def serve(arguments: argparse.Namespace) -> int:
    from vorlage.operations import running

    return running.serve(arguments.bind, arguments.workers)


def worker(arguments: argparse.Namespace) -> int:
    from vorlage.operations import running

    return running.work()


def fuzz(arguments: argparse.Namespace) -> int:
    # the table of units and the second opinion on verdicts are the tests'
    sys.path.insert(0, str(ROOT))
    from vorlage.operations import fuzzing

    return fuzzing.run(arguments.seconds, arguments.seed, arguments.perturbed)


def test(arguments: argparse.Namespace) -> int:
    from vorlage.operations import testing

    return testing.run_all(STATE, arguments.labels)


def bench(arguments: argparse.Namespace) -> int:
    sys.path.insert(0, str(ROOT))
    from benchmarks.bench import main

    return main(as_json=arguments.json)


def shots(arguments: argparse.Namespace) -> int:
    sys.path.insert(0, str(ROOT))
    from tools.shots import main

    return main(STATE)


def backup(arguments: argparse.Namespace) -> int:
    from vorlage.operations import keeping

    try:
        rows = keeping.backup(Path(arguments.file))
    except keeping.KeepingError as problem:
        print(f"Vorlage: nothing was kept. {problem}", file=sys.stderr)
        return 1
    print(f"{arguments.file}: {sum(rows.values()):,} rows of {len(rows)} tables, checked by restoring them.")
    return 0


def restore(arguments: argparse.Namespace) -> int:
    from vorlage.operations import keeping

    try:
        rows = keeping.restore(Path(arguments.file), arguments.replace)
    except keeping.KeepingError as problem:
        print(f"Vorlage: {problem}", file=sys.stderr)
        return 1
    print(f"{sum(rows.values()):,} rows of {len(rows)} tables are restored, as they were kept.")
    return 0


def check_install(arguments: argparse.Namespace) -> int:
    from vorlage.operations import install

    return install.check_install()


def person(arguments: argparse.Namespace) -> int:
    from vorlage.operations import install, running

    running.setup(install.PRODUCTION)
    given = (arguments.email, arguments.name, arguments.school, arguments.department, arguments.role)
    return link_of(lambda: install.make_person(*given))


def admin(arguments: argparse.Namespace) -> int:
    from vorlage.operations import install, running

    running.setup(install.PRODUCTION)
    return link_of(lambda: install.make_administrator(arguments.email, arguments.name, arguments.school))


def link(arguments: argparse.Namespace) -> int:
    from vorlage.operations import install, running

    running.setup(install.PRODUCTION)
    return link_of(lambda: install.link_for(arguments.email, arguments.without_second_step))


def link_of(made: Callable[[], str]) -> int:
    """Print the link that is made, or why there is none."""
    try:
        told(made())
    except LookupError as problem:
        print(f"Vorlage: {problem}", file=sys.stderr)
        return 1
    return 0


def told(path: str) -> None:
    """A one-time link, under the first of the host names."""
    host = os.environ.get("VORLAGE_HOSTS", "").split(",")[0]
    print(f"https://{host}{path}\nThe link works once, and for a day.")


def remark(arguments: argparse.Namespace) -> int:
    from vorlage.operations import install, running

    if not arguments.changed:
        print("Vorlage: say --changed. Marks are changed by their teachers, not by this command.", file=sys.stderr)
        return 2
    running.setup(install.PRODUCTION)
    from vorlage.web.sittings.remarking import report

    count = 0
    for line in report():
        print(line, flush=True)
        count += 1
    print(f"{count} to look at" if count else "Everything comes out as it was.")
    return 0


def rehearse(arguments: argparse.Namespace) -> int:
    from vorlage.operations import rehearsal, sitting_rehearsal

    if arguments.students:
        folder = STATE / f"rehearsal-{os.getpid()}"
        faults = sitting_rehearsal.Faults(
            arguments.kill or 0,
            arguments.of.split(","),
            arguments.slow_network,
            arguments.offline,
            arguments.moves,
            arguments.tables,
            arguments.retries,
        )
        outcome = sitting_rehearsal.rehearse(folder, arguments.students, arguments.seconds, faults, arguments.seed)
        if arguments.json:
            print(json.dumps(sitting_rehearsal.figures(outcome)))
            return 0
        return sitting_rehearsal.told(outcome, arguments.students)
    return rehearsal.rehearse(
        STATE / f"rehearsal-{os.getpid()}", 100 if arguments.kill is None else arguments.kill, arguments.seed
    )


def parser() -> argparse.ArgumentParser:
    top = argparse.ArgumentParser(prog="vorlage", description="Varying questions, proved keys, equal test forms.")
    commands = top.add_subparsers(dest="command", metavar="COMMAND", required=True)

    def add(name: str, action: object, words: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=words, description=words)
        command.set_defaults(action=action)
        return command

    found = add("demo", demo, "install, start and fill a demo on this machine")
    found.add_argument("--port", type=int, default=8000, help="the port to try first")
    found = add("test", test, "run every check and every test")
    found.add_argument("labels", nargs="*", help="only these, such as tests.core.test_notation")
    found = add("serve", serve, "serve the application with the production settings")
    found.add_argument("--bind", default="127.0.0.1:8000")
    found.add_argument("--workers", type=int, default=0, help="how many processes answer; 0: what this machine can use")
    add("worker", worker, "do the jobs that wait, with the production settings")
    found = add("backup", backup, "keep everything in one archive, checked by restoring it once")
    found.add_argument("file", help="the archive to write, such as vorlage-2026-11-26.tar")
    found = add("restore", restore, "put back what an archive holds")
    found.add_argument("file")
    found.add_argument("--replace", action="store_true", help="throw away what is in the database now")
    add("check-install", check_install, "tell a technician what is there and what is missing")
    found = add("admin", admin, "make the first administrator of a school, and print the one-time link to the password")
    found.add_argument("email")
    found.add_argument("name")
    found.add_argument("--school", required=True)
    found = add("person", person, "make an account, and print the one-time link to its password")
    found.add_argument("email")
    found.add_argument("name")
    found.add_argument("--school", required=True)
    found.add_argument("--department", required=True)
    found.add_argument("--role", choices=["lead", "author", "reader"], default="author")
    found = add("link", link, "print a one-time link to a new password")
    found.add_argument("email")
    found.add_argument("--without-second-step", action="store_true", help="lift the second step of signing in as well")
    found = add("check", check, "mark collected answers, one JSON case a line")
    found.add_argument("file", help="a .jsonl file, or - for standard input")
    found = add("remark", remark, "list the questions and marks that would come out otherwise now; nothing is changed")
    found.add_argument("--changed", action="store_true", help="only list them, which is all that this command does")
    found = add("mistakes", mistakes, "find the formulas that explain wrong answers, one JSON class a line")
    found.add_argument("file", help="a .jsonl file, or - for standard input")
    found = add("draw", draw, "draw a question document and print values and keys")
    found.add_argument("file")
    found.add_argument("--count", type=int, default=8)
    found.add_argument("--key", default="", help="the identity of the question")
    found.add_argument("--revision", type=int, default=1)
    found = add("fuzz", fuzz, "check random answers of every kind, and right ones with one thing made wrong")
    found.add_argument("--seconds", type=float, default=60)
    found.add_argument("--seed", type=int, default=1)
    found.add_argument("--perturbed", type=int, default=100_000, help="how many wrong answers must not be accepted")
    found = add("bench", bench, "measure the speed budgets")
    found.add_argument("--json", action="store_true", help="one JSON object instead of a table")
    found = add(
        "rehearse", rehearse, "let people work or students sit, kill processes meanwhile, and see that nothing is lost"
    )
    found.add_argument("--kill", type=int, default=None, help="how many; 100 where nobody sits, none where students do")
    found.add_argument("--of", default="web,worker,database", help="what is killed while students sit")
    found.add_argument("--slow-network", action="store_true", help="requests take long, and answers get lost")
    found.add_argument("--offline", action="store_true", help="students have no network for a while")
    found.add_argument("--moves", action="store_true", help="browsers are killed, and students go on elsewhere")
    found.add_argument("--tables", action="store_true", help="every class has its table open at its teacher's")
    found.add_argument("--retries", action="store_true", help="students check questions and try them again")
    found.add_argument("--students", type=int, default=0, help="let so many students sit a test through HTTP instead")
    found.add_argument("--seconds", type=float, default=60, help="for how long they sit")
    found.add_argument("--json", action="store_true", help="the figures of the budgets as one JSON object, last")
    found.add_argument("--seed", type=int, default=1)
    add("shots", shots, "remake docs/screenshots from the demo data")
    return top


def main() -> int:
    arguments = parser().parse_args()
    try:
        return int(arguments.action(arguments))
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1


if __name__ == "__main__":
    sys.exit(main())

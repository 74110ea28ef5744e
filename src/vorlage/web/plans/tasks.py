"""The work of choosing questions for what a plan aims at."""

from __future__ import annotations

from fractions import Fraction

from vorlage.core.answers import told_marks
from vorlage.core.plans import Offer, select
from vorlage.web.bank.models import Found, Question, Tree
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import does

from .coverage import grid_of, topics_of
from .models import Test

# The kind of job that chooses questions.
FILLING = "fill plan"
# So many questions are looked at for a cell.
MOST_OF_A_CELL = 200


@does(FILLING)
def fill_plan(job: Job) -> None:
    """Add questions that bring the plan to what it aims at, as one step; what could not be met is kept with the job."""
    test = Test.objects.select_related("department").get(pk=job.arguments["test"])
    tree = Tree(test.department_id)
    job.note(0, "Looking for questions")
    there = test.ordered()
    wanted, offers, rows = dict[tuple[int, int], Fraction](), list[Offer](), grid_of(test, there, tree).rows
    taken = {each.revision.question_id for one in there for each in one.candidates}
    for row in rows:
        for cell in row.cells:
            if cell.target is not None and cell.least < cell.target:
                wanted[cell.topic, cell.level] = Fraction(cell.target) - cell.least
                offers += offered(test, tree, cell.topic, cell.level, taken, {each.key for each in offers})
    job.note(0, "Choosing among them")
    found = select(wanted, offers)
    names = {row.topic: row.name for row in rows}
    unmet = []
    for (topic, level), (got, marks) in found.unmet.items():
        least = next(cell.least for row in rows for cell in row.cells if (cell.topic, cell.level) == (topic, level))
        words = [told_marks(each, test.department.habits) for each in (got + least, marks + least)]
        some = sum(offer.cell == (topic, level) for offer in offers)
        why = f"{some} question{'' if some == 1 else 's'} to choose from" if some else "there is no question of it"
        unmet.append(f"{names[topic]}, level {level}: {words[0]} of {words[1]} marks; {why}.")
    questions = Question.objects.select_related("current").in_bulk(found.keys)
    with job.finishing():
        with test.changing(job.author, f"Chose {len(found.keys)} questions for what it is to cover"):
            for key in found.keys:
                test.add(questions[key])
        Job.objects.filter(pk=job.pk).update(
            arguments={**job.arguments, "added": len(found.keys), "unmet": unmet},
        )


def offered(test: Test, tree: Tree, topic: int, level: int, taken: set[int], known: set[int]) -> list[Offer]:
    """Questions in use that stand first under an objective, or below it, at a level."""
    below = set(tree.all_below(topic))
    found = Found.objects.filter(department=test.department_id, archived=False, level=level, marks__gt=0)
    rows = found.filter(under__contains=[topic]).exclude(pk__in=taken | known).order_by("uses", "-changed", "pk")
    chosen = list(rows.values_list("pk", "marks", "uses")[:MOST_OF_A_CELL])
    first = topics_of(pk for pk, _, _ in chosen)
    return [Offer(pk, (topic, level), marks, uses) for pk, marks, uses in chosen if first.get(pk) in below]

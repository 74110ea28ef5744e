"""What stands in a database of the version before once it is upgraded, as one JSON object; run in a process of its own
with the database's address in the environment."""

import hashlib
import json
import re
from typing import Any

import django

django.setup()

from django.test import Client  # noqa: E402

from tests.upgrades import numbers  # noqa: E402
from vorlage.core.documents import Heading, Printing  # noqa: E402
from vorlage.core.notation import USUAL  # noqa: E402
from vorlage.core.plans import Place, Plan  # noqa: E402
from vorlage.web.bank.models import Picture, Question, Revision  # noqa: E402
from vorlage.web.desk.models import Draft  # noqa: E402
from vorlage.web.forms.kept import kept_forms  # noqa: E402
from vorlage.web.forms.models import Form, FormSet, ItemKey, Print  # noqa: E402
from vorlage.web.jobs.models import Job  # noqa: E402
from vorlage.web.people.models import User  # noqa: E402


def digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def set_of(form_set: FormSet) -> dict[str, Any]:
    """A frozen set: every form with its draws, keys and paper, and its files."""
    places = form_set.ordered
    plan = Plan(
        form_set.title,
        [
            Place(place.revision.compiled(USUAL), str(place.revision.question.key), place.revision.number)
            for place in places
        ],
        form_set.instructions,
    )
    heading = Heading(form_set.title, str(form_set.test.department), form_set.instructions)
    printing = Printing(plan, heading, form_set.uploaded)
    forms = {}
    for form in Form.objects.filter(form_set=form_set).order_by("position"):
        keys = [ItemKey.objects.get(item=item).parts for item in form.items.order_by("position")]
        frozen = kept_forms(form_set, places, [form.pk])[form.pk]
        forms[form.code] = {
            "draws": [item.draw.number for item in frozen.items],
            "keys": [
                [{name: key[name] for name in ("key", "tolerance", "marks", "after")} for key in parts]
                for parts in keys
            ],
            "parts": [[key["part"] for key in parts] for parts in keys],
            "paper": digest(form.paper.read()),
            # the numbers of the paper as it would be typeset from what is frozen
            "numbers": numbers(printing.papers([frozen])),
        }
    files = {made.kind: digest(made.file.read()) for made in Print.objects.filter(form_set=form_set)}
    return {"forms": forms, "files": files, "repeats": [place.position for place in places if place.repeats]}


def seen() -> list[tuple[str, int]]:
    """The status of every page that shows something of it."""
    found = []
    for user in User.objects.all():
        client = Client()
        client.force_login(user)
        pages = ["/questions/", "/tests/"]
        for membership in user.memberships.all():
            if membership.role == "reader":
                continue
            client.post(f"/departments/{membership.department_id}/change/")
            pages += [f"/questions/{each.pk}/" for each in Question.objects.filter(department=membership.department)]
            pages += [
                f"/form-sets/{each.pk}/" for each in FormSet.objects.filter(test__department=membership.department)
            ]
            found += [(page, client.get(page).status_code) for page in pages]
            pages = []
    return found


def main() -> None:
    frozen = FormSet.objects.exclude(frozen=None).select_related("test__department")
    made = {
        "revisions": {
            f"{revision.question.key} {revision.number}": {
                "title": revision.title, "marks": str(revision.marks), "kinds": revision.kinds,
                "parts": [[part["id"], part["label"]] for part in revision.parts], "draws": revision.draws,
                "sheet": re.sub(r"<[^>]+>", " ", revision.sheet), "format": revision.document["format"],
            }
            for revision in Revision.objects.select_related("question")
        },
        "questions": {
            str(each.key): [each.latest, each.title, *(*each.filing.topic, "")[:2], each.level]
            for each in Question.objects.select_related("current")
        },
        "sets": {form_set.pk: set_of(form_set) for form_set in frozen},
        "jobs": {job.arguments["form_set"]: [job.state, job.reason] for job in Job.objects.all()},
        "pictures": {picture.file_id: digest(picture.file.read()) for picture in Picture.objects.select_related("file")},
        "drafts": Draft.objects.count(),
        "pages": seen(),
    }  # fmt: skip
    print(json.dumps(made))


if __name__ == "__main__":
    main()

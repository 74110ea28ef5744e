import io
import zipfile
from dataclasses import asdict

from django.db import migrations
from django.utils import timezone

from vorlage.core.documents import page_count
from vorlage.core.draws import DrawError
from vorlage.core.forms import shown_key
from vorlage.core.questions import CompiledQuestion, DocumentError, QuestionDrawing, freeze, load_document
from vorlage.web.files.models import keep

# The states of a set before, and of the job that makes it now; what was being made is taken up again.
STATES = {
    "waiting": "waiting", "making": "waiting", "frozen": "done", "failed": "failed", "cancelled": "cancelled",
}  # fmt: skip


def jobs(apps, schema_editor):
    job = apps.get_model("jobs", "Job")
    for order in apps.get_model("forms", "FormSet").objects.defer("record").iterator():
        state = STATES[order.state]
        order.job = job.objects.create(
            kind="form set",
            arguments={"form_set": order.pk},
            author_id=order.author_id,
            state=state,
            done=order.count if state == "done" else 0,
            total=order.count,
            reason=order.failure,
            # queued anew at once by the first worker that looks
            queued=order.created,
            ended=None if state == "waiting" else order.frozen or timezone.now(),
        )
        order.save(update_fields=["job"])
    with schema_editor.connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs WHERE task_name = 'make_form_set' AND status = 'todo'")


def files(apps, schema_editor):
    stored, piece = apps.get_model("files", "Stored"), apps.get_model("files", "Piece")
    for made in apps.get_model("forms", "Print").objects.iterator(chunk_size=1):
        made.file_id = keep(bytes(made.content), stored, piece).digest
        made.save(update_fields=["file"])


def forms(apps, schema_editor):
    """The forms of frozen sets as rows: their papers as they were printed, their keys as they were proved."""
    form_sets, places = apps.get_model("forms", "FormSet"), apps.get_model("forms", "FormSetPlace")
    for place in places.objects.select_related("revision"):
        place.marks = place.revision.marks
        place.save(update_fields=["marks"])
    for order in form_sets.objects.filter(state="frozen").iterator(chunk_size=1):
        there = list(places.objects.filter(form_set=order).select_related("revision__question").order_by("position"))
        archive = bytes(apps.get_model("forms", "Print").objects.get(form_set=order, kind="archive").content)
        with zipfile.ZipFile(io.BytesIO(archive)) as packed:
            forms_of_set(apps, order, there, packed)


def forms_of_set(apps, order, places, packed):
    form_model, item_model = apps.get_model("forms", "Form"), apps.get_model("forms", "FormItem")
    stored, piece = apps.get_model("files", "Stored"), apps.get_model("files", "Piece")
    name = f"test-{order.test_id}-set-{order.number}"
    drawings = [drawing_of(place) for place in places]
    shared = shared_keys(order.record)
    items, apart = [], []
    for number, form in enumerate(order.record):
        paper = packed.read(f"{name}/papers/{name}-{form['code']}.pdf")
        kept = form_model.objects.create(
            form_set=order, position=number, code=form["code"], paper_id=keep(paper, stored, piece).digest,
            pages=page_count(paper),
        )  # fmt: skip
        for position, (place, drawing, item) in enumerate(zip(places, drawings, form["items"])):
            items.append(item_model(form=kept, place=place, draw=item["draw"], **drawn(drawing, item["draw"])))
            identities = [part["id"] for part in place.revision.parts]
            parts = [
                {
                    **key,
                    "part": identity,
                    "marks": str(key["marks"]),
                    "shown": shown_key(key["key"]),
                    "shared": (position, part, key["key"]) in shared,
                }
                for part, (identity, key) in enumerate(zip(identities, item["keys"]))
            ]
            apart.append(parts)
    key_model = apps.get_model("forms", "ItemKey")
    items = item_model.objects.bulk_create(items, batch_size=500)
    key_model.objects.bulk_create(
        (key_model(item=item, parts=parts) for item, parts in zip(items, apart)), batch_size=500
    )
    for position, place in enumerate(places):
        place.repeats = position in order.repeats
        place.shared = len({part for there, part, _ in shared if there == position})
        place.save(update_fields=["repeats", "shared"])


def drawing_of(place):
    """The draws of a place; None where its question can no longer be drawn."""
    revision = place.revision
    try:
        return QuestionDrawing(
            CompiledQuestion(load_document(revision.document)), str(revision.question.key), revision.number
        )
    except (DocumentError, DrawError):
        return None


def drawn(drawing, number):
    """What was drawn, as far as it can still be told; the paper and its key are kept in any case."""
    try:
        frozen = asdict(freeze(drawing.draw(number))) if drawing else {"values": {}, "orders": {}, "texts": {}}
    except DrawError:
        frozen = {"values": {}, "orders": {}, "texts": {}}
    frozen.pop("number", None)
    return frozen


def shared_keys(record):
    """The (place, part, key) triples that more than one form has."""
    seen, shared = set(), set()
    for form in record:
        for place, item in enumerate(form["items"]):
            for part, key in enumerate(item["keys"]):
                triple = (place, part, key["key"])
                (shared if triple in seen else seen).add(triple)
    return shared


class Migration(migrations.Migration):
    dependencies = [("forms", "0002_forms_as_rows"), ("procrastinate", "__latest__")]

    operations = [migrations.RunPython(jobs), migrations.RunPython(files), migrations.RunPython(forms)]

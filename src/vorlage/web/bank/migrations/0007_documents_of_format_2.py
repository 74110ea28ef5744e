from dataclasses import asdict

from django.db import migrations

from vorlage.core.questions import CompiledQuestion, QuestionDrawing, adopted, facts, load_document, upgraded
from vorlage.web.files.models import keep


def documents(apps, schema_editor):
    """Every revision in the newest format, with the identities of the one before, and what is true of it beside it."""
    questions = apps.get_model("bank", "Question")
    revisions = apps.get_model("bank", "Revision")
    for question in questions.objects.iterator():
        earlier = newest = None
        for revision in revisions.objects.filter(question=question).order_by("number"):
            document = upgraded(revision.document)
            filed = document.pop("filing", {})
            if earlier is not None:
                document = adopted(document, earlier)
            earlier, newest = document, revision
            revision.document = document
            for name, value in columns(document, str(question.key), revision.number).items():
                setattr(revision, name, value)
            # what a later step files with the question
            said = {name: filed[name] for name in ("calculator", "note") if name in filed}
            revision.document = {**revision.document, "filing": said}
            revision.save()
        questions.objects.filter(pk=question.pk).update(current=newest)


def columns(raw, key, number):
    """The document as it is stored, and its facts; those that can be read off where it can no longer be drawn."""
    try:
        document = load_document(raw)
        found = facts(QuestionDrawing(CompiledQuestion(document), key, number).draw(1))
        return {**asdict(found), "document": document.model_dump(mode="json")}
    except Exception:
        # versions before kept what cannot be drawn as well; nobody's upgrade fails for it
        parts = raw.get("parts", [])
        kinds = dict.fromkeys(part["answer"]["kind"] for part in parts)
        worth = [(part, 0 if part["answer"]["kind"] in {"scale", "none"} else part.get("marks", 1)) for part in parts]
        return {
            "title": raw["title"],
            "marks": sum(marks for _, marks in worth),
            "kinds": list(kinds),
            "parts": [
                {"id": part["id"], "label": "", "kind": part["answer"]["kind"], "marks": str(marks)}
                for part, marks in worth
            ],
        }


def pictures(apps, schema_editor):
    """The content of pictures by its hash, outside their rows."""
    stored, piece = apps.get_model("files", "Stored"), apps.get_model("files", "Piece")
    for picture in apps.get_model("bank", "Picture").objects.iterator():
        picture.file_id = keep(bytes(picture.content), stored, piece).digest
        picture.save()


class Migration(migrations.Migration):
    dependencies = [("bank", "0006_facts_of_revisions")]

    operations = [migrations.RunPython(documents), migrations.RunPython(pictures)]

from django.db import migrations

from vorlage.core.questions import upgraded


def file_them(apps, schema_editor):
    """Topics from the subject and topic of every question; what it is found by is noted after all migrations."""
    topics, filed = apps.get_model("bank", "Topic"), apps.get_model("bank", "Filed")
    made = {}

    def topic(department, name, parent):
        key = (department, name.casefold(), parent)
        if key not in made:
            position = sum(1 for each in made if each[0] == department and each[2] == parent)
            made[key] = topics.objects.create(
                department_id=department, name=name, parent_id=parent, position=position
            ).pk
        return made[key]

    for question in apps.get_model("bank", "Question").objects.select_related("department", "current").order_by("pk"):
        ways = [topic(question.department_id, question.subject.capitalize(), None)]
        if question.topic.strip():
            ways.append(topic(question.department_id, " ".join(question.topic.split()), ways[0]))
        filed.objects.create(question=question, topic_id=ways[-1])
        said = documents_in_format_3(question)
        question.owner_id = question.revisions.order_by("number").first().author_id
        question.calculator, question.note = said.get("calculator", True), said.get("note", "")
        changed = question.changed
        question.save()
        # it was not worked on
        type(question).objects.filter(pk=question.pk).update(changed=changed)


def has_figure(document):
    return bool(document.get("figures") or document.get("pictures"))


def documents_in_format_3(question):
    """Every revision in the newest format; what the newest says of the calculator and to colleagues is returned."""
    said = {}
    for revision in question.revisions.order_by("number"):
        document = upgraded(revision.document)
        said = document.pop("filing", {})
        revision.document = document
        revision.by_hand = "essay" in revision.kinds
        revision.figure = has_figure(document)
        revision.save()
    return said


class Migration(migrations.Migration):
    dependencies = [("bank", "0010_filing")]

    operations = [migrations.RunPython(file_them)]

import django.db.models.deletion
from django.db import migrations, models

import vorlage.web.bank.models

PROTECT, CASCADE = django.db.models.deletion.PROTECT, django.db.models.deletion.CASCADE


def number():
    return models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")


class Migration(migrations.Migration):
    """Room for forms as rows, with their keys apart and their files by content."""

    dependencies = [
        ("files", "0001_initial"),
        ("jobs", "0001_initial"),
        ("forms", "0001_initial"),
        ("bank", "0008_facts_stand_with_revisions"),
    ]

    operations = [
        migrations.AddField(
            "formset",
            "job",
            models.OneToOneField(null=True, on_delete=PROTECT, related_name="form_set", to="jobs.job"),
        ),
        migrations.AddField("formsetplace", "marks", vorlage.web.bank.models.MarksField(default=0)),
        migrations.AddField("formsetplace", "repeats", models.BooleanField(default=False)),
        migrations.AddField("formsetplace", "shared", models.PositiveSmallIntegerField(default=0)),
        migrations.AddField(
            "print", "file", models.ForeignKey(null=True, on_delete=PROTECT, related_name="+", to="files.stored")
        ),
        migrations.RenameField("formset", "forms", "record"),
        migrations.CreateModel(
            name="Form",
            fields=[
                ("id", number()),
                ("position", models.PositiveIntegerField()),
                ("code", models.CharField(max_length=8)),
                ("pages", models.PositiveSmallIntegerField()),
                ("form_set", models.ForeignKey(on_delete=CASCADE, related_name="forms", to="forms.formset")),
                ("paper", models.ForeignKey(on_delete=PROTECT, related_name="+", to="files.stored")),
            ],
            options={
                "ordering": ["form_set", "position"],
                "constraints": [
                    models.UniqueConstraint(fields=("form_set", "position"), name="one_form_a_position"),
                    models.UniqueConstraint(fields=("form_set", "code"), name="one_form_a_code"),
                ],
            },
        ),
        migrations.CreateModel(
            name="FormItem",
            fields=[
                ("id", number()),
                ("draw", models.BigIntegerField()),
                ("values", models.JSONField()),
                ("orders", models.JSONField()),
                ("texts", models.JSONField()),
                ("form", models.ForeignKey(on_delete=CASCADE, related_name="items", to="forms.form")),
                ("place", models.ForeignKey(on_delete=CASCADE, related_name="items", to="forms.formsetplace")),
            ],
            options={
                "ordering": ["form", "place"],
                "constraints": [models.UniqueConstraint(fields=("form", "place"), name="one_item_a_place")],
            },
        ),
        migrations.CreateModel(
            name="ItemKey",
            fields=[
                (
                    "item",
                    models.OneToOneField(
                        on_delete=CASCADE, primary_key=True, related_name="+", serialize=False, to="forms.formitem"
                    ),
                ),
                ("parts", models.JSONField()),
            ],
        ),
        migrations.CreateModel(
            name="Page",
            fields=[
                ("id", number()),
                ("number", models.PositiveSmallIntegerField()),
                ("form", models.ForeignKey(on_delete=CASCADE, related_name="pictures", to="forms.form")),
                ("picture", models.ForeignKey(on_delete=PROTECT, related_name="+", to="files.stored")),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("form", "number"), name="one_picture_a_page")],
            },
        ),
    ]

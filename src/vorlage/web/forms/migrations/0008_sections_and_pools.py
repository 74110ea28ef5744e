import django.db.models.deletion
from django.db import migrations, models

from vorlage.web.bank.models.questions import MarksField

OWN = ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID"))
CASCADE, PROTECT = django.db.models.deletion.CASCADE, django.db.models.deletion.PROTECT


class Migration(migrations.Migration):
    dependencies = [("bank", "0015_brought_in"), ("forms", "0007_draws_taken_along")]

    operations = [
        migrations.CreateModel(
            name="FormSetSection",
            fields=[
                OWN,
                ("position", models.PositiveIntegerField()),
                ("title", models.CharField(blank=True, max_length=120)),
                ("text", models.CharField(blank=True, max_length=500)),
                ("calculator", models.BooleanField(null=True)),
                ("new_page", models.BooleanField(default=False)),
                ("mixed", models.BooleanField(default=False)),
                ("form_set", models.ForeignKey(on_delete=CASCADE, related_name="sections", to="forms.formset")),
            ],
            options={"ordering": ["form_set", "position"]},
        ),
        migrations.CreateModel(
            name="FormSetCandidate",
            fields=[
                OWN,
                ("position", models.PositiveIntegerField()),
                ("first_draw", models.PositiveIntegerField(null=True)),
                ("place", models.ForeignKey(on_delete=CASCADE, related_name="candidates", to="forms.formsetplace")),
                ("revision", models.ForeignKey(on_delete=PROTECT, related_name="+", to="bank.revision")),
            ],
            options={"ordering": ["place", "position"]},
        ),
        migrations.AddConstraint(
            "formsetsection", models.UniqueConstraint(fields=("form_set", "position"), name="one_section_a_position")
        ),
        migrations.AddConstraint(
            "formsetcandidate", models.UniqueConstraint(fields=("place", "position"), name="one_question_a_position")
        ),
        migrations.AlterModelOptions("formitem", {"ordering": ["form", "position"]}),
        migrations.RemoveConstraint("formitem", "one_item_a_place"),
        migrations.RemoveConstraint("formsetplace", "one_revision_a_position"),
        migrations.AddField("form", "work", models.JSONField(default=list)),
        migrations.AddField("formset", "basis", models.JSONField(default=dict)),
        migrations.AddField("formset", "evenness", models.JSONField(default=dict)),
        migrations.AddField("formset", "maximum", MarksField(null=True)),
        migrations.AddField("formset", "reason", models.CharField(blank=True, max_length=300, default=""), False),
        migrations.AddField(
            "formset",
            "source",
            models.ForeignKey(null=True, on_delete=PROTECT, related_name="followers", to="forms.formset"),
        ),
        migrations.AddField("formsetplace", "bonus", models.BooleanField(default=False)),
        migrations.AddField("formsetplace", "name", models.CharField(blank=True, max_length=120, default=""), False),
        migrations.AddField("formsetplace", "take", models.PositiveSmallIntegerField(default=1)),
        migrations.AlterField("formsetplace", "marks", MarksField(null=True)),
        migrations.AddConstraint(
            "formsetplace", models.UniqueConstraint(fields=("form_set", "position"), name="one_place_a_position")
        ),
        migrations.AddField(
            "formsetplace",
            "section",
            models.ForeignKey(null=True, on_delete=CASCADE, related_name="places", to="forms.formsetsection"),
        ),
        migrations.AddField("formitem", "position", models.PositiveSmallIntegerField(null=True)),
        migrations.AddField("formitem", "slot", models.PositiveSmallIntegerField(null=True)),
        migrations.AddField(
            "formitem",
            "candidate",
            models.ForeignKey(null=True, on_delete=CASCADE, related_name="items", to="forms.formsetcandidate"),
        ),
    ]

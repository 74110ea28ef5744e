import django.core.validators
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from vorlage.web.bank.models.questions import MarksField

OWN = ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID"))
OF_TEST = {"on_delete": django.db.models.deletion.CASCADE, "to": "plans.test"}


class Migration(migrations.Migration):
    dependencies = [
        ("bank", "0015_brought_in"),
        ("classes", "0001_initial"),
        ("plans", "0003_archive"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Section",
            fields=[
                OWN,
                ("position", models.PositiveIntegerField()),
                ("title", models.CharField(blank=True, max_length=120)),
                ("text", models.CharField(blank=True, max_length=500)),
                ("calculator", models.BooleanField(blank=True, null=True)),
                ("new_page", models.BooleanField(default=False)),
                ("mixed", models.BooleanField(default=False)),
                ("test", models.ForeignKey(related_name="sections", **OF_TEST)),
            ],
            options={"ordering": ["test", "position", "pk"]},
        ),
        migrations.CreateModel(
            name="Candidate",
            fields=[
                OWN,
                ("position", models.PositiveIntegerField()),
                ("draw", models.PositiveIntegerField(null=True)),
                (
                    "place",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="candidates", to="plans.testplace"
                    ),
                ),
                (
                    "revision",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="candidates", to="bank.revision"
                    ),
                ),
            ],
            options={"ordering": ["place", "position", "pk"]},
        ),
        migrations.CreateModel(
            name="Step",
            fields=[
                OWN,
                ("words", models.CharField(max_length=300)),
                ("before", models.JSONField()),
                ("moment", models.DateTimeField(auto_now_add=True)),
                ("test", models.ForeignKey(related_name="steps", **OF_TEST)),
                (
                    "user",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={"ordering": ["-pk"]},
        ),
        migrations.CreateModel(
            name="Target",
            fields=[
                OWN,
                ("level", models.PositiveSmallIntegerField()),
                ("marks", MarksField()),
                ("test", models.ForeignKey(related_name="targets", **OF_TEST)),
                (
                    "topic",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bank.topic"
                    ),
                ),
            ],
            options={"ordering": ["test", "topic", "level"]},
        ),
        migrations.AddConstraint(
            "target", models.UniqueConstraint(fields=("test", "topic", "level"), name="one_target_a_cell")
        ),
        migrations.AddField("test", "before", models.CharField(blank=True, max_length=500, default=""), False),
        migrations.AddField("test", "maximum", MarksField(blank=True, null=True)),
        migrations.AddField(
            "test",
            "school_class",
            models.ForeignKey(
                blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="tests",
                to="classes.class",
            ),
        ),
        migrations.AddField("testplace", "pool", models.BooleanField(default=False)),
        migrations.AddField("testplace", "name", models.CharField(blank=True, max_length=120, default=""), False),
        migrations.AddField(
            "testplace",
            "take",
            models.PositiveSmallIntegerField(
                default=1,
                validators=[
                    django.core.validators.MinValueValidator(1), django.core.validators.MaxValueValidator(30),
                ],
            ),
        ),
        migrations.AddField("testplace", "rule", models.CharField(blank=True, max_length=2000, default=""), False),
        migrations.AddField("testplace", "marks", MarksField(blank=True, null=True)),
        migrations.AddField("testplace", "bonus", models.BooleanField(default=False)),
        migrations.AddField(
            "testplace",
            "section",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="places", to="plans.section"
            ),
        ),
    ]  # fmt: skip

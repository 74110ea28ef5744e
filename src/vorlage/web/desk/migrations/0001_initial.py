import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """Drafts and how they end come from the bank, with their tables as they stand."""

    initial = True

    dependencies = [
        ("bank", "0008_facts_stand_with_revisions"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.RunSQL("ALTER TABLE bank_draft RENAME TO desk_draft", "ALTER TABLE desk_draft RENAME TO bank_draft"),
                migrations.RunSQL("ALTER TABLE bank_ending RENAME TO desk_ending", "ALTER TABLE desk_ending RENAME TO bank_ending"),
            ],
            state_operations=[
                migrations.CreateModel(
                    name="Draft",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("key", models.UUIDField()),
                        ("base", models.PositiveIntegerField(default=0)),
                        ("title", models.CharField(blank=True, max_length=200)),
                        ("fields", models.JSONField()),
                        ("changed", models.DateTimeField(auto_now=True)),
                        ("leaf", models.CharField(blank=True, max_length=16)),
                        ("stroke", models.PositiveIntegerField(default=0)),
                        ("department", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.department")),
                        ("question", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="drafts", to="bank.question")),
                        ("user", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL)),
                    ],
                    options={
                        "ordering": ["-changed"],
                        "constraints": [models.UniqueConstraint(fields=("user", "key"), name="one_draft_of_a_desk")],
                    },
                ),
                migrations.CreateModel(
                    name="Ending",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("key", models.UUIDField()),
                        ("leaf", models.CharField(max_length=16)),
                        ("stroke", models.PositiveIntegerField()),
                        ("when", models.DateTimeField(auto_now_add=True)),
                        ("revision", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="bank.revision")),
                        ("user", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL)),
                    ],
                    options={"indexes": [models.Index(fields=["user", "key", "leaf"], name="endings_of_a_desk")]},
                ),
            ],
        ),
    ]  # fmt: skip

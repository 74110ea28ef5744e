import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """Tests come from the form sets that are made of them, with their tables as they stand."""

    initial = True

    dependencies = [
        ("bank", "0009_drafts_to_the_desk"),
        ("forms", "0004_sets_without_records"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.RunSQL("ALTER TABLE forms_test RENAME TO plans_test", "ALTER TABLE plans_test RENAME TO forms_test"),
                migrations.RunSQL("ALTER TABLE forms_testplace RENAME TO plans_testplace", "ALTER TABLE plans_testplace RENAME TO forms_testplace"),
            ],
            state_operations=[
                migrations.CreateModel(
                    name="Test",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("title", models.CharField(max_length=200)),
                        ("instructions", models.CharField(blank=True, max_length=500)),
                        ("created", models.DateTimeField(auto_now_add=True)),
                        ("changed", models.DateTimeField(auto_now=True)),
                        ("author", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL)),
                        ("department", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="tests", to="people.department")),
                    ],
                    options={"ordering": ["-changed", "-pk"]},
                ),
                migrations.CreateModel(
                    name="TestPlace",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("position", models.PositiveIntegerField()),
                        ("revision", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="places", to="bank.revision")),
                        ("test", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="places", to="plans.test")),
                    ],
                    options={"ordering": ["test", "position"]},
                ),
            ],
        ),
    ]  # fmt: skip

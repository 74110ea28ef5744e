import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Tests belong to the plans; their tables went with them, and what refers to them refers to them still."""

    dependencies = [("forms", "0004_sets_without_records"), ("plans", "0001_initial")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    "formset",
                    "test",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="form_sets", to="plans.test"
                    ),
                ),
                migrations.DeleteModel("TestPlace"),
                migrations.DeleteModel("Test"),
            ]
        ),
    ]

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("plans", "0005_places_in_sections")]

    operations = [
        migrations.RemoveField("testplace", "draw"),
        migrations.RemoveField("testplace", "revision"),
        migrations.AlterField(
            "testplace",
            "section",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="places", to="plans.section"
            ),
        ),
    ]  # fmt: skip

import django.db.models.deletion
from django.db import migrations, models

import vorlage.web.bank.models


class Migration(migrations.Migration):
    """What rows and jobs hold now is taken out of the sets."""

    dependencies = [("forms", "0003_frozen_values")]

    operations = [
        migrations.RemoveField("formset", "record"),
        migrations.RemoveField("formset", "repeats"),
        migrations.RemoveField("formset", "failure"),
        migrations.RemoveField("formset", "made"),
        migrations.RemoveField("formset", "state"),
        migrations.RemoveField("formset", "step"),
        migrations.RemoveField("print", "content"),
        migrations.AlterField(
            "print",
            "file",
            models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to="files.stored"),
        ),
        migrations.AlterField("formsetplace", "marks", vorlage.web.bank.models.MarksField()),
    ]

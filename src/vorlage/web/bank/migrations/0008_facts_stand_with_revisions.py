import django.contrib.postgres.fields
import django.db.models.deletion
from django.db import migrations, models

import vorlage.web.bank.models


class Migration(migrations.Migration):
    """What was true of one revision is no longer said of its question."""

    dependencies = [("bank", "0007_documents_of_format_2")]

    operations = [
        migrations.RemoveField("question", "draws"),
        migrations.RemoveField("question", "kinds"),
        migrations.RemoveField("question", "latest"),
        migrations.RemoveField("question", "marks"),
        migrations.RemoveField("question", "title"),
        migrations.AlterField(
            "revision",
            "kinds",
            django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=20), size=None),
        ),
        migrations.AlterField("revision", "marks", vorlage.web.bank.models.MarksField()),
        migrations.AlterField("revision", "parts", models.JSONField()),
        migrations.AlterField("revision", "sheet", models.TextField()),
        migrations.AlterField("revision", "title", models.CharField(max_length=200)),
        migrations.RemoveConstraint("picture", "one_picture_of_a_content"),
        migrations.RemoveField("picture", "content"),
        migrations.RemoveField("picture", "digest"),
        migrations.AlterField(
            "picture",
            "file",
            models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to="files.stored"),
        ),
        migrations.AddConstraint(
            "picture", models.UniqueConstraint(fields=["department", "file"], name="one_picture_of_a_content")
        ),
    ]

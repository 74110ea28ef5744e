import django.contrib.postgres.fields
import django.db.models.deletion
from django.db import migrations, models

import vorlage.web.bank.models


class Migration(migrations.Migration):
    """Room for what is true of a revision, and for the content of pictures outside their rows."""

    dependencies = [("files", "0001_initial"), ("bank", "0005_endings")]

    operations = [
        migrations.AddField(
            "question",
            "current",
            models.OneToOneField(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="bank.revision"
            ),
        ),
        migrations.AddField("revision", "draws", models.BigIntegerField(null=True)),
        migrations.AddField(
            "revision",
            "kinds",
            django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=20), default=list),
        ),
        migrations.AddField("revision", "marks", vorlage.web.bank.models.MarksField(default=0)),
        migrations.AddField("revision", "parts", models.JSONField(default=list)),
        migrations.AddField("revision", "sheet", models.TextField(default="")),
        migrations.AddField("revision", "title", models.CharField(default="", max_length=200)),
        migrations.AddField(
            "picture",
            "file",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="files.stored"
            ),
        ),
    ]

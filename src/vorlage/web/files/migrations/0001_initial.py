import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = []

    operations = [
        migrations.CreateModel(
            name="Stored",
            fields=[
                ("digest", models.CharField(max_length=64, primary_key=True, serialize=False)),
                ("size", models.BigIntegerField()),
            ],
        ),
        migrations.CreateModel(
            name="Piece",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveIntegerField()),
                ("content", models.BinaryField()),
                (
                    "stored",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="files.stored"),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("stored", "number"), name="one_piece_a_number")],
            },
        ),
    ]

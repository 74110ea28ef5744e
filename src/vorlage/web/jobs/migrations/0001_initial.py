import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Job",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(max_length=40)),
                ("arguments", models.JSONField(default=dict)),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("waiting", "Waiting to be made"),
                            ("running", "Being made"),
                            ("done", "Made"),
                            ("failed", "Not made"),
                            ("cancelled", "Cancelled"),
                        ],
                        default="waiting",
                        max_length=10,
                    ),
                ),
                ("step", models.CharField(blank=True, max_length=60)),
                ("done", models.PositiveIntegerField(default=0)),
                ("total", models.PositiveIntegerField(default=0)),
                ("reason", models.TextField(blank=True)),
                ("attempts", models.PositiveSmallIntegerField(default=0)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("queued", models.DateTimeField(default=django.utils.timezone.now)),
                ("ended", models.DateTimeField(null=True)),
                (
                    "author",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={
                "indexes": [
                    models.Index(
                        condition=models.Q(("state__in", ["waiting", "running"])), fields=["state"], name="jobs_open"
                    )
                ],
            },
        ),
    ]

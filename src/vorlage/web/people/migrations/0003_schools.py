from datetime import time

import django.db.models.deletion
from django.contrib.postgres.fields import ArrayField
from django.db import migrations, models
from django.db.models import Q

import vorlage.web.people.models


def schools_of_departments(apps, schema_editor):
    """A school was a name that departments had in common."""
    School, Department = apps.get_model("people", "School"), apps.get_model("people", "Department")
    for department in Department.objects.all():
        department.held_by, _ = School.objects.get_or_create(name=department.school)
        department.save()
    for person in apps.get_model("people", "User").objects.all():
        first = person.memberships.select_related("department").order_by("pk").first()
        if first is not None:
            person.school = first.department.held_by
            person.save(update_fields=["school"])


def names_of_schools(apps, schema_editor):
    for department in apps.get_model("people", "Department").objects.select_related("held_by"):
        department.school = department.held_by.name
        department.save(update_fields=["school"])


class Migration(migrations.Migration):
    dependencies = [("people", "0002_habits")]

    operations = [
        migrations.CreateModel(
            name="School",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120, unique=True)),
                (
                    "time_zone",
                    models.CharField(
                        default="UTC", max_length=60, validators=[vorlage.web.people.models.known_time_zone]
                    ),
                ),
                ("day_ends", models.TimeField(default=time(17))),
            ],
            options={"ordering": ["name"]},
        ),
        migrations.AddField(
            "user",
            "school",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="people", to="people.school"
            ),
        ),
        migrations.AddField("user", "administers", models.BooleanField(default=False)),
        migrations.AddField("user", "studies", models.BooleanField(default=False)),
        migrations.AddField(
            "user", "sign_in_name", models.CharField(blank=True, max_length=60, null=True, unique=True)
        ),
        migrations.AlterField("user", "email", models.EmailField(blank=True, max_length=254, null=True, unique=True)),
        migrations.AddConstraint(
            "user",
            models.CheckConstraint(
                condition=Q(email__isnull=False) | Q(sign_in_name__isnull=False), name="somehow_signs_in"
            ),
        ),
        migrations.AddField(
            "department",
            "held_by",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="departments", to="people.school"
            ),
        ),
        migrations.AlterModelOptions("department", options={}),
        migrations.AlterModelOptions("membership", options={}),
        migrations.RunPython(schools_of_departments, names_of_schools),
        # rows that were written wait for their checks, and a table is not altered while they do
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", "SET CONSTRAINTS ALL IMMEDIATE"),
        migrations.RemoveConstraint("department", "one_department_a_name"),
        migrations.RemoveField("department", "school"),
        migrations.RenameField("department", "held_by", "school"),
        migrations.AlterField(
            "department",
            "school",
            models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT, related_name="departments", to="people.school"
            ),
        ),
        migrations.AddConstraint(
            "department", models.UniqueConstraint(fields=["school", "name"], name="one_department_a_name")
        ),
        migrations.AlterModelOptions("department", options={"ordering": ["school__name", "name"]}),
        migrations.AlterModelOptions(
            "membership", options={"ordering": ["department__school__name", "department__name"]}
        ),
        migrations.AddField(
            "department",
            "rounding",
            models.CharField(
                choices=[("exact", "as they are"), ("halves", "to halves"), ("whole", "to whole marks")],
                default="exact",
                max_length=10,
            ),
        ),
        migrations.AddField(
            "department", "first_marks", models.DecimalField(decimal_places=2, default=2, max_digits=5)
        ),
        migrations.AddField(
            "department", "level_names", ArrayField(models.CharField(max_length=30), blank=True, default=list, size=5)
        ),
        migrations.AddField(
            "department",
            "boundary_names",
            ArrayField(models.CharField(max_length=30), blank=True, default=list, size=12),
        ),
        migrations.AddField("department", "letterhead", models.CharField(blank=True, max_length=160)),
    ]

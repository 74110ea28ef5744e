import django.db.models.deletion
from django.db import migrations, models

CASCADE = django.db.models.deletion.CASCADE


class Migration(migrations.Migration):
    dependencies = [("forms", "0009_items_with_questions")]

    operations = [
        migrations.RemoveField("formsetplace", "first_draw"),
        migrations.RemoveField("formsetplace", "revision"),
        migrations.AlterField(
            "formsetplace",
            "section",
            models.ForeignKey(on_delete=CASCADE, related_name="places", to="forms.formsetsection"),
        ),
        migrations.AlterField("formitem", "position", models.PositiveSmallIntegerField()),
        migrations.AlterField("formitem", "slot", models.PositiveSmallIntegerField()),
        migrations.AlterField(
            "formitem",
            "candidate",
            models.ForeignKey(on_delete=CASCADE, related_name="items", to="forms.formsetcandidate"),
        ),
        migrations.AddConstraint(
            "formitem", models.UniqueConstraint(fields=("form", "position"), name="one_item_on_a_paper")
        ),
    ]

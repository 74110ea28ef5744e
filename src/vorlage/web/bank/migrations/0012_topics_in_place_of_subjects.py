import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("bank", "0011_filed_under_topics"),
    ]

    operations = [
        migrations.RemoveIndex(model_name="question", name="questions_search"),
        migrations.RemoveField(model_name="question", name="search_text"),
        migrations.RemoveField(model_name="question", name="subject"),
        migrations.RemoveField(model_name="question", name="topic"),
        migrations.AlterField(
            model_name="question",
            name="owner",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT,
                related_name="questions",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
    ]

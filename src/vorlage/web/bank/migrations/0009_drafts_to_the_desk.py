from django.db import migrations


class Migration(migrations.Migration):
    """Drafts belong to the desk; their tables went with them."""

    dependencies = [("bank", "0008_facts_stand_with_revisions"), ("desk", "0001_initial")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[migrations.DeleteModel("Ending"), migrations.DeleteModel("Draft")]
        ),
    ]

from django.db import migrations

# Every test has one section, which says nothing, and every place one question.
FILL = """
INSERT INTO plans_section (test_id, position, title, text, new_page, mixed)
    SELECT id, 0, '', '', false, false FROM plans_test;
UPDATE plans_testplace SET section_id = section.id FROM plans_section section
    WHERE section.test_id = plans_testplace.test_id;
INSERT INTO plans_candidate (place_id, position, revision_id, draw) SELECT id, 0, revision_id, draw FROM plans_testplace;
"""


class Migration(migrations.Migration):
    dependencies = [("plans", "0004_sections_and_pools")]

    operations = [migrations.RunSQL(FILL, migrations.RunSQL.noop)]

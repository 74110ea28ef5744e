from django.db import migrations

# A set of before has one section that says nothing, and one question a place, which stands where the place does.
FILL = """
INSERT INTO forms_formsetsection (form_set_id, position, title, text, new_page, mixed)
    SELECT id, 0, '', '', false, false FROM forms_formset;
UPDATE forms_formsetplace SET section_id = section.id FROM forms_formsetsection section
    WHERE section.form_set_id = forms_formsetplace.form_set_id;
INSERT INTO forms_formsetcandidate (place_id, position, revision_id, first_draw)
    SELECT id, 0, revision_id, first_draw FROM forms_formsetplace;
UPDATE forms_formitem SET candidate_id = candidate.id, position = place.position, slot = place.position
    FROM forms_formsetplace place, forms_formsetcandidate candidate
    WHERE place.id = forms_formitem.place_id AND candidate.place_id = place.id;
"""


class Migration(migrations.Migration):
    dependencies = [("forms", "0008_sections_and_pools")]

    operations = [migrations.RunSQL(FILL, migrations.RunSQL.noop)]

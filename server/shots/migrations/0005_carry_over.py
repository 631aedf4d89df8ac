from django.db import migrations

# What is thought of a step of which it was not counted how much it holds.
UNCOUNTED = 2000


def carry_over(apps, editor):
    """Patches go to the differences as they are; a cycle becomes the span of a track. May be begun again after a stop."""
    with editor.connection.cursor() as cursor:
        cursor.execute(
            "INSERT IGNORE INTO shots_difference (edit_id, casting_id, patch, size) "
            "SELECT id, casting_id, patch, COALESCE(size, %s) FROM shots_edit",
            [UNCOUNTED],
        )
    for marks in apps.get_model("shots", "ClipMarks").objects.exclude(cycle=None):
        marks.tracks = {"cycle": [marks.cycle]} if marks.cycle else {}
        marks.save(update_fields=["tracks"])


class Migration(migrations.Migration):
    dependencies = [("shots", "0004_differences_and_tracks")]

    operations = [migrations.RunPython(carry_over, migrations.RunPython.noop)]

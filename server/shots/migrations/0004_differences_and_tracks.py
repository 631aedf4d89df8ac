import django.db.models.deletion
from django.db import migrations, models

import server.shots.fields


class Migration(migrations.Migration):
    """What a step changed stands by casting, and spans on tracks; the old columns go once all is carried over."""

    dependencies = [("shots", "0003_exact_names_and_step_keys")]

    operations = [
        migrations.AddField("casting", "taken_out_at", models.DateTimeField(null=True)),
        migrations.AddField("clipmarks", "tracks", models.JSONField(default=dict)),
        migrations.CreateModel(
            "Difference",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("patch", server.shots.fields.FastJSONField()),
                ("size", models.PositiveIntegerField()),
                (
                    "casting",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="shots.casting"
                    ),
                ),
                (
                    "edit",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="differences", to="shots.edit"
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("edit", "casting"), name="one_difference_a_clip")
                ],
            },
        ),
    ]

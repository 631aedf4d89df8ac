from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("shots", "0005_carry_over")]

    operations = [
        migrations.RemoveField("edit", "casting"),
        migrations.RemoveField("edit", "patch"),
        migrations.RemoveField("edit", "size"),
        migrations.RemoveField("clipmarks", "cycle"),
    ]



import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('productions', '0002_invitations_and_putting_away'),
    ]

    operations = [
        migrations.CreateModel(
            name='DemoPiece',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=100, unique=True)),
                ('laid_at', models.DateTimeField(auto_now_add=True)),
                ('production', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='productions.production')),
            ],
        ),
    ]

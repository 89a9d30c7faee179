"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.contrib.postgres.indexes
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("changes", "0001_changes"),
        ("changes", "0002_pulse"),
    ]

    dependencies = [
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Pulse',
            fields=[
                ('act', models.BigIntegerField(primary_key=True, serialize=False)),
                ('at', models.DateTimeField(db_index=True)),
            ],
        ),
        migrations.CreateModel(
            name='Change',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField()),
                ('act', models.BigIntegerField()),
                ('kind', models.CharField(max_length=40)),
                ('row', models.BigIntegerField()),
                ('what', models.CharField(max_length=1)),
                ('keys', models.JSONField(default=dict)),
                ('before', models.JSONField(default=dict)),
                ('after', models.JSONField(default=dict)),
                ('who', models.ForeignKey(db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('workshop', models.ForeignKey(db_constraint=False, db_index=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='people.workshop')),
            ],
            options={
                'ordering': ['-id'],
                'indexes': [models.Index(fields=['workshop', '-id'], name='change_of_workshop'), models.Index(fields=['kind', 'row'], name='change_of_row'), models.Index(fields=['act'], name='change_of_act'), django.contrib.postgres.indexes.GinIndex(fields=['keys'], name='change_keys', opclasses=['jsonb_path_ops'])],
            },
        ),
    ]

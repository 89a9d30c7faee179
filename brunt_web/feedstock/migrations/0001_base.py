"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
import django.db.models.functions.datetime
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("feedstock", "0001_ladders"),
    ]

    dependencies = [
        ('library', '0001_base'),
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Ladder',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('feedstock', 'pellets, regrind, unknown filament'), ('resin', 'resin')], default='feedstock', max_length=12)),
                ('name', models.CharField(max_length=80)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.lot')),
                ('material', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.material')),
                ('recipe', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, to='library.recipe')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='ladders', to='people.workshop')),
            ],
            options={
                'ordering': ['-created_at', '-id'],
            },
        ),
        migrations.CreateModel(
            name='Attempt',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('gate', models.CharField(max_length=20)),
                ('texts', models.JSONField(default=dict)),
                ('passed', models.BooleanField()),
                ('reason', models.CharField(max_length=300)),
                ('working', models.JSONField(default=list)),
                ('learnt', models.JSONField(default=dict)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('at', models.DateTimeField()),
                ('undone_at', models.DateTimeField(blank=True, null=True)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('ladder', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='attempts', to='feedstock.ladder')),
            ],
            options={
                'ordering': ['at', 'id'],
            },
        ),
        migrations.CreateModel(
            name='Picture',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('file', models.CharField(max_length=60, unique=True)),
                ('width', models.PositiveIntegerField()),
                ('height', models.PositiveIntegerField()),
                ('scale', models.FloatField(blank=True, null=True)),
                ('strays', models.JSONField(default=list)),
                ('found', models.JSONField(default=list)),
                ('taken_at', models.DateTimeField()),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('ladder', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pictures', to='feedstock.ladder')),
            ],
            options={
                'ordering': ['-taken_at', '-id'],
            },
        ),
        migrations.AddConstraint(
            model_name='ladder',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='ladder_name_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='picture',
            constraint=models.CheckConstraint(condition=models.Q(('scale__isnull', True), ('scale__gt', 0), _connector='OR'), name='scale_positive'),
        ),
    ]

"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import brunt_web.days.models
import django.db.models.deletion
import django.db.models.functions.datetime
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("days", "0001_day_sheet"),
    ]

    dependencies = [
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Feed',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('token', models.CharField(max_length=64, unique=True)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('revoked_at', models.DateTimeField(blank=True, null=True)),
                ('user', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='feeds', to='people.workshop')),
            ],
            options={
                'ordering': ['-created_at'],
            },
        ),
        migrations.CreateModel(
            name='Hours',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('zone', models.CharField(max_length=40)),
                ('week', models.JSONField(default=brunt_web.days.models.usual_hours)),
                ('people', models.PositiveSmallIntegerField(default=2)),
                ('workshop', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='hours', to='people.workshop')),
            ],
            options={
                'constraints': [models.CheckConstraint(condition=models.Q(('people__gte', 1)), name='somebody_is_there')],
            },
        ),
        migrations.CreateModel(
            name='OwnJob',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('label', models.CharField(max_length=80)),
                ('lane', models.CharField(default='hands', max_length=30)),
                ('minutes', models.PositiveIntegerField()),
                ('attended', models.BooleanField(default=True)),
                ('not_before', models.DateTimeField(blank=True, null=True)),
                ('due', models.DateTimeField(blank=True, null=True)),
                ('done_at', models.DateTimeField(blank=True, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='own_jobs', to='people.workshop')),
            ],
            options={
                'ordering': ['id'],
                'constraints': [models.CheckConstraint(condition=models.Q(('minutes__gte', 1)), name='own_job_takes_time')],
            },
        ),
        migrations.CreateModel(
            name='Placement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=40)),
                ('start', models.DateTimeField()),
                ('was', models.DateTimeField(blank=True, null=True)),
                ('pinned', models.BooleanField(default=False)),
                ('planned_at', models.DateTimeField()),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='placements', to='people.workshop')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('workshop', 'key'), name='job_placed_once')],
            },
        ),
    ]

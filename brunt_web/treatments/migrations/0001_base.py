"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
import django.db.models.functions.datetime
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("treatments", "0001_runs"),
        ("treatments", "0002_held"),
        ("treatments", "0003_room"),
    ]

    dependencies = [
        ('campaigns', '0001_base'),
        ('library', '0001_base'),
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='OwnKind',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('event', models.CharField(default='treated', max_length=12)),
                ('steps', models.JSONField(default=list)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='own_kinds', to='people.workshop')),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Run',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('kind_key', models.CharField(max_length=30)),
                ('event', models.CharField(default='treated', max_length=12)),
                ('what', models.CharField(max_length=120)),
                ('texts', models.JSONField(blank=True, default=dict)),
                ('state', models.CharField(db_index=True, default='planned', max_length=10)),
                ('planned_for', models.DateTimeField(blank=True, null=True)),
                ('started_at', models.DateTimeField(blank=True, null=True)),
                ('ended_at', models.DateTimeField(blank=True, null=True)),
                ('accepted', models.CharField(blank=True, max_length=300)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('campaign', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='runs', to='campaigns.campaign')),
                ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='library.lot')),
                ('own', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='treatments.ownkind')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='runs', to='people.workshop')),
            ],
            options={
                'ordering': ['-created_at', '-id'],
            },
        ),
        migrations.CreateModel(
            name='LogReading',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.CharField(max_length=10)),
                ('at', models.DateTimeField()),
                ('value', models.FloatField(blank=True, null=True)),
                ('text', models.CharField(blank=True, max_length=60)),
                ('source', models.CharField(default='typed', max_length=12)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('run', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='log', to='treatments.run')),
            ],
            options={
                'ordering': ['at', 'id'],
            },
        ),
        migrations.CreateModel(
            name='Inside',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('place', models.PositiveSmallIntegerField()),
                ('out_at', models.DateTimeField(blank=True, null=True)),
                ('fate', models.CharField(blank=True, max_length=10)),
                ('reason', models.CharField(blank=True, max_length=300)),
                ('specimen', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='runs', to='campaigns.specimen')),
                ('run', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='inside', to='treatments.run')),
            ],
            options={
                'ordering': ['place'],
            },
        ),
        migrations.CreateModel(
            name='RunStep',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('key', models.CharField(max_length=20)),
                ('label', models.CharField(max_length=80)),
                ('order', models.CharField(max_length=80)),
                ('ends', models.CharField(max_length=10)),
                ('seconds', models.FloatField()),
                ('heat', models.FloatField(blank=True, null=True)),
                ('attended', models.BooleanField(default=False)),
                ('started_at', models.DateTimeField(blank=True, null=True)),
                ('ended_at', models.DateTimeField(blank=True, null=True)),
                ('run', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='steps', to='treatments.run')),
            ],
            options={
                'ordering': ['run_id', 'position'],
            },
        ),
        migrations.CreateModel(
            name='Vessel',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('kind', models.CharField(choices=[('oven', 'oven'), ('bed', 'heated bed'), ('bath', 'bath'), ('freezer', 'freezer'), ('chamber', 'climate chamber'), ('lamp', 'UV lamp'), ('box', 'box'), ('room', 'room, shelf'), ('place', 'place outdoors or in sun')], max_length=20)),
                ('capacity', models.PositiveSmallIntegerField(default=12)),
                ('each', models.PositiveSmallIntegerField(default=1)),
                ('room', models.CharField(blank=True, max_length=60)),
                ('watts', models.FloatField(blank=True, null=True)),
                ('thermometer', models.CharField(blank=True, max_length=20)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='vessels', to='people.workshop')),
            ],
            options={
                'ordering': ['kind', 'name'],
            },
        ),
        migrations.AddField(
            model_name='run',
            name='vessel',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='treatments.vessel'),
        ),
        migrations.CreateModel(
            name='HistoricalRun',
            fields=[
                ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('kind_key', models.CharField(max_length=30)),
                ('event', models.CharField(default='treated', max_length=12)),
                ('what', models.CharField(max_length=120)),
                ('texts', models.JSONField(blank=True, default=dict)),
                ('state', models.CharField(db_index=True, default='planned', max_length=10)),
                ('planned_for', models.DateTimeField(blank=True, null=True)),
                ('started_at', models.DateTimeField(blank=True, null=True)),
                ('ended_at', models.DateTimeField(blank=True, null=True)),
                ('accepted', models.CharField(blank=True, max_length=300)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('history_id', models.AutoField(primary_key=True, serialize=False)),
                ('history_date', models.DateTimeField(db_index=True)),
                ('history_change_reason', models.CharField(max_length=100, null=True)),
                ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                ('campaign', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='campaigns.campaign')),
                ('created_by', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='library.lot')),
                ('workshop', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='people.workshop')),
                ('own', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='treatments.ownkind')),
                ('vessel', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='treatments.vessel')),
            ],
            options={
                'verbose_name': 'historical run',
                'verbose_name_plural': 'historical runs',
                'ordering': ('-history_date', '-history_id'),
                'get_latest_by': ('history_date', 'history_id'),
            },
            bases=(models.Model,),
        ),
        migrations.AddConstraint(
            model_name='ownkind',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='own_kind_name_once_a_workshop'),
        ),
        migrations.AddIndex(
            model_name='logreading',
            index=models.Index(fields=['run', 'what', 'at'], name='treatments__run_id_015ca0_idx'),
        ),
        migrations.AddConstraint(
            model_name='logreading',
            constraint=models.UniqueConstraint(fields=('run', 'what', 'at'), name='log_once_a_moment'),
        ),
        migrations.AddConstraint(
            model_name='inside',
            constraint=models.UniqueConstraint(fields=('run', 'specimen'), name='specimen_once_a_run'),
        ),
        migrations.AddConstraint(
            model_name='runstep',
            constraint=models.UniqueConstraint(fields=('run', 'position'), name='step_once_a_run'),
        ),
        migrations.AddConstraint(
            model_name='runstep',
            constraint=models.CheckConstraint(condition=models.Q(('ended_at__isnull', True), ('ended_at__gte', models.F('started_at')), _connector='OR'), name='step_ends_after_it_began'),
        ),
        migrations.AddConstraint(
            model_name='vessel',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='vessel_name_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='vessel',
            constraint=models.CheckConstraint(condition=models.Q(('capacity__gte', 1)), name='vessel_takes_one'),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.UniqueConstraint(fields=('workshop', 'number'), name='run_number_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.CheckConstraint(condition=models.Q(('state__in', ['planned', 'running', 'done', 'stopped'])), name='run_state_is_one'),
        ),
    ]

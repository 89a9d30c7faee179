"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
import django.db.models.functions.datetime
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("decisions", "0001_duties"),
        ("decisions", "0002_a_screw"),
    ]

    dependencies = [
        ('campaigns', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Duty',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('mode', models.CharField(choices=[('bending', 'bent between two supports'), ('cantilever', 'bent, one end held'), ('tension', 'pulled'), ('torsion', 'twisted'), ('shear', 'a pin, sheared'), ('thread', 'held by a screw'), ('blow', 'struck'), ('part', 'as the part was tested')], default='cantilever', max_length=12)),
                ('direction', models.CharField(choices=[('along', 'along the layers'), ('across', 'across the layers')], default='along', max_length=8)),
                ('typed', models.JSONField(blank=True, default=dict)),
                ('sure', models.JSONField(blank=True, default=dict)),
                ('chosen_because', models.CharField(blank=True, max_length=300)),
                ('version', models.PositiveIntegerField(default=1)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('changed_at', models.DateTimeField()),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='duties', to='campaigns.campaign')),
                ('changed_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('chosen', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='campaigns.condition')),
                ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'verbose_name_plural': 'duties',
                'ordering': ['created_at', 'id'],
            },
        ),
        migrations.CreateModel(
            name='HistoricalDuty',
            fields=[
                ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('mode', models.CharField(choices=[('bending', 'bent between two supports'), ('cantilever', 'bent, one end held'), ('tension', 'pulled'), ('torsion', 'twisted'), ('shear', 'a pin, sheared'), ('thread', 'held by a screw'), ('blow', 'struck'), ('part', 'as the part was tested')], default='cantilever', max_length=12)),
                ('direction', models.CharField(choices=[('along', 'along the layers'), ('across', 'across the layers')], default='along', max_length=8)),
                ('typed', models.JSONField(blank=True, default=dict)),
                ('sure', models.JSONField(blank=True, default=dict)),
                ('chosen_because', models.CharField(blank=True, max_length=300)),
                ('version', models.PositiveIntegerField(default=1)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('changed_at', models.DateTimeField()),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('history_id', models.AutoField(primary_key=True, serialize=False)),
                ('history_date', models.DateTimeField(db_index=True)),
                ('history_change_reason', models.CharField(max_length=100, null=True)),
                ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                ('campaign', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='campaigns.campaign')),
                ('changed_by', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('chosen', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='campaigns.condition')),
                ('created_by', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'verbose_name': 'historical duty',
                'verbose_name_plural': 'historical duties',
                'ordering': ('-history_date', '-history_id'),
                'get_latest_by': ('history_date', 'history_id'),
            },
            bases=(models.Model,),
        ),
    ]

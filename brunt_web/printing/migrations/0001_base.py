"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
import django.db.models.functions.datetime
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("printing", "0001_initial"),
        ("printing", "0002_life"),
        ("printing", "0003_lives"),
        ("printing", "0004_life_alone"),
        ("printing", "0005_attempts"),
    ]

    dependencies = [
        ('campaigns', '0001_base'),
        ('library', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Batch',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveSmallIntegerField()),
                ('orientation', models.CharField(max_length=20)),
                ('gap', models.FloatField(default=5)),
                ('seed', models.PositiveIntegerField()),
                ('per_object', models.BooleanField(default=False)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='batches', to='campaigns.campaign')),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.lot')),
                ('printer', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='library.printer')),
                ('recipe', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.recipe')),
            ],
            options={
                'ordering': ['number'],
            },
        ),
        migrations.CreateModel(
            name='Grade',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('aspect', models.CharField(choices=[('stringing', 'Stringing'), ('overhang', 'Overhang'), ('bridge', 'Bridge sag'), ('warp', 'Warp'), ('surface', 'Surface'), ('detail', 'Detail'), ('supports', 'Support removal'), ('odour', 'Odour'), ('ease', 'Ease')], max_length=20)),
                ('score', models.PositiveSmallIntegerField()),
                ('measured', models.FloatField(blank=True, null=True)),
                ('measured_text', models.CharField(blank=True, max_length=60)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('photo', models.FileField(blank=True, upload_to='photos/')),
                ('at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('batch', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='grades', to='printing.batch')),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('specimen', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='grades', to='campaigns.specimen')),
            ],
            options={
                'ordering': ['aspect', 'at'],
            },
        ),
        migrations.CreateModel(
            name='Plate',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveSmallIntegerField()),
                ('settings', models.JSONField(default=dict)),
                ('dryness', models.CharField(blank=True, max_length=20)),
                ('printed_at', models.DateTimeField(blank=True, null=True)),
                ('used', models.JSONField(blank=True, default=dict)),
                ('used_from', models.CharField(blank=True, max_length=160)),
                ('batch', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='plates', to='printing.batch')),
            ],
            options={
                'ordering': ['number'],
            },
        ),
        migrations.CreateModel(
            name='Print',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('x', models.FloatField()),
                ('y', models.FloatField()),
                ('settings', models.JSONField(blank=True, default=dict)),
                ('failed', models.BooleanField(default=False)),
                ('defects', models.JSONField(default=list)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('plate', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='prints', to='printing.plate')),
                ('specimen', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='print', to='campaigns.specimen')),
            ],
            options={
                'ordering': ['plate__number', 'y', 'x'],
            },
        ),
        migrations.CreateModel(
            name='PrintAttempt',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('defects', models.JSONField(default=list)),
                ('bed_surface', models.CharField(blank=True, max_length=80)),
                ('adhesive', models.CharField(blank=True, max_length=80)),
                ('brim', models.FloatField(blank=True, null=True)),
                ('enclosure', models.CharField(blank=True, max_length=80)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('at', models.DateTimeField()),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('plate', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='attempts', to='printing.plate')),
            ],
            options={
                'ordering': ['at', 'id'],
            },
        ),
        migrations.AddConstraint(
            model_name='batch',
            constraint=models.UniqueConstraint(fields=('campaign', 'number'), name='batch_number_once'),
        ),
        migrations.AddConstraint(
            model_name='grade',
            constraint=models.CheckConstraint(condition=models.Q(('score__gte', 1), ('score__lte', 5)), name='score_1_to_5'),
        ),
        migrations.AddConstraint(
            model_name='plate',
            constraint=models.UniqueConstraint(fields=('batch', 'number'), name='plate_number_once'),
        ),
    ]

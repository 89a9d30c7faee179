"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
import django.db.models.functions.datetime
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("library", "0001_initial"),
        ("library", "0002_lot_drying_printer_recipe_specimenvariant_and_more"),
        ("library", "0003_bench"),
        ("library", "0004_ranked_by"),
        ("library", "0005_life"),
        ("library", "0006_sizes"),
        ("library", "0007_parts"),
        ("library", "0008_bring_up"),
        ("library", "0009_drying"),
        ("library", "0010_rigs"),
        ("library", "0011_instrument"),
        ("library", "0012_printers_put_away"),
    ]

    dependencies = [
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Material',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('family', models.CharField(choices=[('pla', 'PLA'), ('petg', 'PETG'), ('abs', 'ABS'), ('asa', 'ASA'), ('hips', 'HIPS'), ('pc', 'PC'), ('pa6', 'PA6'), ('pa12', 'PA12'), ('pp', 'PP'), ('tpu', 'TPU'), ('pvb', 'PVB'), ('pla-cf', 'PLA, carbon-filled'), ('pa-cf', 'PA, fibre-filled'), ('petg-cf', 'PETG, carbon-filled'), ('resin', 'Resin, standard'), ('resin-tough', 'Resin, tough'), ('resin-abs', 'Resin, ABS-like'), ('pbt', 'PBT'), ('pps', 'PPS'), ('tpe', 'TPE'), ('pha', 'PLA/PHA-type biopolymer'), ('starch', 'Starch-type biopolymer'), ('resin-flex', 'Resin, flexible'), ('resin-heat', 'Resin, heat-resistant'), ('resin-filled', 'Resin, ceramic-filled'), ('other', 'Other polymer'), ('wood', 'Wood, ply, board'), ('metal', 'Metal')], max_length=20)),
                ('form', models.CharField(choices=[('filament', 'filament'), ('resin', 'resin'), ('pellet', 'pellet or regrind'), ('stock', 'board, bar or bought part')], default='filament', max_length=10)),
                ('filler', models.CharField(blank=True, max_length=60)),
                ('density', models.FloatField(blank=True, null=True)),
                ('price', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('note', models.TextField(blank=True)),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='materials', to='people.workshop')),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Lot',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60)),
                ('colour', models.CharField(blank=True, max_length=40)),
                ('opened_at', models.DateTimeField(blank=True, null=True)),
                ('bought', models.FloatField(blank=True, null=True)),
                ('remaining', models.FloatField(blank=True, null=True)),
                ('price', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('note', models.TextField(blank=True)),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lots', to='people.workshop')),
                ('material', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lots', to='library.material')),
            ],
            options={
                'ordering': ['material__name', 'name'],
            },
        ),
        migrations.CreateModel(
            name='Printer',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60)),
                ('kind', models.CharField(choices=[('filament', 'filament'), ('resin', 'resin')], default='filament', max_length=10)),
                ('bed_width', models.FloatField()),
                ('bed_depth', models.FloatField()),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='printers', to='people.workshop')),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Recipe',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('version', models.PositiveSmallIntegerField(default=1)),
                ('kind', models.CharField(choices=[('filament', 'filament'), ('resin', 'resin')], default='filament', max_length=10)),
                ('settings', models.JSONField(default=dict)),
                ('reason', models.CharField(blank=True, max_length=300)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('parent', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='children', to='library.recipe')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='recipes', to='people.workshop')),
            ],
            options={
                'ordering': ['name', '-version'],
            },
        ),
        migrations.CreateModel(
            name='BringUp',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('temperature', 'Temperature tower'), ('pressure_advance', 'Pressure-advance tower'), ('flow', 'Flow by a single wall'), ('overhang', 'Overhang'), ('bridge', 'Bridge'), ('fit', 'Fit of a peg in a hole')], max_length=20)),
                ('setting', models.CharField(max_length=30)),
                ('rows', models.JSONField(default=list)),
                ('chosen', models.CharField(blank=True, max_length=80)),
                ('words', models.CharField(max_length=300)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('at', models.DateTimeField()),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.lot')),
                ('made', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='brought_up_by', to='library.recipe')),
                ('recipe', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='bring_ups', to='library.recipe')),
            ],
            options={
                'ordering': ['-at'],
            },
        ),
        migrations.CreateModel(
            name='Rig',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('dimension', models.CharField(default='force', max_length=20)),
                ('capacity', models.FloatField(blank=True, null=True)),
                ('resolution', models.FloatField(default=0)),
                ('relative_error', models.FloatField(default=0.01)),
                ('note', models.TextField(blank=True)),
                ('location', models.CharField(blank=True, max_length=80)),
                ('slowest', models.FloatField(blank=True, help_text='m/s', null=True)),
                ('fastest', models.FloatField(blank=True, help_text='m/s', null=True)),
                ('instrument', models.CharField(blank=True, help_text='where its readings come from: tcp:, serial:, sim:, browser:', max_length=120)),
                ('due_on', models.DateField(blank=True, help_text='when its calibration is due, of the last certificate', null=True)),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='rigs', to='people.workshop')),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Calibration',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('on', models.DateField()),
                ('due', models.DateField(blank=True, null=True)),
                ('certificate', models.CharField(blank=True, max_length=120)),
                ('by_whom', models.CharField(blank=True, max_length=120)),
                ('figures', models.JSONField(default=list)),
                ('note', models.TextField(blank=True)),
                ('withdrawn_at', models.DateTimeField(blank=True, null=True)),
                ('at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('rig', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='calibrations', to='library.rig')),
            ],
            options={
                'ordering': ['-on', '-id'],
            },
        ),
        migrations.CreateModel(
            name='RoomAir',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField()),
                ('humidity', models.FloatField()),
                ('temperature', models.FloatField(blank=True, null=True)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='air', to='people.workshop')),
            ],
            options={
                'ordering': ['-at'],
            },
        ),
        migrations.CreateModel(
            name='Sealing',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('since', models.DateTimeField()),
                ('until', models.DateTimeField(blank=True, null=True)),
                ('humidity', models.FloatField(blank=True, help_text='inside, a share of one', null=True)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='sealings', to='library.lot')),
            ],
            options={
                'ordering': ['-since'],
            },
        ),
        migrations.CreateModel(
            name='SpecimenVariant',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('shape', models.CharField(max_length=30)),
                ('sizes', models.JSONField()),
                ('part', models.JSONField(blank=True, help_text='of a part from a mesh file: how it lies, what is marked', null=True)),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='variants', to='people.workshop')),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Procedure',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('method_key', models.CharField(max_length=40)),
                ('orientation', models.CharField(max_length=20)),
                ('specimen_type', models.CharField(max_length=40)),
                ('speed', models.FloatField(blank=True, help_text='m/s', null=True)),
                ('conditioning', models.CharField(blank=True, max_length=120)),
                ('standard', models.CharField(blank=True, max_length=400)),
                ('parameters', models.JSONField(blank=True, default=dict)),
                ('preload', models.FloatField(blank=True, help_text='N', null=True)),
                ('reading_times', models.JSONField(blank=True, default=list, help_text='s from the start')),
                ('ranked_by', models.CharField(blank=True, max_length=40)),
                ('destroys', models.BooleanField(blank=True, help_text='as the method says when it is empty', null=True)),
                ('sizes', models.CharField(choices=[('each', 'measured on every specimen'), ('batch', 'measured on some of a batch, say three'), ('nominal', 'nominal, not measured')], default='each', max_length=10)),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='procedures', to='people.workshop')),
                ('also_on', models.ManyToManyField(blank=True, related_name='+', to='library.rig')),
                ('rig', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.rig')),
                ('variant', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.specimenvariant')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='PartMesh',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('content', models.BinaryField()),
                ('source', models.BinaryField()),
                ('source_name', models.CharField(max_length=160)),
                ('unit', models.CharField(default='mm', max_length=10)),
                ('remarks', models.JSONField(blank=True, default=list)),
                ('views', models.JSONField(default=dict)),
                ('faces', models.JSONField(default=list)),
                ('variant', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='mesh', to='library.specimenvariant')),
            ],
            options={
                'ordering': ['variant_id'],
            },
        ),
        migrations.CreateModel(
            name='Drying',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('started_at', models.DateTimeField(blank=True, null=True)),
                ('ended_at', models.DateTimeField(blank=True, null=True)),
                ('temperature', models.FloatField()),
                ('duration', models.FloatField()),
                ('before', models.FloatField(blank=True, null=True)),
                ('after', models.FloatField(blank=True, null=True)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='dryings', to='library.lot')),
            ],
            options={
                'ordering': [models.OrderBy(models.F('ended_at'), descending=True, nulls_first=True)],
                'constraints': [models.CheckConstraint(condition=models.Q(('started_at__isnull', False), ('ended_at__isnull', False), _connector='OR'), name='drying_starts_or_ends'), models.CheckConstraint(condition=models.Q(('started_at__isnull', True), ('ended_at__isnull', True), ('ended_at__gte', models.F('started_at')), _connector='OR'), name='drying_ends_after_it_starts')],
            },
        ),
        migrations.CreateModel(
            name='BlendPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('mass', models.FloatField()),
                ('lot', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='mixed_of', to='library.lot')),
                ('of', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='mixed_into', to='library.lot')),
            ],
            options={
                'ordering': ['-mass'],
                'constraints': [models.CheckConstraint(condition=models.Q(('mass__gt', 0)), name='blend_part_positive'), models.CheckConstraint(condition=models.Q(('lot', models.F('of')), _negated=True), name='blend_of_others')],
            },
        ),
        migrations.AddConstraint(
            model_name='material',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='material_name_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='material',
            constraint=models.CheckConstraint(condition=models.Q(('density__isnull', True), ('density__gt', 0), _connector='OR'), name='density_positive'),
        ),
        migrations.AddConstraint(
            model_name='material',
            constraint=models.CheckConstraint(condition=models.Q(('price__isnull', True), ('price__gte', 0), _connector='OR'), name='price_not_negative'),
        ),
        migrations.AddConstraint(
            model_name='lot',
            constraint=models.UniqueConstraint(fields=('material', 'name'), name='lot_name_once_a_material'),
        ),
        migrations.AddConstraint(
            model_name='lot',
            constraint=models.CheckConstraint(condition=models.Q(('remaining__isnull', True), ('remaining__gte', 0), _connector='OR'), name='remaining_not_negative'),
        ),
        migrations.AddConstraint(
            model_name='printer',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='printer_name_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='printer',
            constraint=models.CheckConstraint(condition=models.Q(('bed_depth__gt', 0), ('bed_width__gt', 0)), name='bed_positive'),
        ),
        migrations.AddConstraint(
            model_name='recipe',
            constraint=models.UniqueConstraint(fields=('workshop', 'name', 'version'), name='recipe_version_once'),
        ),
        migrations.AddConstraint(
            model_name='rig',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='rig_name_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='calibration',
            constraint=models.CheckConstraint(condition=models.Q(('due__isnull', True), ('due__gte', models.F('on')), _connector='OR'), name='calibration_due_after'),
        ),
        migrations.AddConstraint(
            model_name='roomair',
            constraint=models.CheckConstraint(condition=models.Q(('humidity__gte', 0), ('humidity__lte', 1)), name='humidity_is_a_share'),
        ),
        migrations.AddConstraint(
            model_name='sealing',
            constraint=models.CheckConstraint(condition=models.Q(('until__isnull', True), ('until__gte', models.F('since')), _connector='OR'), name='sealing_ends_after_it_starts'),
        ),
        migrations.AddConstraint(
            model_name='sealing',
            constraint=models.UniqueConstraint(condition=models.Q(('until__isnull', True)), fields=('lot',), name='one_sealing_open'),
        ),
        migrations.AddConstraint(
            model_name='specimenvariant',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='variant_name_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='procedure',
            constraint=models.UniqueConstraint(fields=('workshop', 'name'), name='procedure_name_once_a_workshop'),
        ),
    ]

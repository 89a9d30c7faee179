"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.contrib.postgres.functions
import django.db.models.constraints
import django.db.models.deletion
import django.db.models.functions.datetime
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("campaigns", "0001_initial"),
        ("campaigns", "0002_acceptedconfounder_remove_factor_dimension_and_more"),
        ("campaigns", "0003_campaign_printer_campaign_recipe_campaign_scatter_and_more"),
        ("campaigns", "0004_bench"),
        ("campaigns", "0005_in_hand"),
        ("campaigns", "0006_life"),
        ("campaigns", "0007_life_alone"),
        ("campaigns", "0008_swift"),
        ("campaigns", "0009_own_id"),
        ("campaigns", "0010_reading_owed"),
        ("campaigns", "0011_lies_in"),
        ("campaigns", "0012_on_rig"),
        ("campaigns", "0013_longer_codes"),
        ("campaigns", "0014_quick_counts"),
        ("campaigns", "0015_turns_by_procedure_and_day"),
        ("campaigns", "0016_specimen_uuid"),
    ]

    dependencies = [
        ('library', '0001_base'),
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Campaign',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('question', models.CharField(max_length=200)),
                ('replicates', models.PositiveSmallIntegerField(default=5)),
                ('confidence', models.FloatField(default=0.95)),
                ('seed', models.PositiveIntegerField(default=1)),
                ('shape', models.CharField(default='rank', max_length=20)),
                ('design', models.CharField(default='full', max_length=20)),
                ('scatter', models.FloatField(blank=True, null=True)),
                ('wanted', models.FloatField(blank=True, null=True)),
                ('power', models.FloatField(default=0.8)),
                ('loss', models.FloatField(default=0)),
                ('spares', models.PositiveSmallIntegerField(default=0)),
                ('notes', models.JSONField(default=list)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('archived_at', models.DateTimeField(blank=True, null=True)),
                ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('printer', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='library.printer')),
                ('recipe', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='library.recipe')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='campaigns', to='people.workshop')),
            ],
            options={
                'ordering': ['-created_at', '-id'],
            },
        ),
        migrations.CreateModel(
            name='CampaignProcedure',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('after', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='campaigns.campaignprocedure')),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to='campaigns.campaign')),
                ('procedure', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='library.procedure')),
            ],
            options={
                'ordering': ['position'],
            },
        ),
        migrations.AddField(
            model_name='campaign',
            name='procedures',
            field=models.ManyToManyField(through='campaigns.CampaignProcedure', to='library.procedure'),
        ),
        migrations.CreateModel(
            name='Condition',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('label', models.CharField(max_length=120)),
                ('detail', models.CharField(blank=True, max_length=160)),
                ('asks', models.JSONField(blank=True, default=dict, help_text='what its levels ask for')),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='conditions', to='campaigns.campaign')),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.lot')),
                ('material', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.material')),
                ('recipe', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.recipe')),
            ],
            options={
                'ordering': ['position'],
            },
        ),
        migrations.AddField(
            model_name='campaign',
            name='reference',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='campaigns.condition'),
        ),
        migrations.CreateModel(
            name='Factor',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('kind', models.CharField(max_length=30)),
                ('name', models.CharField(max_length=60)),
                ('setting', models.CharField(blank=True, max_length=40)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='factors', to='campaigns.campaign')),
            ],
            options={
                'ordering': ['position'],
            },
        ),
        migrations.CreateModel(
            name='Level',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('label', models.CharField(max_length=80)),
                ('value', models.FloatField(blank=True, null=True)),
                ('specimen_type', models.CharField(blank=True, max_length=40)),
                ('factor', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='levels', to='campaigns.factor')),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.lot')),
                ('material', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.material')),
                ('variant', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.specimenvariant')),
            ],
            options={
                'ordering': ['position'],
            },
        ),
        migrations.AddField(
            model_name='condition',
            name='levels',
            field=models.ManyToManyField(related_name='conditions', to='campaigns.level'),
        ),
        migrations.CreateModel(
            name='Specimen',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('uuid', models.UUIDField(db_default=django.contrib.postgres.functions.RandomUUID(), default=uuid.uuid4, editable=False)),
                ('code', models.CharField(max_length=7)),
                ('own_id', models.CharField(blank=True, db_index=True, max_length=80)),
                ('replicate', models.PositiveSmallIntegerField()),
                ('spare', models.BooleanField(default=False)),
                ('note', models.TextField(blank=True)),
                ('made', models.CharField(db_index=True, default='planned', max_length=10)),
                ('made_how', models.CharField(blank=True, max_length=60)),
                ('made_at', models.DateTimeField(blank=True, null=True)),
                ('made_as', models.JSONField(blank=True, default=dict)),
                ('defects', models.JSONField(blank=True, default=list)),
                ('owed', models.JSONField(blank=True, default=list)),
                ('owes', models.CharField(blank=True, default='making', max_length=20)),
                ('ready_at', models.DateTimeField(blank=True, null=True)),
                ('spent', models.BooleanField(default=False)),
                ('treated', models.BooleanField(default=False)),
                ('lies_in', models.CharField(blank=True, default='', max_length=160)),
                ('deviations', models.JSONField(blank=True, default=list)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='specimens', to='campaigns.campaign')),
                ('condition', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='specimens', to='campaigns.condition')),
                ('procedure', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='specimens', to='library.procedure')),
                ('replaces', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='replaced_by', to='campaigns.specimen')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to='people.workshop')),
            ],
            options={
                'ordering': ['condition_id', 'replicate', 'id'],
            },
        ),
        migrations.CreateModel(
            name='LifeEvent',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=20)),
                ('at', models.DateTimeField()),
                ('noted_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('what', models.CharField(max_length=400)),
                ('detail', models.JSONField(blank=True, default=dict)),
                ('undone_at', models.DateTimeField(blank=True, null=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('specimen', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='life', to='campaigns.specimen')),
            ],
            options={
                'ordering': ['at', 'id'],
            },
        ),
        migrations.CreateModel(
            name='Turn',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('step', models.PositiveSmallIntegerField(default=0)),
                ('open', models.BooleanField(default=True)),
                ('run_order', models.PositiveIntegerField()),
                ('skips', models.PositiveSmallIntegerField(default=0)),
                ('speed', models.FloatField(blank=True, help_text='m/s', null=True)),
                ('conditioning', models.CharField(blank=True, max_length=120)),
                ('state', models.CharField(db_index=True, default='waiting', max_length=10)),
                ('outcome', models.CharField(blank=True, max_length=20)),
                ('place', models.CharField(blank=True, max_length=30)),
                ('excluded', models.BooleanField(default=False)),
                ('excluded_because', models.CharField(blank=True, max_length=300)),
                ('stated', models.BooleanField(default=False)),
                ('reading_owed', models.BooleanField(default=False, help_text='tested, its reading to follow')),
                ('untimely', models.CharField(blank=True, max_length=300)),
                ('spends', models.BooleanField(default=False)),
                ('tested_at', models.DateTimeField(blank=True, null=True)),
                ('tested_as', models.JSONField(blank=True, default=dict)),
                ('in_hand_since', models.DateTimeField(blank=True, null=True)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='turns', to='campaigns.campaign')),
                ('condition', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='turns', to='campaigns.condition')),
                ('in_hand_of', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('procedure', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='turns', to='library.procedure')),
                ('rig', models.ForeignKey(blank=True, help_text="instead of its procedure's", null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='library.rig')),
                ('specimen', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='turns', to='campaigns.specimen')),
            ],
            options={
                'ordering': ['run_order', 'id'],
            },
        ),
        migrations.CreateModel(
            name='BaseRecipe',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('material', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.material')),
                ('procedure', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='library.procedure')),
                ('recipe', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='library.recipe')),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='base_recipes', to='campaigns.campaign')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('campaign', 'material', 'procedure'), name='base_recipe_once', nulls_distinct=False)],
            },
        ),
        migrations.CreateModel(
            name='AcceptedConfounder',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=160)),
                ('sentence', models.CharField(max_length=500)),
                ('reason', models.CharField(max_length=300)),
                ('at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='accepted', to='campaigns.campaign')),
            ],
            options={
                'ordering': ['at'],
                'constraints': [models.UniqueConstraint(fields=('campaign', 'key'), name='confounder_accepted_once')],
            },
        ),
        migrations.AddConstraint(
            model_name='campaignprocedure',
            constraint=models.UniqueConstraint(fields=('campaign', 'procedure'), name='procedure_once_a_campaign'),
        ),
        migrations.AddConstraint(
            model_name='campaign',
            constraint=models.CheckConstraint(condition=models.Q(('replicates__gte', 1), ('replicates__lte', 100)), name='replicates_1_to_100'),
        ),
        migrations.AddConstraint(
            model_name='campaign',
            constraint=models.CheckConstraint(condition=models.Q(('confidence__gt', 0), ('confidence__lt', 1)), name='confidence_0_to_1'),
        ),
        migrations.AddConstraint(
            model_name='factor',
            constraint=models.UniqueConstraint(fields=('campaign', 'name'), name='factor_name_once_a_campaign'),
        ),
        migrations.AddConstraint(
            model_name='level',
            constraint=models.UniqueConstraint(fields=('factor', 'label'), name='level_label_once_a_factor'),
        ),
        migrations.AddConstraint(
            model_name='condition',
            constraint=models.UniqueConstraint(fields=('campaign', 'label', 'detail'), name='condition_once_a_campaign'),
        ),
        migrations.AddConstraint(
            model_name='specimen',
            constraint=models.UniqueConstraint(fields=('workshop', 'code'), name='specimen_code_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='specimen',
            constraint=models.UniqueConstraint(fields=('uuid', 'workshop'), name='specimen_uuid_once_a_workshop'),
        ),
        migrations.AddConstraint(
            model_name='specimen',
            constraint=models.UniqueConstraint(fields=('condition', 'procedure', 'replicate'), name='replicate_once'),
        ),
        migrations.AddConstraint(
            model_name='specimen',
            constraint=models.CheckConstraint(condition=models.Q(('made__in', ['planned', 'made', 'failed'])), name='made_is_a_state'),
        ),
        migrations.AddIndex(
            model_name='lifeevent',
            index=models.Index(fields=['specimen', 'kind'], name='campaigns_l_specime_07849c_idx'),
        ),
        migrations.AddIndex(
            model_name='turn',
            index=models.Index(fields=['campaign', 'procedure', 'state'], name='campaigns_t_campaig_6db744_idx'),
        ),
        migrations.AddIndex(
            model_name='turn',
            index=models.Index(fields=['condition', 'procedure', 'state', 'tested_at'], name='campaigns_t_conditi_5c81f7_idx'),
        ),
        migrations.AddIndex(
            model_name='turn',
            index=models.Index(fields=['tested_at'], name='campaigns_t_tested__92d210_idx'),
        ),
        migrations.AddIndex(
            model_name='turn',
            index=models.Index(fields=['procedure', 'tested_at'], name='campaigns_t_procedu_9f899a_idx'),
        ),
        migrations.AddConstraint(
            model_name='turn',
            constraint=models.UniqueConstraint(deferrable=django.db.models.constraints.Deferrable['DEFERRED'], fields=('specimen', 'procedure'), name='one_turn_a_procedure'),
        ),
        migrations.AddConstraint(
            model_name='turn',
            constraint=models.UniqueConstraint(deferrable=django.db.models.constraints.Deferrable['DEFERRED'], fields=('specimen', 'step'), name='one_turn_a_step'),
        ),
        migrations.AddConstraint(
            model_name='turn',
            constraint=models.UniqueConstraint(condition=models.Q(('spends', True)), fields=('specimen',), name='spent_by_one_test'),
        ),
        migrations.AddConstraint(
            model_name='turn',
            constraint=models.CheckConstraint(condition=models.Q(('state__in', ['waiting', 'running', 'read', 'held', 'broken', 'void', 'gone'])), name='turn_state_is_one'),
        ),
    ]

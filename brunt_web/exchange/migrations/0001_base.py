"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("exchange", "0001_brought_in"),
    ]

    dependencies = [
        ('campaigns', '0001_base'),
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='BroughtIn',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(blank=True, max_length=160)),
                ('at', models.DateTimeField()),
                ('count', models.PositiveIntegerField()),
                ('conditions', models.JSONField(blank=True, default=list)),
                ('materials', models.JSONField(blank=True, default=list)),
                ('undone_at', models.DateTimeField(blank=True, null=True)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('campaign', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='campaigns.campaign')),
            ],
            options={
                'ordering': ['-at', '-id'],
            },
        ),
        migrations.CreateModel(
            name='BroughtInRow',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('entry_key', models.UUIDField()),
                ('line', models.PositiveIntegerField()),
                ('new_specimen', models.BooleanField(default=False)),
                ('made_here', models.BooleanField(default=False)),
                ('named_here', models.BooleanField(default=False)),
                ('brought_in', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='rows', to='exchange.broughtin')),
                ('turn', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='campaigns.turn')),
            ],
        ),
        migrations.CreateModel(
            name='HeadingMeaning',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('heading', models.CharField(max_length=120)),
                ('part', models.CharField(blank=True, max_length=60)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='people.workshop')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('workshop', 'heading'), name='heading_means_one_thing')],
            },
        ),
    ]

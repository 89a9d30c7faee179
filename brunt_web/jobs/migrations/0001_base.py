"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import django.db.models.deletion
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("jobs", "0001_jobs"),
    ]

    dependencies = [
        ('people', '0001_base'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Job',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ('title', models.CharField(max_length=200)),
                ('path', models.CharField(max_length=500)),
                ('query', models.TextField(blank=True)),
                ('post', models.JSONField(default=list)),
                ('headers', models.JSONField(default=dict)),
                ('back', models.CharField(default='/', max_length=500)),
                ('state', models.CharField(choices=[('waiting', 'waits its turn'), ('running', 'being done'), ('done', 'done'), ('refused', 'refused'), ('cancelled', 'cancelled'), ('failed', 'failed')], default='waiting', max_length=10)),
                ('done', models.BigIntegerField(default=0)),
                ('total', models.BigIntegerField(default=0)),
                ('unit', models.CharField(blank=True, max_length=40)),
                ('words', models.CharField(blank=True, max_length=400)),
                ('cancel', models.BooleanField(default=False)),
                ('attempts', models.PositiveSmallIntegerField(default=0)),
                ('created_at', models.DateTimeField()),
                ('begun_at', models.DateTimeField(blank=True, null=True)),
                ('seen_at', models.DateTimeField(blank=True, null=True)),
                ('ended_at', models.DateTimeField(blank=True, null=True)),
                ('peak_mb', models.PositiveIntegerField(default=0)),
                ('status', models.PositiveSmallIntegerField(default=0)),
                ('answer_headers', models.JSONField(default=dict)),
                ('answer', models.BinaryField(default=b'')),
                ('told', models.JSONField(default=list)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='jobs', to='people.workshop')),
            ],
            options={
                'ordering': ('-created_at',),
            },
        ),
        migrations.CreateModel(
            name='JobFile',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('field', models.CharField(max_length=80)),
                ('name', models.CharField(max_length=255)),
                ('kind', models.CharField(blank=True, max_length=120)),
                ('size', models.BigIntegerField()),
                ('stored', models.CharField(max_length=255)),
                ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='files', to='jobs.job')),
            ],
        ),
        migrations.AddIndex(
            model_name='job',
            index=models.Index(fields=['workshop', '-created_at'], name='jobs_job_worksho_dd3087_idx'),
        ),
    ]

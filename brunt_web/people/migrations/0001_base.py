"""Everything until the names of decision 26, in one step; a database of before took it in many."""

import brunt_web.people.models
import django.contrib.postgres.functions
import django.db.models.deletion
import django.db.models.functions.datetime
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [
        ("people", "0001_initial"),
        ("people", "0002_also"),
        ("people", "0003_rights"),
        ("people", "0004_ways"),
        ("people", "0005_keys"),
        ("people", "0006_identity"),
        ("people", "0007_idle_by_default"),
        ("people", "0008_instrument_networks"),
        ("people", "0009_house"),
        ("people", "0010_second_factor"),
    ]

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='House',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('storage', models.CharField(max_length=80)),
                ('secret', models.CharField(max_length=80)),
            ],
        ),
        migrations.CreateModel(
            name='Passkey',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60)),
                ('credential', models.BinaryField(unique=True)),
                ('public_key', models.BinaryField()),
                ('sign_count', models.BigIntegerField(default=0)),
                ('made_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('used_at', models.DateTimeField(blank=True, null=True)),
                ('user', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='passkeys', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['made_at'],
            },
        ),
        migrations.CreateModel(
            name='SecondFactor',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('secret', models.CharField(max_length=64)),
                ('confirmed_at', models.DateTimeField(blank=True, null=True)),
                ('step', models.BigIntegerField(default=0)),
                ('codes', models.JSONField(blank=True, default=list)),
                ('failed', models.PositiveIntegerField(default=0)),
                ('failed_at', models.DateTimeField(blank=True, null=True)),
                ('user', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='second_factor', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.CreateModel(
            name='Workshop',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('uuid', models.UUIDField(db_default=django.contrib.postgres.functions.RandomUUID(), default=uuid.uuid4, editable=False)),
                ('name', models.CharField(max_length=120, unique=True)),
                ('first_id', models.PositiveIntegerField(db_default=0, default=brunt_web.people.models._first_id)),
                ('currency', models.CharField(default='€', max_length=8)),
                ('next_specimen', models.PositiveIntegerField(default=0)),
                ('invented', models.BooleanField(default=False)),
                ('date_form', models.CharField(choices=[('j M Y', '26 Nov 2026'), ('d.m.Y', '26.11.2026'), ('d/m/Y', '26/11/2026'), ('m/d/Y', '11/26/2026'), ('Y-m-d', '2026-11-26')], default='j M Y', max_length=10)),
                ('comma', models.BooleanField(default=False, help_text='decimals are written with a comma')),
                ('idle_minutes', models.PositiveIntegerField(default=720, help_text='0: nobody is signed out')),
                ('instrument_networks', models.CharField(blank=True, default='10.0.0.0/8, 172.16.0.0/12, 192.168.0.0/16, fd00::/8', max_length=400)),
                ('created_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('uuid',), name='workshop_uuid_once')],
            },
        ),
        migrations.CreateModel(
            name='Seat',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('role', models.CharField(default='bench lead', max_length=60)),
                ('rights', models.CharField(choices=[('reader', 'reader'), ('tester', 'tester'), ('lead', 'lead'), ('owner', 'owner')], default='owner', max_length=10)),
                ('elsewhere', models.JSONField(blank=True, default=dict)),
                ('single_keys', models.BooleanField(default=True, help_text='whether a letter alone acts on a page')),
                ('user', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='seat', to=settings.AUTH_USER_MODEL)),
                ('also', models.ManyToManyField(blank=True, help_text='where else they may sit down', related_name='+', to='people.workshop')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='seats', to='people.workshop')),
            ],
        ),
        migrations.CreateModel(
            name='Invitation',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('rights', models.CharField(choices=[('reader', 'reader'), ('tester', 'tester'), ('lead', 'lead'), ('owner', 'owner')], max_length=10)),
                ('token', models.CharField(default=brunt_web.people.models._token, max_length=64, unique=True)),
                ('until', models.DateTimeField()),
                ('made_at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('taken_back_at', models.DateTimeField(blank=True, null=True)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('used_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='invitations', to='people.workshop')),
            ],
            options={
                'ordering': ['-made_at'],
            },
        ),
    ]

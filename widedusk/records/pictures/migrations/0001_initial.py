"""Pictures and measurements move out of the room of the pole, tables and all."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('pole', '0004_axis_measured_or_usual'),
        ('grounds', '0002_access_and_caution'),
        ('kit', '0003_rigs_of_parts'),
        ('targets', '0002_more_of_a_target'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.RunSQL(f"ALTER TABLE pole_{one} RENAME TO pictures_{one}", f"ALTER TABLE pictures_{one} RENAME TO pole_{one}")
                for one in ("picture", "measurement")
            ],
            state_operations=[
        migrations.CreateModel(
            name='Picture',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('updated_at', models.DateTimeField(auto_now=True)),
                ('deleted_at', models.DateTimeField(blank=True, default=None, null=True)),
                ('digest', models.CharField(max_length=64)),
                ('file', models.CharField(blank=True, default='', max_length=400)),
                ('from_folder', models.BooleanField(default=False)),
                ('kept', models.BooleanField(default=False)),
                ('size_bytes', models.BigIntegerField(default=0)),
                ('header', models.JSONField(default=dict)),
                ('solution', models.JSONField(default=None, null=True)),
                ('preview', models.BinaryField(default=None, null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ('-created_at', '-id'),
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Measurement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('task', models.CharField(choices=[('axis', 'axis'), ('series', 'series'), ('pointing', 'pointing'), ('trial', 'trial'), ('camera', 'camera')], max_length=10)),
                ('night', models.DateField()),
                ('asked', models.JSONField(default=dict)),
                ('state', models.CharField(choices=[('waiting', 'waiting'), ('running', 'running'), ('done', 'done'), ('failed', 'failed'), ('cancelled', 'cancelled')], default='waiting', max_length=10)),
                ('share', models.FloatField(default=0.0)),
                ('doing', models.CharField(blank=True, default='', max_length=120)),
                ('cancel_wanted', models.BooleanField(default=False)),
                ('beat_at', models.DateTimeField(default=None, null=True)),
                ('claim', models.UUIDField(default=None, null=True)),
                ('job', models.BigIntegerField(default=None, null=True)),
                ('result', models.JSONField(default=None, null=True)),
                ('faults', models.JSONField(default=list)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('finished_at', models.DateTimeField(default=None, null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('rig', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='measurements', to='kit.rig')),
                ('spot', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='measurements', to='grounds.spot')),
                ('target', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='measurements', to='targets.target')),
            ],
            options={
                'ordering': ('-created_at', '-id'),
                'indexes': [models.Index(fields=['owner', 'spot', 'night'], name='measurements_of_a_night')],
            },
        ),
    ],
        )
    ]

"""Plans, outings, trips and what was gathered become nights with runs; 0002 takes over what the old tables hold."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


OLD = (
    *("plans_plan", "gathered_session", "trips_outing", "trips_outing_rigs", "trips_tripnight"),
    *("trips_run_of_nights", "trips_run_of_nights_rigs", "trips_run_of_nights_targets"),
)


def step_aside(apps, schema_editor):
    """The old tables, where there are any, make room: names of their indexes are wanted again."""
    with schema_editor.connection.cursor() as cursor:
        here = schema_editor.connection.introspection.table_names(cursor)
        if "plans_plan" not in here:
            return
        if missing := set(OLD) - set(here):
            raise RuntimeError(f"The tables {sorted(missing)} are missing: bring this database up to the version before this one first.")
        cursor.execute("CREATE SCHEMA before_nights")
        for table in OLD:
            cursor.execute(f"ALTER TABLE {table} SET SCHEMA before_nights")


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('grounds', '0002_access_and_caution'),
        ('kit', '0003_rigs_of_parts'),
        ('targets', '0002_more_of_a_target'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RunPython(step_aside, migrations.RunPython.noop),
        migrations.CreateModel(
            name='Night',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('updated_at', models.DateTimeField(auto_now=True)),
                ('deleted_at', models.DateTimeField(blank=True, default=None, null=True)),
                ('date', models.DateField()),
                ('targets', models.JSONField(default=list)),
                ('ticked', models.JSONField(default=list)),
                ('forgotten', models.JSONField(default=dict)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('rigs', models.ManyToManyField(blank=True, related_name='nights', to='kit.rig')),
                ('spot', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='nights', to='grounds.spot')),
            ],
            options={
                'ordering': ('-date', 'id'),
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Run',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('updated_at', models.DateTimeField(auto_now=True)),
                ('deleted_at', models.DateTimeField(blank=True, default=None, null=True)),
                ('state', models.CharField(choices=[('planned', 'planned'), ('running', 'running'), ('done', 'done'), ('dropped', 'dropped'), ('noted', 'noted')], default='planned', max_length=8)),
                ('choices', models.JSONField(default=dict)),
                ('snapshot', models.JSONField(default=dict)),
                ('frames', models.PositiveIntegerField(default=None, null=True)),
                ('exposure_s', models.FloatField(default=None, null=True)),
                ('f_number', models.FloatField(default=None, null=True)),
                ('iso', models.PositiveIntegerField(default=None, null=True)),
                ('sky_mag', models.FloatField(default=None, null=True)),
                ('filter_name', models.CharField(blank=True, default='', max_length=120)),
                ('night', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='nights.night')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('rig', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='kit.rig')),
                ('target', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='targets.target')),
            ],
            options={
                'ordering': ('night__date', 'id'),
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Trip',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('updated_at', models.DateTimeField(auto_now=True)),
                ('deleted_at', models.DateTimeField(blank=True, default=None, null=True)),
                ('first_night', models.DateField()),
                ('wake_time', models.TimeField()),
                ('drive_h', models.FloatField(default=0.0)),
                ('nights', models.ManyToManyField(related_name='trips', to='nights.night')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('rigs', models.ManyToManyField(blank=True, related_name='trips', to='kit.rig')),
                ('targets', models.ManyToManyField(blank=True, related_name='trips', to='targets.target')),
            ],
            options={
                'ordering': ('-first_night', 'name', 'id'),
                'abstract': False,
            },
        ),
        migrations.AddConstraint(
            model_name='night',
            constraint=models.UniqueConstraint(condition=models.Q(('deleted_at', None)), fields=('owner', 'spot', 'date'), name='one_night_a_date_and_spot', nulls_distinct=False),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.UniqueConstraint(condition=models.Q(('deleted_at', None), ('state', 'planned')), fields=('owner', 'name'), name='one_plan_of_a_name'),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.CheckConstraint(condition=models.Q(models.Q(('rig__isnull', False), ('state', 'planned')), ('state', 'dropped'), models.Q(('exposure_s__isnull', False), ('f_number__isnull', False), ('frames__isnull', False)), ('state', 'running'), _connector='OR'), name='a_plan_has_its_rig_and_what_was_shot_its_frames'),
        ),
        migrations.AddConstraint(
            model_name='trip',
            constraint=models.UniqueConstraint(condition=models.Q(('deleted_at', None)), fields=('owner', 'name'), name='one_trip_of_a_name'),
        ),
    ]

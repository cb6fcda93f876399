"""A run has its plan, its result and what is said of it in tables of their own. The next migration fills them."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ('frames', '0007_runs_that_fell_silent'),
        ('kit', '0005_version'),
        ('nights', '0010_best_from_every_ten_minutes'),
        ('targets', '0005_framing_in_use'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='RunFact',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('source', models.CharField(choices=[('user', 'user'), ('files', 'files'), ('phone', 'phone'), ('plan', 'plan')], max_length=5)),
                ('figure', models.CharField(choices=[('planned', 'planned'), ('skipped', 'skipped'), ('begins_at', 'begins_at'), ('ends_at', 'ends_at'), ('frames', 'frames'), ('kept', 'kept'), ('exposure_s', 'exposure_s'), ('f_number', 'f_number'), ('iso', 'iso'), ('sky_mag', 'sky_mag'), ('filter_name', 'filter_name')], max_length=12)),
                ('number', models.FloatField(default=None, null=True)),
                ('moment', models.DateTimeField(default=None, null=True)),
                ('words', models.CharField(default=None, max_length=120, null=True)),
                ('order', models.BigIntegerField()),
            ],
        ),
        migrations.CreateModel(
            name='RunPlan',
            fields=[
                ('run', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='plan', serialize=False, to='nights.run')),
                ('choices', models.JSONField(default=dict)),
                ('planned', models.BooleanField(default=True)),
                ('changed_at', models.DateTimeField()),
                ('begins_at', models.DateTimeField(default=None, null=True)),
                ('ends_at', models.DateTimeField(default=None, null=True)),
                ('pinned', models.BooleanField(default=False)),
                ('change_at', models.DateTimeField(default=None, null=True)),
                ('first_frame_at', models.DateTimeField(default=None, null=True)),
                ('last_frame_ends_at', models.DateTimeField(default=None, null=True)),
                ('frames', models.PositiveIntegerField(default=None, null=True)),
                ('exposure_s', models.FloatField(default=None, null=True)),
                ('signal', models.FloatField(default=0.0)),
            ],
        ),
        migrations.CreateModel(
            name='RunResult',
            fields=[
                ('run', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='result', serialize=False, to='nights.run')),
                ('begins_at', models.DateTimeField(default=None, null=True)),
                ('ends_at', models.DateTimeField(default=None, null=True)),
                ('frames', models.PositiveIntegerField(default=None, null=True)),
                ('kept', models.PositiveIntegerField(default=None, null=True)),
                ('exposure_s', models.FloatField(default=None, null=True)),
                ('f_number', models.FloatField(default=None, null=True)),
                ('iso', models.PositiveIntegerField(default=None, null=True)),
                ('sky_mag', models.FloatField(default=None, null=True)),
                ('filter_name', models.CharField(blank=True, default='', max_length=120)),
                ('recognition', models.CharField(blank=True, choices=[('planned', 'planned'), ('target', 'target'), ('not solved', 'not solved'), ('other field', 'other field'), ('other lens', 'other lens'), ('user', 'user')], default='', max_length=12)),
                ('seen_ra_deg', models.FloatField(default=None, null=True)),
                ('seen_dec_deg', models.FloatField(default=None, null=True)),
                ('seen_width_deg', models.FloatField(default=None, null=True)),
            ],
        ),
        migrations.RemoveConstraint(
            model_name='run',
            name='a_plan_has_its_rig_and_what_was_shot_its_frames',
        ),
        migrations.RemoveConstraint(
            model_name='run',
            name='one_plan_of_a_name',
        ),
        migrations.AddField(
            model_name='event',
            name='run',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='events', to='nights.run'),
        ),
        migrations.AddField(
            model_name='run',
            name='ordinal',
            field=models.PositiveSmallIntegerField(default=1),
        ),
        migrations.AddField(
            model_name='run',
            name='origin',
            field=models.CharField(choices=[('plan', 'plan'), ('schedule', 'schedule'), ('files', 'files'), ('noted', 'noted')], default='files', max_length=8),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name='run',
            name='panel_column',
            field=models.PositiveSmallIntegerField(default=None, null=True),
        ),
        migrations.AddField(
            model_name='run',
            name='panel_row',
            field=models.PositiveSmallIntegerField(default=None, null=True),
        ),
        migrations.AddField(
            model_name='runfact',
            name='run',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='facts', to='nights.run'),
        ),
        migrations.AddConstraint(
            model_name='runfact',
            constraint=models.UniqueConstraint(fields=('run', 'source', 'figure'), name='one_statement_of_a_source_on_a_figure'),
        ),
    ]

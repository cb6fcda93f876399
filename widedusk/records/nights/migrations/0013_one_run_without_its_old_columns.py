"""What runs held in columns of their own, and in JSON, lies in tables now."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ('nights', '0012_fill_one_run'),
    ]

    operations = [
        migrations.RemoveField(
            model_name='run',
            name='begins_at',
        ),
        migrations.RemoveField(
            model_name='run',
            name='choices',
        ),
        migrations.RemoveField(
            model_name='run',
            name='ends_at',
        ),
        migrations.RemoveField(
            model_name='run',
            name='expected',
        ),
        migrations.RemoveField(
            model_name='run',
            name='exposure_s',
        ),
        migrations.RemoveField(
            model_name='run',
            name='f_number',
        ),
        migrations.RemoveField(
            model_name='run',
            name='filter_name',
        ),
        migrations.RemoveField(
            model_name='run',
            name='frames',
        ),
        migrations.RemoveField(
            model_name='run',
            name='held',
        ),
        migrations.RemoveField(
            model_name='run',
            name='iso',
        ),
        migrations.RemoveField(
            model_name='run',
            name='panel',
        ),
        migrations.RemoveField(
            model_name='run',
            name='scheduled',
        ),
        migrations.RemoveField(
            model_name='run',
            name='sky_mag',
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.UniqueConstraint(condition=models.Q(('deleted_at', None), ('origin', 'plan'), ('state', 'planned')), fields=('owner', 'name'), name='one_plan_of_a_name'),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.UniqueConstraint(condition=models.Q(('deleted_at', None), ('origin', 'schedule')), fields=('night', 'rig', 'target', 'framing', 'panel_row', 'panel_column', 'ordinal'), name='one_scheduled_run_of_a_rig_picture_and_ordinal', nulls_distinct=False),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.CheckConstraint(condition=models.Q(models.Q(('state', 'planned'), _negated=True), ('rig__isnull', False), _connector='OR'), name='a_planned_run_has_its_rig'),
        ),
    ]

"""What was called a trip was one night out: it becomes an outing, and trips are runs of nights."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("grounds", "0002_access_and_caution"),
        ("kit", "0003_rigs_of_parts"),
        ("targets", "0002_more_of_a_target"),
        ("trips", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RemoveConstraint(model_name="trip", name="one_trip_of_a_name"),
        migrations.RemoveConstraint(model_name="trip", name="one_trip_a_night_and_spot"),
        migrations.RenameModel(old_name="Trip", new_name="Outing"),
        migrations.AddConstraint(
            model_name="outing",
            constraint=models.UniqueConstraint(
                condition=models.Q(("deleted_at", None)), fields=("owner", "spot", "night"), name="one_outing_a_night_and_spot"
            ),
        ),
        migrations.AddField(model_name="outing", name="targets", field=models.JSONField(default=list)),
        migrations.AlterField(
            model_name="outing",
            name="spot",
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="outings", to="grounds.spot"),
        ),
        migrations.AlterField(
            model_name="outing", name="rigs", field=models.ManyToManyField(blank=True, related_name="outings", to="kit.rig")
        ),
    ]

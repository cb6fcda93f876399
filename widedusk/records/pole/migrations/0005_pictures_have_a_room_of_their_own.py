"""The tables of pictures and measurements belong to records/pictures from now on; nothing changes in them."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("pole", "0004_axis_measured_or_usual"), ("pictures", "0001_initial")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    model_name="alignment",
                    name="measurement",
                    field=models.OneToOneField(
                        default=None,
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="alignment",
                        to="pictures.measurement",
                    ),
                ),
                migrations.DeleteModel(name="Measurement"),
                migrations.DeleteModel(name="Picture"),
            ]
        )
    ]

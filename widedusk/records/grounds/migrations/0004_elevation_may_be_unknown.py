"""A place without an elevation had 0 m, silently; from now on nobody knows it."""

from django.apps.registry import Apps
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def forget_nought(apps: Apps, schema: BaseDatabaseSchemaEditor) -> None:
    apps.get_model("grounds", "Place").objects.filter(height_m=0.0).update(height_m=None)


def give_nought(apps: Apps, schema: BaseDatabaseSchemaEditor) -> None:
    apps.get_model("grounds", "Place").objects.filter(height_m=None).update(height_m=0.0)


class Migration(migrations.Migration):
    dependencies = [("grounds", "0003_version")]

    operations = [
        migrations.AlterField("place", "height_m", models.FloatField(null=True)),
        migrations.RunPython(forget_nought, give_nought, elidable=True),
    ]

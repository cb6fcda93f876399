"""A rig no longer owns a camera, a lens and a tracker of its own."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("kit", "0002_inventory")]

    operations = [
        migrations.RemoveField(model_name="rig", name="camera"),
        migrations.RemoveField(model_name="rig", name="lens"),
        migrations.RemoveField(model_name="rig", name="tracker"),
        migrations.RemoveField(model_name="rig", name="support"),
        migrations.DeleteModel(name="Carried"),
        migrations.DeleteModel(name="IsoStep"),
        migrations.DeleteModel(name="Camera"),
        migrations.DeleteModel(name="Lens"),
        migrations.DeleteModel(name="Tracker"),
    ]

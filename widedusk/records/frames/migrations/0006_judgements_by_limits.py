import django.db.models.deletion
from django.db import migrations, models


def forget(apps, schema_editor):
    """They are kept to open a page sooner, and are made again when they are asked for."""
    apps.get_model("frames", "Judgement").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [("frames", "0005_judgement")]

    operations = [
        migrations.RunPython(forget, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="judgement",
            name="run",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="judgements", to="nights.run"),
        ),
        migrations.AddField(
            model_name="judgement", name="headline", field=models.CharField(blank=True, default="", max_length=100)
        ),
        migrations.AddConstraint(
            model_name="judgement",
            constraint=models.UniqueConstraint(fields=("run", "asked"), name="one_judgement_of_a_run_and_what_it_hangs_on"),
        ),
    ]

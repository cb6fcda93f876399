from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("targets", "0001_initial")]

    operations = [
        migrations.AddField(model_name="target", name="width_deg", field=models.FloatField(blank=True, default=None, null=True)),
        migrations.AddField(model_name="target", name="angle_deg", field=models.FloatField(default=0.0)),
        migrations.AddField(model_name="target", name="kind", field=models.CharField(default="other", max_length=40)),
        migrations.AddField(model_name="target", name="light", field=models.CharField(default="both", max_length=20)),
        migrations.AddField(model_name="target", name="numbers", field=models.CharField(blank=True, default="", max_length=240)),
        migrations.AddField(model_name="target", name="constellation", field=models.CharField(blank=True, default="", max_length=3)),
        migrations.AddField(model_name="target", name="catalogue_key", field=models.CharField(blank=True, default="", max_length=120)),
    ]

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("grounds", "0001_initial")]

    operations = [
        migrations.AddField(model_name="place", name="access", field=models.TextField(blank=True, default="")),
        migrations.AddField(model_name="place", name="caution", field=models.TextField(blank=True, default="")),
    ]

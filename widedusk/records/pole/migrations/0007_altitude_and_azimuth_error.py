"""An axis error is told as the field tells it: altitude and azimuth error, in the columns and in what was measured."""

from django.db import migrations, models

NAMES = {"high_arcmin": "altitude_arcmin", "east_arcmin": "azimuth_arcmin", "high_sigma": "altitude_sigma", "east_sigma": "azimuth_sigma"}
RULE = "an_axis_is_measured_or_expected"


def rename_in_results(apps, names):
    for row in apps.get_model("pictures", "Measurement").objects.filter(result__has_key="error").iterator():
        row.result["error"] = {names.get(name, name): value for name, value in row.result["error"].items()}
        row.save(update_fields=["result"])


class Migration(migrations.Migration):
    dependencies = [("pole", "0006_version"), ("pictures", "0001_initial")]
    operations = [
        migrations.RemoveConstraint("alignment", RULE),
        *(migrations.RenameField("alignment", old, new) for old, new in NAMES.items()),
        migrations.AddConstraint(
            "alignment",
            models.CheckConstraint(
                condition=models.Q(worst_arcmin=None, **{f"{name}__isnull": False for name in NAMES.values()})
                | models.Q(worst_arcmin__isnull=False, **dict.fromkeys(NAMES.values())),
                name=RULE,
            ),
        ),
        migrations.RunPython(
            lambda apps, _: rename_in_results(apps, NAMES),
            lambda apps, _: rename_in_results(apps, {new: old for old, new in NAMES.items()}),
        ),
    ]

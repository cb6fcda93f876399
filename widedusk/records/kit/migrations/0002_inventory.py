"""Parts get a cupboard of their own; every rig keeps what it had, now as placements of parts."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def carry_over(apps, schema_editor):
    Rig, Part, Placement = (apps.get_model("kit", name) for name in ("Rig", "Part", "Placement"))
    taken = set()

    def part_for(rig, kind, name, values):
        number, free = 2, name[:120]
        while (rig.owner_id, free) in taken:
            free, number = f"{name[:110]} {number}", number + 1
        taken.add((rig.owner_id, free))
        return Part.objects.create(owner_id=rig.owner_id, kind=kind, name=free, values=values)

    def plain(row, *names):
        return {name: getattr(row, name) for name in names}

    for rig in Rig.objects.select_related("camera", "lens", "tracker"):
        camera, lens, tracker = rig.camera, rig.lens, rig.tracker
        steps = [plain(step, "iso", "read_noise_e", "full_well_e") for step in camera.iso_steps.order_by("iso")]
        sensor = plain(camera, "mass_g", "width_mm", "height_mm", "pitch_um", "raw_file_mb", "response_nm", "dark_e_s")
        drive = plain(tracker, "rating_g", "rating_includes_counterweights", "pe_half_amplitude_arcsec", "pe_period_s", "scope_view")
        made = [
            (part_for(rig, "camera", camera.name, {**sensor, "iso_steps": steps}), True),
            (part_for(rig, "lens", lens.name, plain(lens, "mass_g", "focal_mm", "f_widest", "f_best")), True),
            # A tracker's own mass was never asked for; 0 g says that it has not been weighed.
            (part_for(rig, "tracker", tracker.name, {**drive, "mass_g": 0.0}), False),
        ]
        holds = rig.support
        for item in rig.carried.order_by("id"):
            kind = "counterweight" if item.counterweight else "other"
            if not item.counterweight and holds and holds.split()[-1] in item.name.lower():
                kind, holds = rig.support, ""
            made.append((part_for(rig, kind, item.name, {"mass_g": item.mass_g}), True))
        if holds:
            made.append((part_for(rig, holds, f"{holds.capitalize()} of {rig.name}", {"mass_g": 0.0}), True))
        Placement.objects.bulk_create(
            Placement(rig=rig, part=part, order=order, arm_mm=0.0, along_mm=0.0, carried=carried)
            for order, (part, carried) in enumerate(made)
        )


class Migration(migrations.Migration):
    dependencies = [("kit", "0001_initial"), migrations.swappable_dependency(settings.AUTH_USER_MODEL)]

    operations = [
        migrations.CreateModel(
            name="Part",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120)),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                ("updated_at", models.DateTimeField(auto_now=True)),
                ("deleted_at", models.DateTimeField(blank=True, default=None, null=True)),
                ("kind", models.CharField(max_length=20)),
                ("values", models.JSONField()),
                ("archived_at", models.DateTimeField(blank=True, default=None, null=True)),
                ("owner", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL)),
            ],
            options={"ordering": ("kind", "name", "id"), "abstract": False},
        ),
        migrations.AddConstraint(
            model_name="part",
            constraint=models.UniqueConstraint(condition=models.Q(("deleted_at", None)), fields=("owner", "name"), name="one_part_of_a_name"),
        ),
        migrations.CreateModel(
            name="Placement",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("order", models.PositiveSmallIntegerField()),
                ("arm_mm", models.FloatField()),
                ("along_mm", models.FloatField()),
                ("carried", models.BooleanField()),
                ("fed_by", models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name="fed_placements", to="kit.part")),
                ("part", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="placements", to="kit.part")),
                ("rig", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="placements", to="kit.rig")),
            ],
            options={"ordering": ("order", "id")},
        ),
        migrations.AddConstraint(
            model_name="placement",
            constraint=models.UniqueConstraint(fields=("rig", "part"), name="a_part_once_in_a_rig"),
        ),
        migrations.AddField(model_name="rig", name="focal_mm", field=models.FloatField(blank=True, null=True)),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
    ]

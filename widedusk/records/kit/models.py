"""A rig stays assembled: it owns its camera, lens and tracker, and lists what else it carries."""

from django.db import models

from widedusk.records.owned import Owned, OwnedQuerySet


class Camera(models.Model):
    name = models.CharField(max_length=120)
    mass_g = models.FloatField()
    width_mm = models.FloatField()
    height_mm = models.FloatField()
    pitch_um = models.FloatField()
    raw_file_mb = models.FloatField()
    response_nm = models.FloatField()
    dark_e_s = models.FloatField()

    def __str__(self) -> str:
        return self.name


class IsoStep(models.Model):
    camera = models.ForeignKey(Camera, on_delete=models.CASCADE, related_name="iso_steps")
    iso = models.PositiveIntegerField()
    read_noise_e = models.FloatField()
    full_well_e = models.FloatField()

    class Meta:
        ordering = ("iso",)
        constraints = (models.UniqueConstraint(fields=("camera", "iso"), name="one_row_an_iso"),)

    def __str__(self) -> str:
        return f"ISO {self.iso}"


class Lens(models.Model):
    name = models.CharField(max_length=120)
    mass_g = models.FloatField()
    focal_mm = models.FloatField()
    f_widest = models.FloatField()
    f_best = models.FloatField()

    def __str__(self) -> str:
        return self.name


class Tracker(models.Model):
    name = models.CharField(max_length=120)
    rating_g = models.FloatField()
    rating_includes_counterweights = models.BooleanField()
    pe_half_amplitude_arcsec = models.FloatField()
    pe_period_s = models.FloatField()
    scope_view = models.CharField(max_length=10)

    def __str__(self) -> str:
        return self.name


class Rig(Owned):
    camera = models.OneToOneField(Camera, on_delete=models.PROTECT)
    lens = models.OneToOneField(Lens, on_delete=models.PROTECT)
    tracker = models.OneToOneField(Tracker, on_delete=models.PROTECT)
    support = models.CharField(max_length=20)
    star_fwhm_px = models.FloatField()

    objects = OwnedQuerySet["Rig"].as_manager()

    class Meta(Owned.Meta):
        abstract = False


class Carried(models.Model):
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="carried")
    name = models.CharField(max_length=120)
    mass_g = models.FloatField()
    counterweight = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "carried"

    def __str__(self) -> str:
        return self.name

"""One row a person: units, the schools they follow, and how much they carry at a time."""

from django.conf import settings
from django.db import models

from widedusk.core.kit.units import METRIC

DEFAULT_CARRY_G = 12_000.0


class Habits(models.Model):
    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    mass_unit = models.CharField(max_length=4, default=METRIC.mass)
    length_unit = models.CharField(max_length=4, default=METRIC.length)
    carry_limit_g = models.FloatField(default=DEFAULT_CARRY_G)
    choices = models.JSONField(default=dict)  # schools and figures that differ from the house's

    class Meta:
        verbose_name_plural = "habits"

    def __str__(self) -> str:
        return f"habits of {self.owner}"

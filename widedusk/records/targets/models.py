"""Targets of a person's own; those taken from the catalogue remember which entry they were."""

from django.db import models

from widedusk.records.owned import Owned, OwnedQuerySet


class Target(Owned):
    ra_deg = models.FloatField()
    dec_deg = models.FloatField()
    extent_deg = models.FloatField()
    surface_mag = models.FloatField()
    width_deg = models.FloatField(null=True, blank=True, default=None)
    angle_deg = models.FloatField(default=0.0)
    kind = models.CharField(max_length=40, default="other")
    light = models.CharField(max_length=20, default="both")
    numbers = models.CharField(max_length=240, blank=True, default="")
    constellation = models.CharField(max_length=3, blank=True, default="")
    catalogue_key = models.CharField(max_length=120, blank=True, default="")

    objects = OwnedQuerySet["Target"].as_manager()

    class Meta(Owned.Meta):
        abstract = False

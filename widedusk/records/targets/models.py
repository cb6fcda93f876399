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


class Framing(Owned):
    """How one target is composed: a frame's middle and angle, what shall be in it, and its panels."""

    target = models.ForeignKey(Target, on_delete=models.CASCADE, related_name="framings")
    ra_deg = models.FloatField()
    dec_deg = models.FloatField()
    angle_deg = models.FloatField(default=0.0)
    columns = models.PositiveSmallIntegerField(default=1)
    rows = models.PositiveSmallIntegerField(default=1)
    overlap = models.FloatField(default=0.2)
    grid = models.CharField(max_length=20, default="turned")
    dropped = models.JSONField(default=list)  # [row, column] of panels left out
    wanted = models.JSONField(default=list)  # what shall be in the picture, as ellipses on the sky
    avoided = models.JSONField(default=list)  # bright stars to be kept out, as circles of halo
    arrived = models.JSONField(default=dict)  # by rig number: where a test picture last stood, and in which night

    objects = OwnedQuerySet["Framing"].as_manager()

    class Meta(Owned.Meta):
        abstract = False

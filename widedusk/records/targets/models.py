"""Targets of a person's own."""

from django.db import models

from widedusk.records.owned import Owned, OwnedQuerySet


class Target(Owned):
    ra_deg = models.FloatField()
    dec_deg = models.FloatField()
    extent_deg = models.FloatField()
    surface_mag = models.FloatField()

    objects = OwnedQuerySet["Target"].as_manager()

    class Meta(Owned.Meta):
        abstract = False

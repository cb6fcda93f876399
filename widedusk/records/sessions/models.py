"""Frames kept on one night for one target."""

from typing import ClassVar

from django.db import models

from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Target


class Session(Owned):
    ONE_OF_A_NAME = False
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="sessions")
    night = models.DateField()
    frames = models.PositiveIntegerField()  # kept
    exposure_s = models.FloatField()
    f_number = models.FloatField()
    iso = models.PositiveIntegerField(null=True, blank=True, default=None)
    sky_mag = models.FloatField(null=True, blank=True, default=None)
    filter_name = models.CharField(max_length=120, blank=True, default="")  # "none" for none; empty: as in hand

    objects = OwnedQuerySet["Session"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("night", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = ()

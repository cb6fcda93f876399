"""Alignments of one person."""

from typing import ClassVar

from django.db import models

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.pictures.models import Measurement

PLACE = ("altitude_arcmin", "azimuth_arcmin", "altitude_sigma", "azimuth_sigma")  # of the axis, as measured


class Alignment(Owned):
    """Where the axis stood at one moment, by whichever method; and what was touched since the one before.

    Measured, it has a place with its spread; written down unmeasured, only how far off this way of aligning may leave it.
    """

    ONE_OF_A_NAME = False
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="alignments")
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="alignments")
    night = models.DateField()
    method = models.CharField(max_length=60)
    measured_at = models.DateTimeField()
    altitude_arcmin = models.FloatField(null=True)
    azimuth_arcmin = models.FloatField(null=True)
    altitude_sigma = models.FloatField(null=True)
    azimuth_sigma = models.FloatField(null=True)
    worst_arcmin = models.FloatField(null=True, default=None)  # nine in ten stand nearer; of one that nobody measured
    touched = models.CharField(max_length=300, blank=True, default="")
    measurement = models.OneToOneField(Measurement, on_delete=models.SET_NULL, null=True, default=None, related_name="alignment")

    objects = OwnedQuerySet["Alignment"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-measured_at", "-id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.CheckConstraint(
                condition=models.Q(worst_arcmin=None, **{f"{name}__isnull": False for name in PLACE})
                | models.Q(worst_arcmin__isnull=False, **dict.fromkeys(PLACE)),
                name="an_axis_is_measured_or_expected",
            ),
        )

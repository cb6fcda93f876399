"""An outing is one night at one spot: rigs, targets, what is packed, what was found missing there. A trip is a run of nights."""

from typing import ClassVar

from django.db import models

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Target


class Outing(Owned):
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="outings")
    night = models.DateField()
    rigs = models.ManyToManyField(Rig, related_name="outings", blank=True)
    targets = models.JSONField(default=list)  # ids in the order they were chosen
    ticked = models.JSONField(default=list)  # keys of the packing list
    forgotten = models.JSONField(default=dict)  # key: name, of what stayed at home

    objects = OwnedQuerySet["Outing"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-night", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(
                fields=("owner", "spot", "night"), condition=models.Q(deleted_at=None), name="one_outing_a_night_and_spot"
            ),
        )


class Trip(Owned):
    first_night = models.DateField()
    wake_time = models.TimeField()  # of the last day, before the last night
    drive_h = models.FloatField(default=0.0)  # home, after the last night
    rigs = models.ManyToManyField(Rig, related_name="trips", blank=True)
    targets = models.ManyToManyField(Target, related_name="trips", blank=True)

    objects = OwnedQuerySet["Trip"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        db_table = "trips_run_of_nights"  # the indexes of outings still bear the old table's name
        ordering: ClassVar[tuple[str, ...]] = ("-first_night", "name", "id")


class TripNight(models.Model):
    """Where one night of a trip is spent; nights follow one another from the trip's first."""

    trip = models.ForeignKey(Trip, on_delete=models.CASCADE, related_name="nights")
    number = models.PositiveSmallIntegerField()  # from 0
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="trip_nights")

    class Meta:
        ordering = ("number",)
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("trip", "number"), name="one_spot_a_trip_night"),
        )

    def __str__(self) -> str:
        return f"{self.trip.name}, night {self.number + 1}"

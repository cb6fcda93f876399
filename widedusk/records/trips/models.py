"""One night out at one spot: the rigs that go, what is packed, and what was found missing there."""

from typing import ClassVar

from django.db import models

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet


class Trip(Owned):
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="trips")
    night = models.DateField()
    rigs = models.ManyToManyField(Rig, related_name="trips", blank=True)
    ticked = models.JSONField(default=list)  # keys of the packing list
    forgotten = models.JSONField(default=dict)  # key: name, of what stayed at home

    objects = OwnedQuerySet["Trip"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-night", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            *Owned.Meta.constraints,
            models.UniqueConstraint(
                fields=("owner", "spot", "night"), condition=models.Q(deleted_at=None), name="one_trip_a_night_and_spot"
            ),
        )

"""A plan holds with what, where, when, at what and how; what follows from them is worked out again each time it is opened."""

from typing import ClassVar

from django.db import models

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Target


class Plan(Owned):
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="plans")
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="plans")
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="plans")
    night = models.DateField()
    choices = models.JSONField(default=dict)  # what differs from the house's defaults

    objects = OwnedQuerySet["Plan"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-night", "name", "id")

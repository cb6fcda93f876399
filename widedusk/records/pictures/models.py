"""Pictures of one person, and the long work on them."""

from typing import ClassVar

from django.db import models

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.work import Work


class Picture(Owned):
    """One picture off the card. Its file is let go once it is measured; stars, place and a small view stay."""

    MAX_RECORDS = 20_000

    ONE_OF_A_NAME = False  # cameras count to 9999 and begin again
    digest = models.CharField(max_length=64)  # SHA-256 of the file
    file = models.CharField(max_length=400, blank=True, default="")  # where it lies; empty once let go
    from_folder = models.BooleanField(default=False)  # it lies in the person's own folder and is never deleted
    kept = models.BooleanField(default=False)  # its file stays after measuring, because the person wants it
    size_bytes = models.BigIntegerField(default=0)
    header = models.JSONField(default=dict)  # what the file says of itself
    solution = models.JSONField(null=True, default=None)  # where it looks, stars and their widths, once measured
    preview = models.BinaryField(null=True, default=None)  # JPEG

    objects = OwnedQuerySet["Picture"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-created_at", "-id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = ()


class Measurement(Work):
    """What is asked of pictures: in order with time, exposure and focal length; air, pole, tolerance."""

    TASKS = ("axis", "series", "pointing", "trial", "camera", "lens")

    task = models.CharField(max_length=10, choices=[(one, one) for one in TASKS])
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="measurements")
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="measurements")
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="measurements")
    night = models.DateField()

    class Meta(Work.Meta):
        abstract = False
        indexes: ClassVar[list[models.Index]] = [models.Index(fields=("owner", "spot", "night"), name="measurements_of_a_night")]

    def __str__(self) -> str:
        return f"{self.task}, {self.created_at:%Y-%m-%d %H:%M}"

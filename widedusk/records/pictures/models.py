"""Pictures of one person, and the long work on them."""

from typing import ClassVar

from django.conf import settings
from django.db import models

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Target


class Picture(Owned):
    """One picture off the card. Its file is let go once it is measured; stars, place and a small view stay."""

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


class Measurement(models.Model):
    """One piece of long work: what was asked, how far it is, what came out. The worker writes it, the page reads it."""

    TASKS = ("axis", "series", "pointing", "trial", "camera")
    STATES = ("waiting", "running", "done", "failed", "cancelled")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    task = models.CharField(max_length=10, choices=[(one, one) for one in TASKS])
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="measurements")
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="measurements")
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="measurements")
    night = models.DateField()
    asked = models.JSONField(default=dict)  # pictures in order with time, exposure and focal length; air, pole, tolerance
    state = models.CharField(max_length=10, choices=[(one, one) for one in STATES], default="waiting")
    share = models.FloatField(default=0.0)  # done, 0 to 1
    doing = models.CharField(max_length=120, blank=True, default="")
    cancel_wanted = models.BooleanField(default=False)
    beat_at = models.DateTimeField(null=True, default=None)  # the worker's last sign of life
    claim = models.UUIDField(null=True, default=None)  # of the run that is at it; whatever another run says is not heard
    job = models.BigIntegerField(null=True, default=None)  # in the queue
    result = models.JSONField(null=True, default=None)
    faults = models.JSONField(default=list)
    created_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True, default=None)

    class Meta:
        ordering = ("-created_at", "-id")
        indexes: ClassVar[list[models.Index]] = [models.Index(fields=("owner", "spot", "night"), name="measurements_of_a_night")]

    def __str__(self) -> str:
        return f"{self.task}, {self.created_at:%Y-%m-%d %H:%M}"

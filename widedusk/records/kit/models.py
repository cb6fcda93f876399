"""The inventory, and the rigs assembled from it. What a part's fields mean is said in the core; here they are kept."""

from functools import cached_property
from typing import ClassVar

from django.db import models, transaction
from django.utils import timezone

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.verdict import joined
from widedusk.records.owned import Owned, OwnedQuerySet


class Part(Owned):
    """One thing in the inventory: its kind, and the values of that kind's fields."""

    MAX_RECORDS = 3_000

    kind = models.CharField(max_length=20)
    values = models.JSONField()  # checked by the core before it gets here
    origins = models.JSONField(default=dict)  # of each value that nobody said by hand: "book" or "learned"
    archived_at = models.DateTimeField(null=True, blank=True, default=None)

    objects = OwnedQuerySet["Part"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("kind", "name", "id")

    def rig_names(self) -> list[str]:
        """Rigs that use it, as a supply too; deleted ones left out."""
        placements = [*self.placements.all(), *self.fed_placements.all()]
        return sorted({placement.rig.name for placement in placements if placement.rig.deleted_at is None})

    def delete_softly(self) -> None:
        """Raises InvalidInput while rigs use it."""
        users = self.rig_names()
        if users:
            wrong = f"“{self.name}” is used by {joined(users)}. Take it off there first, or archive it: then it stays in its rigs."
            raise InvalidInput([Fault("", self.name, wrong)])
        super().delete_softly()

    def archive(self, away: bool) -> None:
        """Put it away, or take it out again. An archived part stays in its rigs and is offered for no new one."""
        self.archived_at = timezone.now() if away else None
        self.save(update_fields=("archived_at", "updated_at"))


class Rig(Owned):
    MAX_RECORDS = 1_000

    star_fwhm_px = models.FloatField()
    star_origin = models.CharField(max_length=10, default="by hand")  # of that width
    focal_mm = models.FloatField(null=True, blank=True)  # what a zoom is set to

    objects = OwnedQuerySet["Rig"].as_manager()

    class Meta(Owned.Meta):
        abstract = False

    @cached_property
    def in_place(self) -> list["Placement"]:
        """Its parts in their places, in order."""
        return list(self.placements.all())

    @transaction.atomic
    def bring_back(self) -> None:
        """With those of its parts that were deleted after it. Raises InvalidInput when a name has been taken meanwhile."""
        for part in Part.objects.filter(placements__rig=self).exclude(deleted_at=None):
            part.bring_back()
        super().bring_back()


class Placement(models.Model):
    """A part in its place on a rig."""

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="placements")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="placements")
    order = models.PositiveSmallIntegerField()
    arm_mm = models.FloatField()
    along_mm = models.FloatField()
    carried = models.BooleanField()
    fed_by = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="fed_placements", null=True, blank=True)

    class Meta:
        ordering = ("order", "id")
        constraints = (models.UniqueConstraint(fields=("rig", "part"), name="a_part_once_in_a_rig"),)

    def __str__(self) -> str:
        return f"{self.part} on {self.rig}"

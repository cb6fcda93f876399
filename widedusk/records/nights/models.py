"""A night is one evening at one spot, from wish to lesson. A run is what one rig shoots in it. A trip strings nights together."""

from typing import ClassVar

from django.conf import settings
from django.db import models

from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Framing, Target
from widedusk.records.work import Work


class Night(Owned):
    """One evening at one spot: rigs and targets it is for, what is packed, what was found missing out there."""

    ONE_OF_A_NAME = False
    spot = models.ForeignKey(Spot, on_delete=models.PROTECT, related_name="nights", null=True)  # null: nobody said where
    date = models.DateField()  # of the evening
    rigs = models.ManyToManyField(Rig, related_name="nights", blank=True)
    targets = models.JSONField(default=list)  # ids in the order they were chosen
    ticked = models.JSONField(default=list)  # keys of the packing list
    forgotten = models.JSONField(default=dict)  # key: name, of what stayed at home
    whole = models.JSONField(default=dict)  # what is wished for and what one will bear, as the whole night is planned from it

    objects = OwnedQuerySet["Night"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-date", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(
                fields=("owner", "spot", "date"),
                condition=models.Q(deleted_at=None),
                name="one_night_a_date_and_spot",
                nulls_distinct=False,
            ),
        )


class Run(Owned):
    """What one rig shoots of one target in one night.

    Planned, it holds how to shoot it, and what follows is worked out anew each time it is opened. Shot, it holds what was kept of
    it, and the rig as it was then.
    """

    MAX_RECORDS = 20_000

    STATES = ("planned", "running", "done", "dropped", "noted")  # noted: by hand, afterwards
    ONE_OF_A_NAME = False

    night = models.ForeignKey(Night, on_delete=models.PROTECT, related_name="runs")
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="runs")
    framing = models.ForeignKey(Framing, on_delete=models.SET_NULL, related_name="runs", null=True)  # null: the target's own middle
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="runs", null=True)  # null: nobody said with which
    state = models.CharField(max_length=8, choices=[(one, one) for one in STATES], default="planned")
    choices = models.JSONField(default=dict)  # how: what differs from the house's defaults
    snapshot = models.JSONField(default=dict)  # the rig as it was; empty while it is planned and where nobody said which
    frames = models.PositiveIntegerField(null=True, default=None)  # kept
    exposure_s = models.FloatField(null=True, default=None)
    f_number = models.FloatField(null=True, default=None)
    iso = models.PositiveIntegerField(null=True, default=None)
    sky_mag = models.FloatField(null=True, default=None)
    filter_name = models.CharField(max_length=120, blank=True, default="")  # "none" for none; empty: as the rig has it
    # Of a run that is part of a planned night: from the beginning of its change to its last frame, and whether that was fixed.
    scheduled = models.BooleanField(default=False)
    begins_at = models.DateTimeField(null=True, default=None)
    ends_at = models.DateTimeField(null=True, default=None)
    held = models.BooleanField(default=False)
    panel = models.JSONField(null=True, default=None)  # [row, column] of the framing; null: no panels
    expected = models.JSONField(default=dict)  # of it when it was kept: frames, exposure_s, and the signal they are to bring

    objects = OwnedQuerySet["Run"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("night__date", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(
                fields=("owner", "name"),
                condition=models.Q(deleted_at=None, state="planned", scheduled=False),
                name="one_plan_of_a_name",
            ),
            models.CheckConstraint(
                condition=models.Q(state="planned", rig__isnull=False)
                | models.Q(state="dropped")
                | models.Q(frames__isnull=False, exposure_s__isnull=False, f_number__isnull=False)
                | models.Q(state="running"),
                name="a_plan_has_its_rig_and_what_was_shot_its_frames",
            ),
        )

    def refuse_a_second_of_its_name(self) -> None:
        """Plans are found by their names; runs of a planned night and what was shot are not."""
        if self.state != "planned" or self.scheduled:
            return
        others = Run.objects.filter(owner_id=self.owner_id, name=self.name, state="planned", scheduled=False, deleted_at=None)
        others = others.exclude(pk=self.pk)
        if others.exists():
            raise InvalidInput([Fault("name", self.name, f"You already have “{self.name}”; give this one another name.")])


class Trip(Owned):
    """Nights one after another. Two trips may weigh the same night."""

    first_night = models.DateField()
    wake_time = models.TimeField()  # of the last day, before the last night
    drive_h = models.FloatField(default=0.0)  # home, after the last night
    nights = models.ManyToManyField(Night, related_name="trips")
    rigs = models.ManyToManyField(Rig, related_name="trips", blank=True)
    targets = models.ManyToManyField(Target, related_name="trips", blank=True)

    objects = OwnedQuerySet["Trip"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-first_night", "name", "id")


class Event(models.Model):
    """Something that was done or seen out there, as a device told it. Only ever added; see core/field/events.py."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    night = models.ForeignKey(Night, on_delete=models.CASCADE, related_name="events")
    event_id = models.CharField(max_length=64)  # made on the device
    device = models.CharField(max_length=64)
    number = models.PositiveIntegerField()  # the device's own count
    at = models.DateTimeField()  # by the device's clock
    offset_s = models.FloatField()  # how far that clock was ahead of ours when they last spoke
    kind = models.CharField(max_length=20)
    subject = models.CharField(max_length=120)
    data = models.JSONField(default=dict)
    received_at = models.DateTimeField()

    class Meta:
        ordering: ClassVar[tuple[str, ...]] = ("id",)
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("night", "event_id"), name="an_event_once"),
        )

    def __str__(self) -> str:
        return f"{self.kind} {self.subject}"


class Planning(Work):
    """What is asked of the solver when it takes longer than a page may wait: the nights of a trip; of one night what if it goes
    another way, and what is best from every ten minutes on."""

    TASKS = ("trip", "what if", "replan")

    task = models.CharField(max_length=10, choices=[(one, one) for one in TASKS])
    night = models.ForeignKey(Night, on_delete=models.CASCADE, related_name="plannings", null=True)
    trip = models.ForeignKey(Trip, on_delete=models.CASCADE, related_name="plannings", null=True)

    class Meta(Work.Meta):
        abstract = False
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.CheckConstraint(condition=models.Q(night=None) ^ models.Q(trip=None), name="planning_is_of_a_night_or_a_trip")
        ]

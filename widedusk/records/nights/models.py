"""A night is one evening at one spot, from wish to lesson. A run is what one rig shoots in it. A trip strings nights together."""

from typing import ClassVar

from django.conf import settings
from django.db import models

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.runs.facts import FIGURES, SOURCES
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
    """What one rig shoots of one target in one night: the same row from the plan to the pictures.

    Its plan is `plan`, what was shot is `result`, who said what is `facts`; `state` and `result` follow from the facts by
    core/runs/facts.py, and only records/nights/facts.py writes them.
    """

    MAX_RECORDS = 20_000

    STATES = ("planned", "running", "done", "dropped", "noted")  # noted: by hand, afterwards
    ORIGINS = ("plan", "schedule", "files", "noted")  # plan: of its own, found by its name; schedule: of a planned night
    ONE_OF_A_NAME = False

    night = models.ForeignKey(Night, on_delete=models.PROTECT, related_name="runs")
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="runs")
    framing = models.ForeignKey(Framing, on_delete=models.SET_NULL, related_name="runs", null=True)  # null: the target's own middle
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="runs", null=True)  # null: nobody said with which
    origin = models.CharField(max_length=8, choices=[(one, one) for one in ORIGINS])
    state = models.CharField(max_length=8, choices=[(one, one) for one in STATES], default="planned")
    snapshot = models.JSONField(default=dict)  # the rig as it was (kit/services.py); empty until it is shot
    panel_row = models.PositiveSmallIntegerField(null=True, default=None)  # of the framing; null: no panels
    panel_column = models.PositiveSmallIntegerField(null=True, default=None)
    ordinal = models.PositiveSmallIntegerField(default=1)  # among runs of one rig and picture in the night

    objects = OwnedQuerySet["Run"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("night__date", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(
                fields=("owner", "name"),
                condition=models.Q(deleted_at=None, state="planned", origin="plan"),
                name="one_plan_of_a_name",
            ),
            models.UniqueConstraint(
                fields=("night", "rig", "target", "framing", "panel_row", "panel_column", "ordinal"),
                condition=models.Q(deleted_at=None, origin="schedule"),
                name="one_scheduled_run_of_a_rig_picture_and_ordinal",
                nulls_distinct=False,
            ),
            models.CheckConstraint(
                condition=~models.Q(state="planned") | models.Q(rig__isnull=False), name="a_planned_run_has_its_rig"
            ),
        )

    @property
    def panel(self) -> tuple[int, int] | None:
        """Row and column of the framing."""
        return None if self.panel_row is None or self.panel_column is None else (self.panel_row, self.panel_column)

    def refuse_a_second_of_its_name(self) -> None:
        """Plans are found by their names; runs of a planned night and what was shot are not."""
        if self.state != "planned" or self.origin != "plan":
            return
        others = Run.objects.filter(owner_id=self.owner_id, name=self.name, state="planned", origin="plan", deleted_at=None)
        others = others.exclude(pk=self.pk)
        if others.exists():
            raise InvalidInput([Fault("name", self.name, f"You already have “{self.name}”; give this one another name.")])


class RunPlan(models.Model):
    """How a run is planned. Figures are as they were when it was saved; a plan of its own is recalculated whenever it is opened."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="plan", primary_key=True)
    choices = models.JSONField(default=dict)  # what differs from the defaults; core/choices.py checks it
    planned = models.BooleanField(default=True)  # false: the plan was saved without it since, or withdrawn
    changed_at = models.DateTimeField()
    # Of a run of a planned night:
    begins_at = models.DateTimeField(null=True, default=None)  # of the slots that are its own, with the change before it
    ends_at = models.DateTimeField(null=True, default=None)
    pinned = models.BooleanField(default=False)
    change_at = models.DateTimeField(null=True, default=None)  # when it is framed: may be later than its slots begin
    first_frame_at = models.DateTimeField(null=True, default=None)
    last_frame_ends_at = models.DateTimeField(null=True, default=None)  # may be earlier than its slots end
    frames = models.PositiveIntegerField(null=True, default=None)
    exposure_s = models.FloatField(null=True, default=None)
    signal = models.FloatField(default=0.0)  # that the frames are expected to bring, in the schedule's own unit

    def __str__(self) -> str:
        return f"Plan of run {self.run_id}"


class RunResult(models.Model):
    """What was shot, by whoever is believed first; null: nobody said. Derived from the run's facts."""

    RECOGNITIONS = ("planned", "target", "not solved", "other field", "other lens", "user")

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="result", primary_key=True)
    begins_at = models.DateTimeField(null=True, default=None)
    ends_at = models.DateTimeField(null=True, default=None)  # of the last frame
    frames = models.PositiveIntegerField(null=True, default=None)  # taken
    kept = models.PositiveIntegerField(null=True, default=None)
    exposure_s = models.FloatField(null=True, default=None)
    f_number = models.FloatField(null=True, default=None)
    iso = models.PositiveIntegerField(null=True, default=None)
    sky_mag = models.FloatField(null=True, default=None)
    filter_name = models.CharField(max_length=120, blank=True, default="")  # "none" for none; empty: as the rig has it
    # Of frames: what they were recognised as; empty where there are none. Written by records/frames/frames.py.
    recognition = models.CharField(max_length=12, blank=True, default="", choices=[(one, one) for one in RECOGNITIONS])
    seen_ra_deg = models.FloatField(null=True, default=None)
    seen_dec_deg = models.FloatField(null=True, default=None)
    seen_width_deg = models.FloatField(null=True, default=None)  # along the longer side

    def __str__(self) -> str:
        return f"Result of run {self.run_id}"


class RunFact(models.Model):
    """What one source says of one figure of a run: its latest statement; see core/runs/facts.py. One of the three values is set,
    none where the source no longer says anything."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="facts")
    source = models.CharField(max_length=5, choices=[(one, one) for one in SOURCES])
    figure = models.CharField(max_length=12, choices=[(one, one) for one in FIGURES])
    number = models.FloatField(null=True, default=None)
    moment = models.DateTimeField(null=True, default=None)
    words = models.CharField(max_length=120, null=True, default=None)  # noqa: DJ001 - null: nothing said; empty words are words
    order = models.BigIntegerField()

    class Meta:
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("run", "source", "figure"), name="one_statement_of_a_source_on_a_figure"),
        )

    def __str__(self) -> str:
        return f"{self.source}: {self.figure}"


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
    run = models.ForeignKey(Run, on_delete=models.SET_NULL, related_name="events", null=True)  # that it is about, if about one
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

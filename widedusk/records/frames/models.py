"""Frames of a night, each a file that is read where it lies, and the folders they come from."""

from typing import Any, ClassVar

from django.db import models
from django.db.models import F

from widedusk.records.clock import true_now
from widedusk.records.kit.models import Rig
from widedusk.records.nights.models import Night, Run
from widedusk.records.owned import Owned, OwnedQuerySet
from widedusk.records.targets.models import Target
from widedusk.records.work import Claimed


def queue_at(machine: str) -> str:
    """The queue of what only a worker of that machine can measure; no name: the server's own."""
    return f"pictures at {machine}" if machine else "pictures here"


class Machine(models.Model):
    """One that is not the server's and lends its folders: which, and when it was heard last."""

    name = models.CharField(max_length=40, unique=True)
    heard_at = models.DateTimeField()
    folders = models.JSONField(default=list)  # [path below its allowed folder, files]

    def __str__(self) -> str:
        return self.name


CLOCK_STEPPED = "The camera’s clock"  # words with which the sentence begins that says so


class Folder(Owned):
    """A folder of one night's frames: below the allowed one, where its files are read and never touched; or files brought in the
    browser, which lie in the store until they are measured."""

    ONE_OF_A_NAME = False
    left_young = False  # whether the last look passed over files that were too young
    # reading: files are looked for and measured; paused: what is not measured waits; stopped: it is let go
    STATES = ("reading", "paused", "stopped")
    RESTING = ("paused", "stopped")

    night = models.ForeignKey(Night, on_delete=models.PROTECT, related_name="folders")
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="folders")
    target = models.ForeignKey(Target, on_delete=models.PROTECT, related_name="folders")  # what frames are of that no plan claims
    path = models.CharField(max_length=400)  # below the allowed folder; empty for what was brought
    machine = models.CharField(max_length=40, blank=True, default="")  # that it lies on; empty: the server's own
    brought = models.BooleanField(default=False)
    watched = models.BooleanField(default=False)  # looked through again and again while the night runs
    state = models.CharField(max_length=8, choices=[(one, one) for one in STATES], default="reading")
    clock_offset_min = models.IntegerField(null=True, default=None)  # zone of the camera's clock; null: as the files say
    clock_fast_s = models.FloatField(default=0.0)
    looked_at = models.DateTimeField(null=True, default=None)  # when its files were last listed
    settled_at = models.DateTimeField(null=True, default=None)  # up to which measured frame its runs are found
    troubles = models.JSONField(default=list)  # sentences about files that could not be taken

    objects = OwnedQuerySet["Folder"].as_manager()

    class Meta(Owned.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("-created_at", "-id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = ()


class Judgement(models.Model):
    """What became of judging a run, kept so that its page opens at once in every process. asked: all that it hangs on, digested;
    headline: the cause that a list shows; body: signed, for it is a pickle."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="judgements")
    asked = models.CharField(max_length=64)
    headline = models.CharField(max_length=100, blank=True, default="")
    body = models.BinaryField()

    class Meta:
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("run", "asked"), name="one_judgement_of_a_run_and_what_it_hangs_on"),
        )

    def __str__(self) -> str:
        return f"Judgement of run {self.run_id}"


class Frame(Claimed):
    """One file of a folder: waiting, being measured, measured, or why not. Facts stay when the file goes."""

    folder = models.ForeignKey(Folder, on_delete=models.CASCADE, related_name="frames")
    run = models.ForeignKey(Run, on_delete=models.SET_NULL, related_name="taken", null=True)
    name = models.CharField(max_length=200)  # below the folder
    file = models.CharField(max_length=400, blank=True, default="")  # in the store, of one that was brought; empty once let go
    size_bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()  # of the file, when it was seen
    digest = models.CharField(max_length=64, blank=True, default="")
    fault = models.CharField(max_length=400, blank=True, default="")
    times_measured = models.PositiveIntegerField(default=0)
    kind = models.CharField(max_length=5, blank=True, default="")  # light, dark, flat, bias
    began_at = models.DateTimeField(null=True, default=None)  # UTC, by the camera's clock put right
    header = models.JSONField(default=dict)
    facts = models.JSONField(null=True, default=None)
    known = models.JSONField(null=True, default=None)  # how it was solved: a first guess for others of its run
    stars = models.JSONField(null=True, default=None)
    preview = models.BinaryField(null=True, default=None)  # JPEG
    crops = models.BinaryField(null=True, default=None)  # JPEG: centre and four corners, pixel for pixel, side by side
    word = models.CharField(max_length=4, blank=True, default="")  # the person's: keep, cull; empty: as judged
    measured_at = models.DateTimeField(null=True, default=None)

    class Meta(Claimed.Meta):
        abstract = False
        ordering: ClassVar[tuple[str, ...]] = ("began_at", "name", "id")
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("folder", "name"), name="a_file_of_a_folder_once"),
        )
        indexes: ClassVar[list[models.Index]] = [
            models.Index(fields=("run", "began_at"), name="frames_of_a_run"),
            models.Index(fields=("owner", "digest"), name="frames_by_digest"),
            models.Index(fields=("folder", "state"), name="frames_still_to_do"),
        ]

    def why(self, words: str) -> dict[str, Any]:
        return {"fault": words}

    def __str__(self) -> str:
        return self.name

    def at_the_end(self) -> dict[str, Any]:
        return {"measured_at": true_now(), "times_measured": F("times_measured") + 1}

"""Long work: what was asked, who is at it, how far it is, and what came out. A worker writes it, the page reads it."""

import contextlib
import logging
import uuid
from collections.abc import Callable
from datetime import timedelta
from typing import Any, ClassVar, TypeVar

from django.conf import settings
from django.db import InterfaceError, OperationalError, models, transaction
from django.db.models import Exists, OuterRef, Q, QuerySet
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.records.clock import true_now

DEAD_AFTER = timedelta(seconds=20)  # a worker that has not been heard of for so long is gone; no step of the work takes longer
MAX_LOST_RUNS = 3
LOST = "Whoever worked on it was cut off three times, by the work itself or because the machine was switched off. Try once more."
LEAST_TOLD = 0.05  # of the work, from which on the rest can be told
log = logging.getLogger(__name__)


class Claimed(models.Model):
    """What is done once by one of many workers, however often it is begun: the run that claims it is heard, no other."""

    STATES = ("waiting", "running", "done", "failed", "cancelled")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    state = models.CharField(max_length=10, choices=[(one, one) for one in STATES], default="waiting")
    beat_at = models.DateTimeField(null=True, default=None)  # the worker's last sign of life
    claim = models.UUIDField(null=True, default=None)  # of the run that is at it; whatever another run says is not heard
    job = models.BigIntegerField(null=True, default=None)  # in the queue
    lost = models.PositiveSmallIntegerField(default=0)  # runs that fell silent at it
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True

    def at_the_start(self) -> dict[str, Any]:
        """What is written down when a run takes it up."""
        return {}

    def at_the_end(self) -> dict[str, Any]:
        """What is written down, whatever came out."""
        return {}

    def why(self, words: str) -> dict[str, Any]:
        """How a sentence about why it failed is written down, by what has room for it."""
        return {}


class Work(Claimed):
    """One piece of long work of one person."""

    asked = models.JSONField(default=dict)
    share = models.FloatField(default=0.0)  # done, 0 to 1
    begun_at = models.DateTimeField(null=True, default=None)  # by the run that is at it
    share_at = models.DateTimeField(null=True, default=None)  # when so much was done
    doing = models.CharField(max_length=120, blank=True, default="")
    cancel_wanted = models.BooleanField(default=False)
    result = models.JSONField(null=True, default=None)
    faults = models.JSONField(default=list)
    finished_at = models.DateTimeField(null=True, default=None)

    MAX_PENDING: ClassVar[int] = 20  # that one person may have waiting or under way
    MAX_KEPT: ClassVar[int] = 1_000  # of one person; the oldest that are over make room

    class Meta:
        abstract = True
        ordering: ClassVar[tuple[str, ...]] = ("-created_at", "-id")

    def save(self, *args: Any, **more: Any) -> None:
        if self._state.adding:
            self._prune()
        super().save(*args, **more)

    def _prune(self) -> None:
        """Let the oldest results go. Raises InvalidInput when too much is under way."""
        mine = type(self)._default_manager.filter(owner_id=self.owner_id)
        going = mine.filter(state__in=("waiting", "running")).count()
        if going >= self.MAX_PENDING:
            told = f"{going} pieces of work of yours wait already; let some come to their end, or stop them."
            raise InvalidInput([Fault("task", going, told)])
        over = mine.exclude(state__in=("waiting", "running")).order_by("-created_at", "-id").values("pk")
        if extra := [one["pk"] for one in over[self.MAX_KEPT - 1 :]]:
            mine.filter(pk__in=extra).delete()

    def at_the_start(self) -> dict[str, Any]:
        return {"begun_at": true_now(), "share_at": None}

    def at_the_end(self) -> dict[str, Any]:
        return {"finished_at": true_now(), "doing": ""}

    def why(self, words: str) -> dict[str, Any]:
        return {"faults": [{"field": "", "value": "", "message": words}]}

    @property
    def left_s(self) -> float | None:
        """How long it goes on, reckoned when the last part was done; none while that cannot be told, or has run out."""
        if self.state != "running" or self.share < LEAST_TOLD or self.begun_at is None or self.share_at is None:
            return None
        spent = (self.share_at - self.begun_at).total_seconds()
        left = spent * (1.0 - self.share) / self.share - (true_now() - self.share_at).total_seconds()
        return left if left > 0.0 else None


C = TypeVar("C", bound=Claimed)


class Cancelled(Exception):
    """The person does not want it any more."""


class Superseded(Exception):
    """Another run is at this work: what this one has to say is not wanted any more."""


def worker_is_heard() -> bool:
    """Whether anybody is there to take up what waits."""
    return ProcrastinateWorker.objects.filter(last_heartbeat__gt=true_now() - DEAD_AFTER).exists()


def is_silent(row: Claimed, heard: Callable[[], bool] = worker_is_heard) -> bool:
    """Whether work that should go on has not been heard of: its worker is gone, or none runs. Waiting one's turn is no silence."""
    if row.state == "running":
        return row.beat_at is None or true_now() - row.beat_at > DEAD_AFTER
    return row.state == "waiting" and true_now() - row.created_at > DEAD_AFTER and not heard()


@transaction.atomic
def claim(kind: type[C], number: int) -> C | None:
    """Take work up for one run. None when it is over, or when somebody is at it who has been heard lately.

    Work at which runs fell silent three times is set aside: what ends a worker once will end it again.
    """
    row = kind._default_manager.select_for_update(of=("self",)).filter(pk=number).first()
    if row is None or row.state not in {"waiting", "running"} or (row.state == "running" and not is_silent(row)):
        return None
    if row.state == "running":
        row.lost += 1
        if row.lost >= MAX_LOST_RUNS:
            told = {"state": "failed", "lost": row.lost, **row.at_the_end(), **row.why(LOST)}
            kind._default_manager.filter(pk=row.pk).update(**told)
            log.error("%s %s was set aside: %s runs fell silent at it", kind.__name__, row.pk, row.lost)
            return None
    begins = {"lost": row.lost, "state": "running", "beat_at": true_now(), "claim": uuid.uuid4(), **row.at_the_start()}
    for name, value in begins.items():
        setattr(row, name, value)
    row.save(update_fields=tuple(begins))
    return row


def alive(row: C, **changes: Any) -> QuerySet[C]:
    """A sign of life of the run that claimed it, with what changed; its row, to ask more of. Raises Superseded."""
    own = type(row)._default_manager.filter(pk=row.pk, claim=row.claim, state="running")
    if not own.update(beat_at=true_now(), **changes):
        raise Superseded
    return own


def beat(row: Work, **changes: Any) -> bool:
    """The same of long work. True when the person wants it stopped. Raises Superseded."""
    if "share" in changes:
        changes["share_at"] = true_now()
    return alive(row, **changes).filter(cancel_wanted=True).exists()


@transaction.atomic
def finish(row: Claimed, state: str, **changes: Any) -> None:
    """The last word of the run that claimed it. Raises Superseded; then nothing is written, nor what the caller wrote with it."""
    told = {"state": state, **row.at_the_end(), **changes}
    if not type(row)._default_manager.filter(pk=row.pk, claim=row.claim, state="running").update(**told):
        raise Superseded
    for name, value in told.items():
        setattr(row, name, value)


def left_lying(kind: type[C]) -> QuerySet[C]:
    """Work that nobody is at and no job will come to: its worker or the database went down, or its job was never put in line."""
    over = ("succeeded", "failed", "cancelled", "aborted")
    coming = ProcrastinateJob.objects.filter(pk=OuterRef("job")).exclude(status__in=over)
    in_line = coming.exclude(status="doing")  # of a run that fell silent the job may be so marked for ever
    silent = Q(state="running") & (Q(beat_at=None) | Q(beat_at__lt=true_now() - DEAD_AFTER)) & ~Exists(in_line)
    unasked = Q(state="waiting", created_at__lt=true_now() - DEAD_AFTER) & ~Exists(coming)
    return kind._default_manager.filter(silent | unasked)


def cancel(row: Work) -> None:
    """Stop it: at once while it waits, else at the worker's next step."""
    row.cancel_wanted = True
    if row.state == "waiting" or is_silent(row):
        row.state, row.finished_at = "cancelled", true_now()
    row.save(update_fields=("cancel_wanted", "state", "finished_at"))


def to_its_end(row: Work, work: Callable[[], None], ours: str) -> None:
    """Do work that ends by `finish`, and tell what went wrong. ours: what a person is told when the fault is not theirs."""
    try:
        work()
    except (Superseded, type(row).DoesNotExist):
        return
    except (OperationalError, InterfaceError):
        raise  # the database went down: nothing can be told now, and the work is taken up again when it is back
    except Cancelled:
        _end(row, "cancelled")
    except InvalidInput as refused:
        told = [{"field": one.field, "value": storable(str(one.value))[:120], "message": one.message} for one in refused.faults]
        _end(row, "failed", faults=told)
    except Exception:
        log.exception("%s %s failed", type(row).__name__, row.pk)
        _end(row, "failed", **row.why(ours))


def _end(row: Work, state: str, **changes: Any) -> None:
    with contextlib.suppress(Superseded):
        finish(row, state, **changes)

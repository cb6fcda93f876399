"""The whole night as it is planned: what was asked for, and the runs that came of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, cast

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Prefetch

from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import forget_empty_nights, night_of, the_night
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Framing, Target


@dataclass(frozen=True)
class ScheduledRun:
    """begins_at: of the change; ends_at: of the last frame. panel: row and column of the framing."""

    rig: Rig
    target: Target
    framing: Framing | None
    panel: tuple[int, int] | None
    begins_at: datetime
    ends_at: datetime
    held: bool
    choices: dict[str, Any]


def scheduled_of(user: AbstractBaseUser, night: Night) -> OwnedQuerySet[Run]:
    """The planned runs of a night, in the order in which they begin."""
    found = Run.objects.of(user).filter(night=night, scheduled=True, state="planned").select_related("rig", "target", "framing")
    return found.order_by("begins_at", "id")


def planned_nights(user: AbstractBaseUser) -> OwnedQuerySet[Night]:
    """Nights that are planned as a whole, the latest first, with what their runs are of."""
    runs = Run.objects.of(user).filter(scheduled=True, state="planned").select_related("rig", "target").order_by("begins_at", "id")
    found = Night.objects.of(user).exclude(whole={}).filter(spot__deleted_at=None, spot__place__deleted_at=None)
    with_runs = found.select_related("spot__place").prefetch_related(Prefetch("runs", runs, to_attr="scheduled"))
    return cast("OwnedQuerySet[Night]", with_runs)


@transaction.atomic
def keep_whole(user: AbstractBaseUser, spot: Spot, evening: date, asked: dict[str, Any], runs: Sequence[ScheduledRun]) -> Night:
    """Store a planned night in place of what was planned of it before."""
    kept = the_night(user, spot, evening)
    kept.whole = asked
    kept.targets = list(dict.fromkeys(one["target"] for one in asked["wishes"]))
    kept.save(update_fields=("whole", "targets", "updated_at"))
    kept.rigs.set(asked["rigs"])
    scheduled_of(user, kept).delete()
    for one in runs:
        Run.objects.create(
            owner_id=user.pk,
            name=f"{one.target.name}, {evening}"[:120],
            night=kept,
            target=one.target,
            framing=one.framing,
            rig=one.rig,
            state="planned",
            scheduled=True,
            choices=one.choices,
            begins_at=one.begins_at,
            ends_at=one.ends_at,
            held=one.held,
            panel=list(one.panel) if one.panel else None,
        )
    return kept


@transaction.atomic
def forget_whole(user: AbstractBaseUser, spot: Spot, evening: date) -> None:
    """Take a night's plan back; the night stays if it holds anything else."""
    night = night_of(user, spot, evening)
    if night is None:
        return
    scheduled_of(user, night).delete()
    night.whole = {}
    night.save(update_fields=("whole", "updated_at"))
    forget_empty_nights(Night.objects.of(user).filter(pk=night.pk))

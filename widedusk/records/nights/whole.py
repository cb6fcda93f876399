"""The whole night as it is planned: what was asked for, and the runs that came of it."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.core.choices import set_choices
from widedusk.core.exposure.setting import as_carried
from widedusk.core.plan.schedule.compose import Stop
from widedusk.core.plan.schedule.runs import NightRun
from widedusk.core.plan.schedule.trip import TripPlan, TripRun
from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.nights.composing import NightAsked, Wished, nights_of, planned_runs, stops_of_trip
from widedusk.records.nights.models import Night, Run, Trip
from widedusk.records.nights.nights import forget_empty_nights, night_of, the_night
from widedusk.records.targets.models import Framing, Target
from widedusk.records.weather.services import Send


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
    expected: dict[str, Any]


def scheduled(rigs: Sequence[Rig], wished: Sequence[Wished], stop: Stop, run: NightRun | TripRun) -> ScheduledRun:
    """A planned run with the records it is of, and what it is to bring."""
    stand, wish = stop.stands[run.stand], wished[run.wish]
    choices = set_choices(as_carried(stand.rig, stand.choices))
    expected = {
        "frames": run.frames,
        "exposure_s": run.exposure_s,
        "signal": run.signal,
        "change_at": run.change_at.isoformat(),
        "ends_at": run.ends_at.isoformat(),
    }
    places = (rigs[run.stand], wish.target, wish.framing, wish.panels[run.panel])
    return ScheduledRun(*places, run.held_from, run.held_to, run.held, choices, expected)


def _moment(row: Run, name: str) -> datetime | None:
    return datetime.fromisoformat(row.expected[name]) if name in row.expected else None


def change_at(row: Run) -> datetime | None:
    """When a kept run is framed, which may be later than its slots begin."""
    return _moment(row, "change_at")


def last_at(row: Run) -> datetime | None:
    """When its last frame ends, which may be earlier than its slots."""
    return _moment(row, "ends_at")


@transaction.atomic
def keep_whole(user: AbstractBaseUser, spot: Spot, evening: date, asked: dict[str, Any], runs: Sequence[ScheduledRun]) -> Night:
    """Store a planned night in place of what was planned of it before."""
    kept = the_night(user, spot, evening)
    kept.whole = asked
    kept.targets = list(dict.fromkeys(one["target"] for one in asked["wishes"]))
    kept.save(update_fields=("whole", "targets", "updated_at"))
    kept.rigs.set(asked["rigs"])
    planned_runs(user, kept).delete()
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
            expected=one.expected,
        )
    return kept


@transaction.atomic
def keep_trip_plan(user: AbstractBaseUser, trip: Trip, asked: Mapping[str, Any], plan: TripPlan, send: Send) -> int:
    """Store what was planned for each night of a trip in place of what was planned of it before; how many nights that are. What was
    planned for nights that are lost is taken back. Raises InvalidInput where rigs or targets are gone since."""
    night_asked, lost = NightAsked.of(asked), [date.fromisoformat(one) for one in asked.get("lost", [])]
    rigs, wished, spots, stops = stops_of_trip(user, trip, night_asked, lost, send)
    planned = {one.evening: one for one in plan.nights}
    kept = 0
    for spot, stop in zip(spots, stops, strict=True):
        if stop.evening not in planned:
            continue
        limits = {name: value for name, value in asdict(stop.limits).items() if value}
        told = {name: asked[name] for name in ("rigs", "wishes", "choices") if asked.get(name)} | {"trip": trip.pk}
        runs = [scheduled(rigs, wished, stop, run) for run in planned[stop.evening].runs]
        keep_whole(user, spot, stop.evening, told | ({"limits": limits} if limits else {}), runs)
        kept += 1
    for night in nights_of(trip):
        if night.date in lost and night.spot is not None:
            forget_whole(user, night.spot, night.date)
    return kept


@transaction.atomic
def forget_whole(user: AbstractBaseUser, spot: Spot, evening: date) -> None:
    """Take a night's plan back; the night stays if it holds anything else."""
    night = night_of(user, spot, evening)
    if night is None:
        return
    planned_runs(user, night).delete()
    night.whole = {}
    night.save(update_fields=("whole", "updated_at"))
    forget_empty_nights(Night.objects.of(user).filter(pk=night.pk))

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
from widedusk.records.clock import true_now
from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Rig
from widedusk.records.nights.composing import NightAsked, Wished, nights_of, stops_of_trip
from widedusk.records.nights.facts import facts_from, save_facts
from widedusk.records.nights.models import Night, Run, RunPlan, Trip
from widedusk.records.nights.nights import forget_empty_nights, night_of, the_night
from widedusk.records.targets.models import Framing, Target
from widedusk.records.weather.services import Send

SHOT = ("running", "done")


@dataclass(frozen=True, kw_only=True)
class ScheduledRun:
    """A run of a night's plan, with the records it is of."""

    rig: Rig
    target: Target
    framing: Framing | None
    panel: tuple[int, int] | None  # row and column of the framing
    begins_at: datetime  # of its change, on whole slots
    ends_at: datetime
    pinned: bool
    choices: dict[str, Any]
    change_at: datetime  # when it is framed
    first_frame_at: datetime
    last_frame_ends_at: datetime
    frames: int
    exposure_s: float
    f_number: float
    iso: int
    signal: float  # that it is expected to bring, in the schedule's own unit

    @property
    def key(self) -> tuple[int, int, int | None, tuple[int, int] | None]:
        """By which a run is the same run when the plan is saved again; together with its place in time among those of one key."""
        return self.rig.pk, self.target.pk, self.framing.pk if self.framing else None, self.panel


def scheduled(rigs: Sequence[Rig], wished: Sequence[Wished], stop: Stop, run: NightRun | TripRun) -> ScheduledRun:
    """A planned run with the records it is of, and what it is to bring."""
    stand, wish = stop.stands[run.stand], wished[run.wish]
    return ScheduledRun(
        rig=rigs[run.stand],
        target=wish.target,
        framing=wish.framing,
        panel=wish.panels[run.panel],
        begins_at=run.held_from,
        ends_at=run.held_to,
        pinned=run.held,
        choices=set_choices(as_carried(stand.rig, stand.choices)),
        change_at=run.change_at,
        first_frame_at=run.begins_at,
        last_frame_ends_at=run.ends_at,
        frames=run.frames,
        exposure_s=run.exposure_s,
        f_number=run.f_number,
        iso=run.iso,
        signal=run.signal,
    )


def _row_key(row: Run) -> tuple[int | None, int, int | None, tuple[int, int] | None]:
    return row.rig_id, row.target_id, row.framing_id, row.panel


def _overlap_s(row: Run, run: ScheduledRun) -> float:
    """Seconds that a run as it was planned before shares with one of the new plan; negative where they are apart."""
    if row.plan.begins_at is None or row.plan.ends_at is None:
        return -1.0
    return (min(row.plan.ends_at, run.ends_at) - max(row.plan.begins_at, run.begins_at)).total_seconds()


def pair_runs(rows: Sequence[Run], runs: Sequence[ScheduledRun]) -> list[Run | None]:
    """For each run of a new plan the row that it is, None for a new one. What was shot stays the run of its own time; the others of
    one rig and picture are matched in order of time."""
    paired: list[Run | None] = [None] * len(runs)
    for key in dict.fromkeys(run.key for run in runs):
        mine = sorted((row for row in rows if _row_key(row) == key), key=lambda row: row.ordinal)
        free = sorted((place for place, run in enumerate(runs) if run.key == key), key=lambda place: runs[place].begins_at)
        for row in mine:
            if row.state in SHOT and free:
                best = max(free, key=lambda place: _overlap_s(row, runs[place]))
                if _overlap_s(row, runs[best]) > 0.0:
                    paired[best] = row
                    free.remove(best)
        for row, place in zip((row for row in mine if row.state not in SHOT), free, strict=False):
            paired[place] = row
    return paired


def _plan_values(run: ScheduledRun) -> dict[str, Any]:
    names = (
        "choices",
        "begins_at",
        "ends_at",
        "pinned",
        "change_at",
        "first_frame_at",
        "last_frame_ends_at",
        "frames",
        "exposure_s",
        "signal",
    )
    return {name: getattr(run, name) for name in names} | {"planned": True}


def _save_run(night: Night, run: ScheduledRun, row: Run | None, rows: Sequence[Run]) -> None:
    if row is None:
        taken = [other.ordinal for other in rows if _row_key(other) == run.key]
        row = Run.objects.create(
            owner_id=night.owner_id,
            name=f"{run.target.name}, {night.date}"[:120],
            night=night,
            target=run.target,
            framing=run.framing,
            rig=run.rig,
            origin="schedule",
            panel_row=run.panel[0] if run.panel else None,
            panel_column=run.panel[1] if run.panel else None,
            ordinal=max(taken, default=0) + 1,
        )
    plan, values = RunPlan.objects.filter(run=row).first(), _plan_values(run)
    if plan is not None and all(getattr(plan, name) == value for name, value in values.items()):
        return  # as it was
    row.plan, _ = RunPlan.objects.update_or_create(run=row, defaults=values | {"changed_at": true_now()})
    figures = {name: getattr(run, name) for name in ("frames", "exposure_s", "f_number", "iso")}
    times = {"begins_at": run.first_frame_at, "ends_at": run.last_frame_ends_at}
    save_facts(row, facts_from("plan", {"planned": True, **figures, **times}))


def _withdraw_runs(rows: Sequence[Run]) -> None:
    """Take runs out of the plan. Of what was shot only the plan goes; the others stay in the history as dropped."""
    for row in rows:
        if row.plan.planned:
            RunPlan.objects.filter(run=row).update(planned=False, changed_at=true_now())
            save_facts(row, facts_from("plan", {"planned": False}))


def _scheduled_rows(night: Night) -> list[Run]:
    """Every run of a night's plan, dropped ones too; locked, so that of two plans saved at once the later finds the first."""
    Night.objects.select_for_update().get(pk=night.pk)
    return list(
        Run.objects.filter(night=night, origin="schedule", deleted_at=None).select_related("plan").order_by("ordinal", "id")
    )


@transaction.atomic
def keep_whole(user: AbstractBaseUser, spot: Spot, evening: date, asked: dict[str, Any], runs: Sequence[ScheduledRun]) -> Night:
    """Save the plan of a night. Runs that were planned before keep their rows; those that it no longer has are dropped, unless they
    were begun."""
    kept = the_night(user, spot, evening)
    kept.whole = asked
    kept.targets = list(dict.fromkeys(one["target"] for one in asked["wishes"]))
    kept.save(update_fields=("whole", "targets", "updated_at"))
    kept.rigs.set(asked["rigs"])
    rows = _scheduled_rows(kept)
    paired = pair_runs(rows, runs)
    stay = {row.pk for row in paired if row is not None}
    _withdraw_runs([row for row in rows if row.pk not in stay])
    for run, row in zip(runs, paired, strict=True):
        _save_run(kept, run, row, _scheduled_rows(kept) if row is None else rows)
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
    """Withdraw a night's plan; what was begun of it stays."""
    night = night_of(user, spot, evening)
    if night is None:
        return
    _withdraw_runs(_scheduled_rows(night))
    night.whole = {}
    night.save(update_fields=("whole", "updated_at"))
    forget_empty_nights(Night.objects.of(user).filter(pk=night.pk))

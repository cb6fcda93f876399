"""Keeping frames: who measures one, what comes out, and which run it belongs to."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict
from datetime import UTC, date, datetime, timedelta, timezone, tzinfo
from typing import Any, cast
from zoneinfo import ZoneInfo

import numpy as np
from django.db import transaction
from django.db.models import Q, QuerySet

from widedusk.core.frames.facts import FrameFacts, MeanStar, Profile, Streak, Zone
from widedusk.core.frames.header import Header
from widedusk.core.frames.pointing import Pointing
from widedusk.core.judge.runs import Taken, clock_steps, runs_of
from widedusk.core.plan.outlook import night_of
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.records.frames.folders import Clock
from widedusk.records.frames.models import CLOCK_STEPPED, Folder, Frame
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.services import snapshot_of
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import forget_empty_nights, the_night
from widedusk.records.pictures.pictures import read_header
from widedusk.records.targets.models import Target
from widedusk.records.work import alive, claim, left_lying


@transaction.atomic
def claim_frame(number: int) -> Frame | None:
    """Take a frame up for one run of the worker. None when it is measured, its folder rests, or somebody is at it."""
    wanted = Frame.objects.filter(pk=number, folder__deleted_at=None).exclude(folder__state__in=Folder.RESTING).exists()
    row = claim(Frame, number) if wanted else None
    return None if row is None else Frame.objects.select_related("folder__rig", "folder__night__spot__place").get(pk=row.pk)


def beat_frame(row: Frame) -> bool:
    """A sign of life. True when its folder was paused, stopped or taken out. Raises Superseded."""
    return alive(row).filter(Q(folder__state__in=Folder.RESTING) | ~Q(folder__deleted_at=None)).exists()


def let_frame_wait(row: Frame) -> None:
    """Give a frame back unmeasured: its folder rests. Of one that was stopped it is let go."""
    mine = Frame.objects.filter(pk=row.pk, claim=row.claim, state="running")
    mine.update(state="waiting", claim=None, beat_at=None, job=None)
    Frame.objects.filter(pk=row.pk, state="waiting", folder__state="stopped").delete()


def left_lying_frames() -> QuerySet[Frame]:
    """Frames that nobody is at and no job will come to."""
    return left_lying(Frame).filter(folder__deleted_at=None).exclude(folder__state__in=Folder.RESTING)


def stored_facts(facts: FrameFacts) -> dict[str, Any]:
    return cast(dict[str, Any], _rounded(asdict(facts)))


def _rounded(value: Any) -> Any:
    """Six figures: more is noise, and a night has thousands of frames."""
    if isinstance(value, float):
        return float(f"{value:.6g}") if np.isfinite(value) else None
    if isinstance(value, dict):
        return {name: one if name in {"ra_deg", "dec_deg", "angle_deg"} else _rounded(one) for name, one in value.items()}
    if isinstance(value, list | tuple):
        return [_rounded(one) for one in value]
    return value


def facts_of(stored: dict[str, Any]) -> FrameFacts:
    """As they were stored."""
    told = dict(stored)
    told["star"] = MeanStar(**told["star"]) if told["star"] else None
    told["profile"] = Profile(**told["profile"]) if told["profile"] else None
    told["pointing"] = Pointing.kept(told["pointing"]) if told["pointing"] else None
    told["streaks"] = tuple(Streak(**one) for one in told["streaks"])
    told["zones"] = tuple(
        Zone(MeanStar(**one["star"]) if one["star"] else None, one["zero_mag"], one["background"]) for one in told["zones"]
    )
    return FrameFacts(**told)


def began_at(header: Header, folder: Folder) -> datetime | None:
    """When the exposure began, by the camera's clock put right; UTC."""
    if header.taken is None:
        return None
    offset = folder.clock_offset_min if folder.clock_offset_min is not None else header.utc_offset_min
    if offset is not None:
        zone: tzinfo = timezone(timedelta(minutes=offset))
    else:
        zone = ZoneInfo(folder.night.spot.place.time_zone) if folder.night.spot is not None else UTC
    return header.taken.replace(tzinfo=zone).astimezone(UTC) - timedelta(seconds=folder.clock_fast_s)


@transaction.atomic
def put_clock_right(folder: Folder, clock: Clock) -> None:
    """Keep what is known of the camera's clock, and give every frame that was measured the moment it follows from."""
    folder.clock_offset_min, folder.clock_fast_s, folder.settled_at = clock.offset_min, clock.fast_s, None
    folder.save(update_fields=("clock_offset_min", "clock_fast_s", "settled_at", "updated_at"))
    rows = list(folder.frames.filter(state="done").only("pk", "folder", "header"))
    for row in rows:
        row.began_at = began_at(read_header(row.header), folder)
    Frame.objects.bulk_update(rows, ["began_at"], batch_size=1000)


def other_evening_of(folder: Folder, first: datetime | None) -> date | None:
    """The evening of its frames by their clock, where it is not that of the night they were brought into. first: of them all."""
    if first is None:
        return None
    east_h = folder.night.spot.place.longitude_deg / 15.0 if folder.night.spot is not None else 0.0
    evening = (first + timedelta(hours=east_h - 12.0)).date()
    return evening if evening != folder.night.date else None


@transaction.atomic
def move_to_evening(folder: Folder, evening: date) -> None:
    """Put a folder with its frames and runs into another night at the same spot. What was only found in it is found anew among the
    pictures of that night; what a person has kept goes along as it is. Raises InvalidInput for a night out of reach."""
    if folder.night.spot is not None:
        night_of(spot_of(folder.night.spot), evening)  # refuses what no almanac reaches
    there = the_night(folder.owner, folder.night.spot, evening)
    before, runs = folder.night_id, Run.objects.filter(folder_runs(folder))
    for run in runs.filter(state="running"):
        folder.frames.filter(run=run).update(run=None)
        run.delete_softly()
    runs.update(night=there)
    folder.night, folder.settled_at = there, None
    folder.save(update_fields=("night", "settled_at", "updated_at"))
    settle(folder)
    forget_empty_nights(Night.objects.filter(pk=before))


def _taken(row: Frame) -> Taken:
    looks = (row.facts or {}).get("pointing") or {}
    header = row.header
    return Taken(
        row.pk,
        row.kind or "light",  # type: ignore[arg-type]
        mjd_from_datetime(row.began_at) if row.began_at else float("nan"),
        header.get("exposure_s"),
        header.get("iso"),
        header.get("f_number"),
        header.get("focal_mm"),
        header.get("camera", ""),
        looks.get("ra_deg", float("nan")),
        looks.get("dec_deg", float("nan")),
        looks.get("width_deg", float("nan")),
        (header["width_px"], header["height_px"]) if header.get("width_px") and header.get("height_px") else None,
    )


def _each_once(rows: Sequence[Frame]) -> list[Frame]:
    """Without those that are the same picture as another: two workers may have measured both at once."""
    first: dict[str, Frame] = {}
    for row in rows:
        if first.setdefault(row.digest or str(row.pk), row) is not row:
            told = f"“{row.name}” is the same picture as “{first[row.digest].name}”; it counts once."
            Frame.objects.filter(pk=row.pk).update(state="failed", fault=told, run=None)
    return list(first.values())


@transaction.atomic
def settle(folder: Folder) -> None:
    """Find the runs of a folder anew and give each frame to its own. A run that is there already keeps its number and its word."""
    folder = Folder.objects.select_for_update(of=("self",)).select_related("night__spot", "rig", "target").get(pk=folder.pk)
    rows = list(
        folder.frames.filter(state="done")
        .only("pk", "folder", "name", "kind", "began_at", "header", "facts", "run_id", "measured_at", "digest")
        .order_by("name")
    )
    rows = _each_once(rows)
    _take_clock_back(folder, rows)
    groups = runs_of([_taken(row) for row in rows])
    of = {row.pk: row for row in rows}
    taken: set[int] = set()
    for numbers in groups:
        before: list[int] = []
        for one in numbers:
            run_id = of[one].run_id
            if run_id is not None and run_id not in taken:
                before.append(run_id)
        run = Run.objects.filter(pk=max(set(before), key=before.count)).first() if before else None
        first = of[numbers[0]]
        if run is None:
            run = _new_run(folder, [of[one] for one in numbers], first)
        else:
            _span(run, [of[one] for one in numbers])
        taken.add(run.pk)
        Frame.objects.filter(pk__in=numbers).exclude(run=run).update(run=run)
    in_runs = {one for numbers in groups for one in numbers}
    Frame.objects.filter(pk__in=[row.pk for row in rows if row.pk not in in_runs and row.run_id is not None]).update(run=None)
    gone = Run.objects.filter(folder_runs(folder), taken=None, state="running").exclude(pk__in=taken)
    for run in gone:
        run.delete_softly()
    # By the frames that were looked at, not by the clock: others may have been measured meanwhile.
    last = max((row.measured_at for row in rows if row.measured_at is not None), default=None)
    Folder.objects.filter(pk=folder.pk).update(settled_at=last)


def _take_clock_back(folder: Folder, rows: Sequence[Frame]) -> None:
    """Where the camera's clock stepped by an hour in the middle of a row, frames go on counting by what it was; and it is said."""
    steps = clock_steps([_taken(row) for row in rows])
    moved = [row for row in rows if row.pk in steps and row.began_at is not None]
    if not moved:
        return
    for row in moved:
        if row.began_at is not None:
            row.began_at -= timedelta(hours=steps[row.pk])
    Frame.objects.bulk_update(moved, ["began_at"], batch_size=1000)
    hours, first = steps[moved[0].pk], moved[0].name
    way = f"{abs(hours)} h {'ahead' if hours > 0 else 'behind'}"
    told = f"{CLOCK_STEPPED} is {way} from “{first}” on; it counts as before, so that the run stays one."
    folder.troubles = [*(one for one in folder.troubles if one != told), told]
    folder.save(update_fields=("troubles",))


def folder_runs(folder: Folder) -> Q:
    """Runs that were found in a folder."""
    return Q(owner_id=folder.owner_id, night_id=folder.night_id, expected__folder=folder.pk, deleted_at=None)


def _new_run(folder: Folder, rows: Sequence[Frame], first: Frame) -> Run:
    header = first.header
    target, planned, inside = _what_it_is_of(folder, rows)
    run = Run(
        owner_id=folder.owner_id,
        night=folder.night,
        target=target,
        framing=planned.framing if planned else None,
        panel=planned.panel if planned else None,
        rig=folder.rig,
        state="running",
        name=f"{target.name}, {folder.name}"[:120],
        snapshot=snapshot_of(folder.rig),
        exposure_s=header.get("exposure_s"),
        f_number=header.get("f_number"),
        iso=header.get("iso"),
        expected={"folder": folder.pk, "elsewhere": not inside, **({"planned": planned.pk} if planned else {})},
    )
    _span(run, rows)
    return run


def _span(run: Run, rows: Iterable[Frame]) -> None:
    times = [row.began_at for row in rows if row.began_at is not None]
    if times:
        run.begins_at, run.ends_at = min(times), max(times) + timedelta(seconds=run.exposure_s or 0.0)
    run.save()


def _what_it_is_of(folder: Folder, rows: Sequence[Frame]) -> tuple[Target, Run | None, bool]:
    """The planned run of this night and rig whose target lies in the picture; else the nearest of the person's targets that does;
    else what was aimed at, and that it is not there."""
    looks = [row.facts["pointing"] for row in rows if row.facts and row.facts.get("pointing")]
    coming = Run.objects.filter(owner_id=folder.owner_id, night=folder.night, rig=folder.rig, state="planned", deleted_at=None)
    planned = list(coming.select_related("target", "framing"))
    if not looks:
        return folder.target, next((one for one in planned if one.target_id == folder.target_id), None), True
    ra, dec = (np.radians(float(np.median([one[name] for one in looks]))) for name in ("ra_deg", "dec_deg"))
    reach = max(float(looks[0]["width_deg"]), float(looks[0]["height_deg"])) * 0.5

    def off(target: Target) -> float:
        a, d = np.radians(target.ra_deg), np.radians(target.dec_deg)
        return float(np.degrees(np.arccos(np.clip(np.sin(dec) * np.sin(d) + np.cos(dec) * np.cos(d) * np.cos(ra - a), -1.0, 1.0))))

    for one in sorted(planned, key=lambda run: off(run.target)):
        if off(one.target) < reach:
            return one.target, one, True
    if off(folder.target) < reach:
        return folder.target, None, True
    targets = [one for one in Target.objects.filter(owner_id=folder.owner_id, deleted_at=None) if off(one) < reach]
    return (min(targets, key=off), None, True) if targets else (folder.target, None, False)

"""Keeping frames: who measures one, what comes out, and which run it belongs to."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass
from datetime import UTC, date, datetime, timedelta, timezone, tzinfo
from typing import Any, cast
from zoneinfo import ZoneInfo

import numpy as np
from django.db import transaction
from django.db.models import Q, QuerySet

from widedusk.core.errors import InvalidInput
from widedusk.core.frames.facts import FrameFacts, MeanStar, Profile, Streak, Zone
from widedusk.core.frames.header import Header
from widedusk.core.frames.pointing import Pointing
from widedusk.core.framing.frame import sides_deg
from widedusk.core.judge.runs import Taken, clock_steps, runs_of, same_setting
from widedusk.core.plan.outlook import night_of
from widedusk.core.runs.matching import Candidate, Recognition, Series, match, separation_deg, shows
from widedusk.core.sky.time import SECOND, day_words, mjd_from_datetime
from widedusk.records.frames.folders import Clock
from widedusk.records.frames.models import CLOCK_STEPPED, Folder, Frame
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import rig_of, snapshot_of
from widedusk.records.nights.facts import facts_from, save_facts
from widedusk.records.nights.models import Night, Run, RunResult
from widedusk.records.nights.nights import forget_empty_nights, the_night
from widedusk.records.nights.runs import followed
from widedusk.records.pictures.pictures import read_header
from widedusk.records.targets.framings import framing_of
from widedusk.records.targets.models import Target
from widedusk.records.work import alive, claim, left_lying

SEVERAL_NIGHTS = "Frames of several nights"  # words with which the sentence begins that says so


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
    if any(one.startswith(SEVERAL_NIGHTS) for one in folder.troubles):
        return None
    evening = _evening(folder, first)
    return evening if evening != folder.night.date else None


@transaction.atomic
def move_to_evening(folder: Folder, evening: date) -> None:
    """Put a folder with its frames and runs into another night at the same spot. What was only found in it is found anew among the
    pictures of that night; what a person has kept goes along as it is. Raises InvalidInput for a night out of reach."""
    if folder.night.spot is not None:
        night_of(spot_of(folder.night.spot), evening)  # refuses what no almanac reaches
    there = the_night(folder.owner, folder.night.spot, evening)
    before = folder.night_id
    for run in folder_runs(folder):
        if run.origin == "files" and run.state == "done":
            run.night = there  # as the user counted it
            run.save(update_fields=("night", "updated_at"))
        else:  # a plan stays in the night that it was made for; what was only found is found anew
            folder.frames.filter(run=run).update(run=None)
            _tell_files(run)
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
    """Find the runs of a folder anew and give each frame to its own: to the planned run that it shows, else to one that was found
    here before, else to a new one. A run that is there already keeps its number and the user's decisions."""
    folder = Folder.objects.select_for_update(of=("self",)).select_related("night__spot__place", "rig", "target").get(pk=folder.pk)
    rows = list(
        folder.frames.filter(state="done")
        .only("pk", "folder", "name", "kind", "began_at", "header", "facts", "run_id", "measured_at", "digest")
        .order_by("name")
    )
    rows = _each_once(rows)
    _take_clock_back(folder, rows)
    of = {row.pk: row for row in rows}
    before = {run.pk for run in folder_runs(folder)}
    evenings = _evenings(folder, rows)
    taken: dict[int, list[Frame]] = {}  # by number of the run
    for group in sorted(runs_of([_taken(row) for row in rows]), key=len, reverse=True):
        frames = [of[number] for number in group]
        run = _run_for(folder, _night_of_frames(folder, frames, evenings), frames, taken)
        taken.setdefault(run.pk, []).extend(frames)
        Frame.objects.filter(pk__in=group).exclude(run=run).update(run=run)
    in_runs = {row.pk for frames in taken.values() for row in frames}
    Frame.objects.filter(pk__in=[row.pk for row in rows if row.pk not in in_runs and row.run_id is not None]).update(run=None)
    for run in Run.objects.filter(pk__in=before | set(taken)):
        _tell_files(run)
    # By the frames that were looked at, not by the clock: others may have been measured meanwhile.
    last = max((row.measured_at for row in rows if row.measured_at is not None), default=None)
    Folder.objects.filter(pk=folder.pk).update(settled_at=last)


def _evening(folder: Folder, moment: datetime) -> date:
    """Of a moment at the folder's spot: nights change at noon by the Sun."""
    east_h = folder.night.spot.place.longitude_deg / 15.0 if folder.night.spot is not None else 0.0
    return (moment + timedelta(hours=east_h - 12.0)).date()


def _evenings(folder: Folder, rows: Sequence[Frame]) -> Counter[date]:
    """Light frames of a folder by evening; where there are several, the folder says so."""
    evenings = Counter(_evening(folder, row.began_at) for row in rows if row.kind == "light" and row.began_at is not None)
    told = ""
    if len(evenings) > 1:
        nights = ", ".join(f"{day_words(evening)}: {count}" for evening, count in sorted(evenings.items()))
        told = f"{SEVERAL_NIGHTS} ({nights}). Each is in its own night."
    kept = [*(one for one in folder.troubles if not one.startswith(SEVERAL_NIGHTS)), *([told] if told else [])]
    if kept != folder.troubles:
        folder.troubles = kept
        folder.save(update_fields=("troubles",))
    return evenings


def _night_of_frames(folder: Folder, frames: Sequence[Frame], evenings: Counter[date]) -> Night:
    """The night of a series: the folder's, unless the folder holds several. A clock that is wrong throughout moves nothing."""
    first = next((row.began_at for row in frames if row.began_at is not None), None)
    if len(evenings) < 2 or first is None:
        return folder.night
    evening = _evening(folder, first)
    return folder.night if evening == folder.night.date else the_night(folder.owner, folder.night.spot, evening)


def _run_for(folder: Folder, night: Night, frames: Sequence[Frame], taken: Mapping[int, Sequence[Frame]]) -> Run:
    """The run of a series in its night. taken: series that have their run already; one run has one setting."""

    def free(number: int) -> bool:
        return number not in taken or same_setting(_taken(taken[number][0]), _taken(frames[0]))

    here = [row.run_id for row in frames if row.run_id is not None and row.run_id not in taken]
    numbers = sorted(set(here), key=here.count, reverse=True)
    there = Run.objects.filter(pk__in=numbers, rig=folder.rig_id, night=night).select_related("result").in_bulk()
    before = next((there[number] for number in numbers if number in there), None)
    # What the user deleted, counted or assigned stays as they said; a run of files that is only found may turn out to be planned.
    settled = before is not None and (before.deleted_at is not None or before.result.recognition == "user")
    if before is not None and (settled or before.origin != "files" or before.state != "running"):
        return before
    found = _recognise(folder, night, frames)
    if before is not None and found.run is None:
        return before
    if found.run is not None and free(found.run.pk):
        run = found.run
        if not run.snapshot:
            run.snapshot = snapshot_of(folder.rig)
            run.save(update_fields=("snapshot", "updated_at"))
    elif before is not None:
        return before
    else:
        run = Run.objects.create(
            owner_id=folder.owner_id,
            night=night,
            target=found.target,
            framing=found.run.framing if found.run else None,
            panel_row=found.run.panel_row if found.run else None,
            panel_column=found.run.panel_column if found.run else None,
            rig=folder.rig,
            origin="files",
            state="running",
            name=f"{found.target.name}, {folder.name}"[:120],
            snapshot=snapshot_of(folder.rig),
        )
    series = found.series
    seen = {"seen_ra_deg": series.ra_deg, "seen_dec_deg": series.dec_deg, "seen_width_deg": series.width_deg}
    looks = {name: value if np.isfinite(value) else None for name, value in seen.items()}
    recognition = "planned" if found.run is not None and run.pk == found.run.pk else found.recognition
    RunResult.objects.update_or_create(run=run, defaults={"recognition": recognition, **looks})
    return run


def _tell_files(run: Run) -> None:
    """Let files say what they say of a run: all of its frames, from whatever folder. A run that was only found in files, and has
    none any more, is deleted."""
    rows = list(run.taken.filter(state="done").only("began_at", "header").order_by("began_at", "name"))
    if not rows and run.origin == "files" and run.state == "running":
        run.delete_softly()
        return
    times = [row.began_at for row in rows if row.began_at is not None]
    settings = {name: _said_most(row.header.get(name) for row in rows) for name in ("exposure_s", "f_number", "iso")}
    ends = max(times) + timedelta(seconds=settings["exposure_s"] or 0.0) if times else None
    values = {"begins_at": min(times, default=None), "ends_at": ends, "frames": len(rows) or None, **settings}
    if not rows:
        values |= {"kept": None, "sky_mag": None}
    save_facts(run, facts_from("files", values))
    if run.origin == "files" and run.state == "planned":  # nobody says anything of it any more
        run.delete_softly()


def _said_most(values: Iterable[Any]) -> Any:
    """What most files say, None where none says anything."""
    said = [value for value in values if value is not None]
    return max(set(said), key=said.count) if said else None


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


def folder_runs(folder: Folder) -> list[Run]:
    """Runs of which frames lie in a folder."""
    return list(Run.objects.filter(taken__folder=folder, deleted_at=None).distinct())


@dataclass(frozen=True)
class _Recognised:
    """What a series shows. run: the planned one that it belongs to."""

    series: Series
    recognition: Recognition
    run: Run | None
    target: Target


def _series_of(frames: Sequence[Frame]) -> Series:
    looks = [row.facts["pointing"] for row in frames if row.facts and row.facts.get("pointing")]
    times = [mjd_from_datetime(row.began_at) for row in frames if row.began_at is not None]
    exposure = frames[0].header.get("exposure_s") or float("nan")
    ra, dec = (float(np.median([one[name] for one in looks])) if looks else float("nan") for name in ("ra_deg", "dec_deg"))
    side = max(float(looks[0]["width_deg"]), float(looks[0]["height_deg"])) if looks else float("nan")
    return Series(
        begins_mjd=min(times, default=float("nan")),
        ends_mjd=max(times, default=float("nan")) + (exposure if np.isfinite(exposure) else 0.0) * SECOND,
        exposure_s=exposure,
        ra_deg=ra,
        dec_deg=dec,
        width_deg=side,
        frames=len(frames),
    )


def _aim_of(run: Run) -> tuple[float, float]:
    """Where a run points, degrees: its panel, laid by the night's smallest frame as the schedule does; its framing; its target."""
    framing = run.framing if run.framing and run.framing.deleted_at is None else None
    if framing is None:
        return run.target.ra_deg, run.target.dec_deg
    if run.panel is not None:
        with suppress(InvalidInput):  # a rig that lacks its camera by now
            sides = min((sides_deg(rig_of(rig)) for rig in run.night.rigs.all()), key=lambda side: side[0] * side[1])
            laid = framing_of(framing).panels(*sides).panels
            panel = next((panel for panel in laid if (panel.row, panel.column) == run.panel), None)
            if panel is not None:
                return panel.frame.ra_deg, panel.frame.dec_deg
    return framing.ra_deg, framing.dec_deg


def _candidate(run: Run) -> Candidate:
    plan, (ra_deg, dec_deg) = run.plan, _aim_of(run)
    begins, ends = plan.change_at or plan.first_frame_at or plan.begins_at, plan.last_frame_ends_at or plan.ends_at
    return Candidate(
        number=run.pk,
        begins_mjd=mjd_from_datetime(begins) if begins else float("nan"),
        ends_mjd=mjd_from_datetime(ends) if ends else float("nan"),
        exposure_s=plan.exposure_s or 0.0,
        ra_deg=ra_deg,
        dec_deg=dec_deg,
    )


def rig_width_deg(rig: Rig) -> float:
    """The longer side of the rig's field, degrees; NaN where it has no camera and lens."""
    try:
        return max(sides_deg(rig_of(rig)))
    except InvalidInput:
        return float("nan")


def _recognise(folder: Folder, night: Night, frames: Sequence[Frame]) -> _Recognised:
    """The run of this night and rig that a series shows; else the nearest of the user's targets in it; else what was aimed at."""
    series = _series_of(frames)
    coming = Run.objects.filter(owner_id=folder.owner_id, night=night, rig=folder.rig, origin__in=("plan", "schedule"))
    rows = list(coming.filter(deleted_at=None).select_related("target", "framing", "plan"))
    begun = [run for run in rows if run.state in {"running", "done"}]  # whatever became of the plan since
    planned = {run.pk: run for run in [*followed(rows), *begun]}
    targets = list(Target.objects.filter(owner_id=folder.owner_id, deleted_at=None))
    places = [(target.ra_deg, target.dec_deg) for target in targets]
    found = match(series, [_candidate(run) for run in planned.values()], places, rig_width_deg(folder.rig))
    run = planned.get(found.number or 0)
    if run is not None:
        return _Recognised(series, found.recognition, run, run.target)
    inside = [target for target in targets if series.solved and shows(series, target.ra_deg, target.dec_deg)]
    if found.recognition != "target" or folder.target in inside:
        return _Recognised(series, found.recognition, None, folder.target)
    nearest = min(inside, key=lambda target: separation_deg(series.ra_deg, series.dec_deg, target.ra_deg, target.dec_deg))
    return _Recognised(series, found.recognition, None, nearest)

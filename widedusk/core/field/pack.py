"""The night pack: all that the field needs, worked out beforehand and frozen, so that out there one only looks up and draws."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date, datetime

import numpy as np

from widedusk.core.choices import Convention
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.field.answers import OtherNight, SubUnder, other_nights, still_trail_px, subs_under
from widedusk.core.field.events import KINDS, SEEN
from widedusk.core.field.planned import Left, PlannedNight, PlannedRun
from widedusk.core.field.steps import Step, steps_of
from widedusk.core.framing.standing import altitudes
from widedusk.core.judge.symptoms import Knowledge, knowledge
from widedusk.core.kit.dew import Air, below_air_c
from widedusk.core.kit.parts import ScopeView
from widedusk.core.night.windows import Night, strip_span
from widedusk.core.plan.packing import Packing
from widedusk.core.plan.schedule.trip import TripRun
from widedusk.core.plan.schedule.what_if import Replan, WhatIf
from widedusk.core.plan.schedule.worth import REFOCUS_EVERY_MIN, current
from widedusk.core.pole.dial import turning
from widedusk.core.pole.keeping import FRAMES
from widedusk.core.scene import Spot
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import MINUTE, datetime_from_mjd, mjd_from_datetime

FORMAT = 1
# What calls a person, by tone and light. Sunset and the like are only told.
LOUD = ("change", "ends", "moonrise", "dawn", "dew", "battery", "wake")
REFOCUS_DROP_C = 2.5  # since the last focus. Common practice, no source


@dataclass(frozen=True)
class PackRig:
    """key: the number of its record. tracks: whether its tracker is used. target: the number of what it takes first, under which
    its photographs are measured."""

    key: str
    name: str
    focal_mm: float
    tracks: bool
    scope_view: ScopeView
    target: int | None = None


@dataclass(frozen=True)
class RunCue:
    """Something to do while a run is under way, so many seconds after the button was pressed."""

    key: str
    after_s: float
    name: str


@dataclass(frozen=True)
class PackRun:
    """rig, target: places in the pack's lists. done_after_s: of each frame, when it is done, seconds after the button was pressed.

    still_trail_px: as long a star is drawn in one sub while the tracker stands still.
    """

    key: str
    rig: int
    target: int
    name: str
    change_at: datetime
    begins_at: datetime
    ends_at: datetime
    frames: int
    exposure_s: float
    iso: int
    f_number: float
    delay_s: float
    mirror_s: float
    noise_reduction: bool
    interval_gap_s: float
    interval_start_s: float
    convention: Convention
    done_after_s: tuple[float, ...]
    cues: tuple[RunCue, ...]
    still_trail_px: float
    subs: tuple[SubUnder, ...]


@dataclass(frozen=True)
class PackTarget:
    """Where it stands, minute by minute from the pack's first minute on: degrees, apparent altitude and azimuth from north."""

    name: str
    altitude_deg: tuple[float, ...]
    azimuth_deg: tuple[float, ...]


@dataclass(frozen=True)
class PolePath:
    """One star about the point to aim at, minute by minute from its view's first on.

    clock_deg: clockwise from the top of what the eye sees."""

    name: str
    clock_deg: tuple[float, ...]
    radius_arcmin: tuple[float, ...]


@dataclass(frozen=True)
class PackPole:
    view: ScopeView
    south: bool
    first: datetime
    stars: tuple[PolePath, ...]


@dataclass(frozen=True)
class FieldCue:
    key: str
    kind: str
    name: str
    moment: datetime
    loud: bool
    run: str = ""  # of which it is: it calls no more once that has begun


@dataclass(frozen=True)
class ReplanRun:
    """rig: place in the pack's rigs. change_at, ends_at: of the change's beginning and of the last frame."""

    rig: int
    name: str
    change_at: datetime
    ends_at: datetime
    frames: int
    exposure_s: float
    iso: int
    f_number: float


@dataclass(frozen=True)
class PackReplan:
    """The best from a moment on. so_far: where what was planned before was shot; else where nothing was."""

    moment: datetime
    so_far: bool
    runs: tuple[ReplanRun, ...]


@dataclass(frozen=True)
class PackItem:
    key: str
    name: str
    why: str
    packed: bool


@dataclass(frozen=True)
class Pack:
    """night, spot: numbers of their records; whole: planned as a whole night, of which what ifs can be asked. version: of all in it
    but the moment at which it was made. first: the minute at which the tables begin; minutes: how many they have. kinds, seen: what
    an event may be."""

    format: int
    version: str
    made_at: datetime
    night: int
    spot: int
    whole: bool
    evening: date
    place: str
    time_zone: str
    south: bool
    first: datetime
    minutes: int
    sunset: datetime | None
    sunrise: datetime | None
    rigs: tuple[PackRig, ...]
    targets: tuple[PackTarget, ...]
    runs: tuple[PackRun, ...]
    steps: tuple[Step, ...]
    cues: tuple[FieldCue, ...]
    poles: tuple[PackPole, ...]
    left: tuple[Left, ...]
    other_nights: tuple[OtherNight, ...]
    knowledge: Knowledge
    packing: tuple[PackItem, ...]
    kinds: tuple[str, ...]
    seen: tuple[str, ...]
    replans: tuple[PackReplan, ...] = ()  # every ten minutes; of a whole night
    more_to_come: bool = False  # other nights are still being worked out: take it once more soon


def _moment(mjd: float | None) -> datetime | None:
    return datetime_from_mjd(mjd) if mjd is not None else None


def _targets(planned: PlannedNight, spot: Spot, span: tuple[int, int]) -> tuple[list[PackTarget], list[int]]:
    """Each place on the sky once, and which of them each run is at."""
    places: dict[tuple[float, float], int] = {}
    of_run = [places.setdefault((run.frame.ra_deg, run.frame.dec_deg), len(places)) for run in planned.runs]
    names = {of_run[number]: run.name for number, run in reversed(list(enumerate(planned.runs)))}
    mjd = planned.night.mjd[span[0] : span[1] + 1]
    found = []
    for (ra, dec), number in places.items():
        altitude, azimuth = altitudes(spot, mjd, unit_vectors(np.radians(ra), np.radians(dec)))
        found.append(PackTarget(names[number], _rounded(altitude, 1), _rounded(azimuth, 1)))
    return found, of_run


def _rounded(values: np.ndarray, decimals: int) -> tuple[float, ...]:
    return tuple(np.round(values, decimals).tolist())


def _run(planned: PlannedNight, run: PlannedRun, target: int) -> PackRun:
    choices = run.choices
    cycle = run.exposure_s + run.pause_s
    done = choices.delay_s + run.exposure_s + np.arange(run.frames) * cycle
    last = float(done[-1]) if run.frames else 0.0
    cues = []
    if choices.recheck_school == "thirty frames" and choices.tracking != "untracked":
        cues += [RunCue(f"look{n}", float(done[n - 1]), "Check polar alignment") for n in range(FRAMES, run.frames, FRAMES)]
    cues += _focus_cues(planned.air, mjd_from_datetime(run.begins_at), last)
    return PackRun(
        run.key,
        run.stand,
        target,
        run.name,
        run.change_at,
        run.begins_at,
        run.ends_at,
        run.frames,
        run.exposure_s,
        run.iso,
        run.f_number,
        choices.delay_s,
        choices.mirror_s,
        choices.noise_reduction == "on",
        run.pause_s,
        cycle,
        choices.convention,
        _rounded(done, 1),
        tuple(sorted(cues, key=lambda one: one.after_s)),
        round(still_trail_px(run), 1),
        subs_under(run),
    )


def _focus_cues(air: Air | None, begins: float, last_s: float) -> list[RunCue]:
    """Every hour, and sooner where the air has cooled by as much as moves the focus. begins: MJD; last_s: of the last frame."""
    cues: list[RunCue] = []
    focused, minutes = 0, np.arange(int(last_s // 60.0) + 1)
    temperature = air.at_c(np.asarray(begins + minutes * MINUTE, dtype=float)) if air else np.zeros(len(minutes))
    for minute in map(int, minutes):
        colder = float(temperature[focused] - temperature[minute])
        if colder >= REFOCUS_DROP_C:
            told = f"Refocus: {colder:.0f} °C colder since you focused"
        elif minute - focused >= REFOCUS_EVERY_MIN:
            told = "Check the focus"
        else:
            continue
        cues.append(RunCue(f"focus{len(cues) + 1}", minute * 60.0, told))
        focused = minute
    return cues


def _cues(planned: PlannedNight, spot: Spot) -> list[FieldCue]:
    """The night's own, those of runs, dew, and batteries, in order."""
    found = [(one.key, one.name, one.moment, "") for one in planned.cues]
    for run in planned.runs:
        what = f"{run.name}, {planned.stands[run.stand].name}" if len(planned.stands) > 1 else run.name
        found.append(("change", f"Frame and focus: {what}", run.change_at, run.key))
        found.append(("ends", f"Ends: {what}", run.ends_at, run.key))
    fogs = planned.air.fogs_mjd(below_air_c(planned.stands[0].choices.dew_school)) if planned.air else None
    if fogs is not None:
        found.append(("dew", "Dew on the glass from now on", datetime_from_mjd(fogs), ""))
    for _, wakes in planned.asleep:
        found.append(("wake", "Wake up", datetime_from_mjd(wakes), ""))
    for stand in planned.stands:
        for swap in current(stand, spot, planned.evening, planned.air).swaps:
            at = datetime_from_mjd(float(planned.night.mjd[0]) + swap.minute * MINUTE)
            found.append(("battery", f"Swap {swap.words}", at, ""))
    found.sort(key=lambda one: (one[2], one[0], one[1]))
    numbered: dict[str, int] = {}
    made = []
    for kind, name, moment, run_key in found:
        numbered[kind] = numbered.get(kind, 0) + 1
        made.append(FieldCue(f"{kind}{numbered[kind]}", kind, name, moment, kind in LOUD, run_key))
    return made


def _poles(night: Night, spot: Spot, planned: PlannedNight, span: tuple[int, int]) -> list[PackPole]:
    """One for each way in which a scope of these rigs shows the sky."""
    first, last = float(night.mjd[span[0]]), float(night.mjd[span[1]])
    views: dict[ScopeView, None] = {}
    for stand in planned.stands:
        if stand.rig.tracker is not None and stand.rig.tracker.scope_view != "none":
            views.setdefault(stand.rig.tracker.scope_view)
    found = []
    for view in views:
        turned = turning(spot, first, last, view, planned.stands[0].choices.pole, step_min=1)
        stars = tuple(PolePath(one.name, tuple(one.clock_deg), tuple(one.radius_arcmin)) for one in turned.arcs)
        found.append(PackPole(view, spot.observer.south, turned.moments[0], stars))
    return found


def field_pack(
    planned: PlannedNight,
    spot: Spot,
    records: tuple[int, int, bool],
    rigs: Sequence[tuple[int, str, int | None]],
    packing: Packing,
    ticked: Sequence[str],
    what_ifs: Sequence[WhatIf],
    made_at: datetime,
    learned: Mapping[str, float] | None = None,
    replans: Sequence[Replan] = (),
) -> Pack:
    """Put everything together.

    records: numbers of night and spot, and whether it is whole; rigs: of each stand its number, the way it is aligned, empty where
    none was chosen, and the number of its first target; learned: minutes that this person takes for a kind of step. Raises
    InvalidInput for a night in which nothing is planned.
    """
    if not planned.runs:
        told = "No run of this night has a window in which frames can be taken; choose another night, or another target."
        raise InvalidInput([Fault("night", str(planned.evening), told)])
    span = strip_span(planned.night)
    targets, of_run = _targets(planned, spot, span)
    down, up = planned.night.sunset_and_sunrise()
    pack = Pack(
        FORMAT,
        "",
        made_at,
        *records,
        planned.evening,
        spot.name,
        spot.time_zone,
        spot.observer.south,
        datetime_from_mjd(float(planned.night.mjd[span[0]])),
        span[1] - span[0] + 1,
        _moment(down),
        _moment(up),
        tuple(
            PackRig(
                str(number),
                stand.name,
                stand.rig.lens.focal_mm,
                stand.rig.tracker is not None and stand.choices.tracking != "untracked",
                stand.rig.tracker.scope_view if stand.rig.tracker else "none",
                target,
            )
            for stand, (number, _, target) in zip(planned.stands, rigs, strict=True)
        ),
        tuple(targets),
        tuple(_run(planned, run, target) for run, target in zip(planned.runs, of_run, strict=True)),
        steps_of(planned, spot, [way for _, way, _ in rigs], learned),
        tuple(_cues(planned, spot)),
        tuple(_poles(planned.night, spot, planned, span)),
        tuple(Left(one.moment, round(one.percent, 1)) for one in planned.left),
        other_nights(what_ifs),
        knowledge(),
        tuple(PackItem(item.key, item.name, item.why, item.key in set(ticked)) for item in packing.items),
        KINDS,
        SEEN,
        tuple(PackReplan(one.moment, one.so_far, tuple(map(_replan_run, one.runs))) for one in replans),
    )
    return replace(pack, version=version_of(pack))


def _replan_run(run: TripRun) -> ReplanRun:
    told = (run.change_at, run.ends_at, run.frames, run.exposure_s, run.iso, run.f_number)
    return ReplanRun(run.stand, run.name, *told)


def version_of(pack: Pack) -> str:
    """Of everything in a pack but when it was made and whether more is to come: twelve figures of its SHA-256."""
    told = asdict(replace(pack, version="", made_at=datetime.min, more_to_come=False))
    return hashlib.sha256(json.dumps(told, sort_keys=True, default=str).encode()).hexdigest()[:12]

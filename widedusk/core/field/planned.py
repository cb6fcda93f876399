"""The runs of a night as they go into the field, whether they are of a whole night or plans of their own."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.framing.frame import Frame, sides_deg
from widedusk.core.framing.ways import Way
from widedusk.core.kit.dew import Air
from widedusk.core.night.cues import Cue, in_order, marks
from widedusk.core.night.windows import Night, setup_mjd
from widedusk.core.plan.dusk import all_aligned_mjd
from widedusk.core.plan.outlook import Outlook, Supply, ends_mjd, night_of, outlook, pauses_of
from widedusk.core.plan.schedule.compose import Composed
from widedusk.core.plan.schedule.problem import Stretch
from widedusk.core.plan.schedule.runs import NightRun, runs_of
from widedusk.core.plan.schedule.sheet import night_cues, same_frame, way_to, way_without_pictures
from widedusk.core.plan.schedule.whole import panel_name
from widedusk.core.plan.schedule.worth import Stand
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import MINUTE, datetime_from_mjd, mjd_from_datetime

LEFT_STEP_MIN = 10  # between two moments at which it is told what is left


@dataclass(frozen=True)
class PlannedRun:
    """One run. key: of its record. again: what to do where the rig stands on this
    frame already; else way leads to it."""

    key: str
    stand: int
    name: str
    frame: Frame
    target: Target
    change_at: datetime
    begins_at: datetime
    ends_at: datetime
    frames: int
    exposure_s: float
    pause_s: float
    iso: int
    f_number: float
    seen: Outlook
    choices: Choices
    way: Way | None
    again: str
    waits_min: float = 0.0  # later than its own plan, because one person does one thing at a time


@dataclass(frozen=True)
class Left:
    """How much of what the night is to bring is still to come at a moment, percent of its worth."""

    moment: datetime
    percent: float


@dataclass(frozen=True)
class PlannedNight:
    night: Night
    evening: date
    stands: Sequence[Stand]
    runs: Sequence[PlannedRun]  # as they begin
    cues: Sequence[Cue]  # of Sun and Moon; runs have their own moments
    left: Sequence[Left]
    air: Air | None
    asleep: Sequence[tuple[float, float]] = ()  # MJD


Picture = tuple[int, int, int]  # places of rig, wish and panel


def of_whole_night(
    made: Composed,
    stretches: Sequence[Stretch],
    spot: Spot,
    evening: date,
    angles_deg: Sequence[float],
    keys: Mapping[Picture, Sequence[str]],
    air: Air | None,
) -> PlannedNight:
    """A night whose runs are saved. angles_deg: of each wish's framing; keys: of the runs of one picture, in order of time."""
    runs = sorted(runs_of(made, stretches), key=lambda run: (run.change_at, run.stand))
    last: dict[int, NightRun] = {}
    seen: dict[Picture, int] = {}
    found = []
    for run in runs:
        picture = (run.stand, run.wish, run.panel)
        key = keys[picture][seen.setdefault(picture, 0)]
        seen[picture] += 1
        taken = made.found[run.stand][run.wish]
        panel, again = made.wishes[run.wish].panels[run.panel], same_frame(run, last.get(run.stand))
        last[run.stand] = run
        found.append(
            PlannedRun(
                key,
                run.stand,
                panel_name(made, run.wish, run.panel),
                Frame(panel.ra_deg, panel.dec_deg, angles_deg[run.wish], *sides_deg(made.stands[run.stand].rig)),
                replace(made.wishes[run.wish].target, ra_deg=panel.ra_deg, dec_deg=panel.dec_deg),
                run.change_at,
                run.begins_at,
                run.ends_at,
                run.frames,
                run.exposure_s,
                run.pause_s,
                run.iso,
                run.f_number,
                taken.seen,
                taken.stand.choices,
                None if again else way_to(made, spot, evening, run, angles_deg[run.wish]),
                again,
            )
        )
    start = float(made.night.mjd[0])
    asleep = [(start + begin * MINUTE, start + end * MINUTE) for begin, end in made.problem.rules.asleep]
    left = _left_of_whole(made, stretches, runs)
    return PlannedNight(made.night, evening, made.stands, found, night_cues(made, ()), left, air, asleep)


def _moments(runs: Sequence[NightRun] | Sequence[PlannedRun]) -> list[datetime]:
    if not runs:
        return []
    begin, end = min(run.begins_at for run in runs), max(run.ends_at for run in runs)
    step = timedelta(minutes=LEFT_STEP_MIN)
    return [begin + step * number for number in range(int((end - begin) / step) + 1)] + [end]


def _left_of_whole(made: Composed, stretches: Sequence[Stretch], runs: Sequence[NightRun]) -> list[Left]:
    """What the runs after each moment add to those before it, by the worth that the night was planned by."""
    problem = made.problem

    def had(moment: datetime) -> float:
        minute = round((mjd_from_datetime(moment) - float(made.night.mjd[0])) / MINUTE)
        inside = [replace(one, last=min(one.last, minute)) for one in stretches if one.first + problem.rules.change < minute]
        return problem.value(inside)

    moments = _moments(runs)
    everything = had(moments[-1]) if moments else 0.0
    return [Left(one, 100.0 * (1.0 - had(one) / everything) if everything > 0.0 else 0.0) for one in moments]


@dataclass(frozen=True)
class PlanAsked:
    """A plan of its own: one rig on one target. key: of its record; rig: number of the rig."""

    key: str
    rig: int
    stand: Stand
    target: Target
    angle_deg: float


def of_plans(asked: Sequence[PlanAsked], spot: Spot, evening: date, air: Air | None) -> PlannedNight:
    """A night of plans made one by one, each in its own window. Raises InvalidInput."""
    night, found, stands = night_of(spot, evening), [], [one.stand for one in asked]
    last: dict[int, tuple[float, float]] = {}
    for number, one in enumerate(asked):
        supply = Supply(one.stand.assembly, air) if one.stand.assembly else None
        seen = outlook(one.stand.rig, spot, evening, one.target, one.stand.choices, one.stand.axis, supply)
        if seen.begins_mjd is None or not seen.card.frames:
            continue
        begins = seen.begins_mjd
        change = begins - seen.subject.choices.change_min * MINUTE
        frame = Frame(one.target.ra_deg, one.target.dec_deg, one.angle_deg, *sides_deg(one.stand.rig))
        place = (one.target.ra_deg, one.target.dec_deg)
        again = "Frame and focus again." if last.get(one.rig) == place else ""
        last[one.rig] = place
        found.append(
            PlannedRun(
                one.key,
                number,
                one.target.name,
                frame,
                one.target,
                datetime_from_mjd(change),
                datetime_from_mjd(begins),
                datetime_from_mjd(ends_mjd(begins, seen.card)),
                seen.card.frames,
                seen.card.exposure_s,
                pauses_of(seen.subject.choices).after(seen.card.exposure_s),
                seen.advice.step.iso,
                seen.light.f_number,
                seen,
                seen.subject.choices,
                None if again else way_without_pictures(one.stand, spot, evening, frame, change),
                again,
            )
        )
    found = _one_after_the_other(night, stands, found)
    first = stands[0].choices
    cues = in_order(night, marks(night, first, setup_mjd(night, first), first.tracking != "untracked"))
    return PlannedNight(night, evening, stands, found, cues, _left_of_plans(found), air)


def _one_after_the_other(night: Night, stands: Sequence[Stand], runs: Sequence[PlannedRun]) -> list[PlannedRun]:
    """Plans that know nothing of one another: a rig is framed when all axes are aligned and the rig before it is framed.

    What begins later ends as planned, with so many frames fewer; one that has no frames to give up stays as it is.
    """
    aligned = all_aligned_mjd(night, stands)
    free = datetime_from_mjd(aligned) if aligned is not None else None
    fitted = []
    for run in sorted(runs, key=lambda run: run.change_at):
        late = max(free - run.change_at, timedelta(0)) if free else timedelta(0)
        fewer = int(np.ceil(late.total_seconds() / (run.exposure_s + run.pause_s)))
        if late and fewer < run.frames:
            begins = run.begins_at + late
            moved = replace(run, change_at=run.change_at + late, begins_at=begins, frames=run.frames - fewer)
            fitted.append(replace(moved, waits_min=late.total_seconds() / 60.0))
        else:
            fitted.append(run)
        free = max(free, fitted[-1].begins_at) if free else fitted[-1].begins_at
    return fitted


def _left_of_plans(runs: Sequence[PlannedRun]) -> list[Left]:
    """By the signal to noise of each run, which grows with the root of its frames."""
    everything = sum(np.sqrt(run.frames) for run in runs)
    found = []
    for moment in _moments(runs):
        had = 0.0
        for run in runs:
            open_s = (run.ends_at - run.begins_at).total_seconds()
            share = np.clip((moment - run.begins_at).total_seconds() / open_s, 0.0, 1.0) if open_s else 1.0
            had += float(np.sqrt(run.frames * share))
        found.append(Left(moment, 100.0 * (1.0 - had / everything) if everything else 0.0))
    return found

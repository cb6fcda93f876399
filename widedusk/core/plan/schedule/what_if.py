"""What if: a planned night that goes another way, and the best that is left of it. Hours weigh as in the night that was planned."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import partial

from widedusk.core.choices import minutes_of
from widedusk.core.errors import Checks, InvalidInput
from widedusk.core.exposure.many import Session
from widedusk.core.night.windows import Night, setup_mjd
from widedusk.core.plan.schedule.compose import (
    Composed,
    Held,
    Stop,
    aims_of,
    best_paces,
    held_stretches,
    looked,
    posed,
    refuse_wrong,
    slot_min,
    solved,
)
from widedusk.core.plan.schedule.problem import Aim
from widedusk.core.plan.schedule.runs import runs_of, value_of_runs
from widedusk.core.plan.schedule.solve import Solution
from widedusk.core.plan.schedule.trip import Tell, TripRun, told_run
from widedusk.core.plan.schedule.whole import proof_words
from widedusk.core.plan.schedule.worth import Wish
from widedusk.core.sky.time import MINUTE, datetime_from_mjd, mjd_from_datetime
from widedusk.core.tracking.wind import WindLevel
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words

WELL_PERCENT = 10.0  # less than this lost is well; our own


@dataclass(frozen=True)
class Otherwise:
    """Which ways a night may go. cloud_until: a local clock."""

    late_h: float = 1.0
    cloud_until: str = "00:00"
    wind: WindLevel = "fresh"
    home_h: float = 1.0


@dataclass(frozen=True)
class WhatIf:
    """loses_percent: of what the night as it is kept would bring; none where that brings nothing."""

    name: str
    loses_percent: float | None
    runs: tuple[TripRun, ...]
    verdict: Verdict


@dataclass(frozen=True)
class Replan:
    """The best from a moment on. so_far: whether what was planned before it was shot; else nothing was, as under cloud."""

    moment: datetime
    so_far: bool
    runs: tuple[TripRun, ...]


Case = tuple[str, Stop]
REPLAN_EVERY_MIN = 10


def refuse(otherwise: Otherwise) -> None:
    """Raises InvalidInput."""
    checks = Checks()
    checks.within("late_h", otherwise.late_h, 0.1, 12, "h")
    checks.within("home_h", otherwise.home_h, 0.1, 12, "h")
    if minutes_of(otherwise.cloud_until) is None:
        checks.fault("cloud_until", otherwise.cloud_until, f"{otherwise.cloud_until!r} is no time of day; write it like 23:30.")
    checks.done()


def _each(stop: Stop, change: Callable[[int], dict[str, object]]) -> Stop:
    """The same with other choices for each rig."""
    stands = [replace(one, choices=replace(one.choices, **change(number))) for number, one in enumerate(stop.stands)]  # type: ignore[arg-type]
    return replace(stop, stands=stands)


def _without(stop: Stop, rig: int, wishes: Sequence[Wish]) -> Stop:
    """The same while one rig takes nothing: every panel of it is dropped, so that the other rigs keep their places."""
    off = {(rig, number, panel) for number, wish in enumerate(wishes) for panel in range(len(wish.panels))}
    return replace(stop, dropped=stop.dropped | off)


def cases(stop: Stop, wishes: Sequence[Wish], night: Night, otherwise: Otherwise, ends: datetime | None) -> list[Case]:
    """The night another way. ends: of the last run as it is kept."""
    late = [night.spot.clock(setup_mjd(night, one.choices) + otherwise.late_h / 24.0) for one in stop.stands]
    made: list[Case] = [
        (f"{otherwise.late_h:g} h late", _each(stop, lambda rig: {"setup_time": late[rig]})),
        (
            f"Cloud until {otherwise.cloud_until}",
            replace(stop, limits=replace(stop.limits, not_before=_later(night, stop.limits.not_before, otherwise.cloud_until))),
        ),
    ]
    if any(one.choices.wind_level != otherwise.wind for one in stop.stands):
        made.append((f"{otherwise.wind.capitalize()} wind", _each(stop, lambda _: {"wind_level": otherwise.wind})))
    if len(stop.stands) > 1:
        made += [(f"{one.name} fails", _without(stop, rig, wishes)) for rig, one in enumerate(stop.stands)]
    if ends is not None:
        home = night.spot.clock(mjd_from_datetime(ends) - otherwise.home_h / 24.0)
        made.append((f"Home {otherwise.home_h:g} h earlier", replace(stop, limits=replace(stop.limits, not_after=home))))
    return made


def _later(night: Night, one: str, other: str) -> str:
    """The later of two clocks in a night."""
    return max((one or other, other), key=lambda clock: ((minutes_of(clock) or 0) - night_begins(night)) % 1440)


def night_begins(night: Night) -> int:
    """Minutes after midnight of the local clock at which the arrays of a night begin."""
    local = night.spot.local(float(night.mjd[0]))
    return local.hour * 60 + local.minute


def _still(made: Composed, held: Sequence[Held]) -> list[Held]:
    """What was fixed and still can be."""
    found: list[Held] = []
    for one in held:
        try:
            held_stretches(made, [*found, one])
        except InvalidInput:
            continue
        found.append(one)
    return found


def what_ifs(
    stop: Stop,
    wishes: Sequence[Wish],
    sessions: Sequence[Sequence[Session]],
    kept: Sequence[Held],
    otherwise: Otherwise,
    tell: Tell,
    seconds: float,
) -> tuple[WhatIf, ...]:
    """Each way the night may go, and the best that is left. kept: its runs as they stand; seconds: that each search may take.

    Raises InvalidInput."""
    refuse(otherwise)
    refuse_wrong(stop.stands, wishes)
    tell(0.0, "the night as it is planned")
    planned = looked(stop, wishes)
    best = best_paces(planned.found)
    aims = aims_of(wishes, planned.found, best, sessions)
    slot = slot_min(aims, stop.stands)
    as_planned = posed(planned, wishes, aims, best, slot)
    worth = value_of_runs(as_planned, held_stretches(as_planned, _still(as_planned, kept)))
    ends = max((one.ends for one in kept), default=None)
    answers = []
    ways = cases(stop, wishes, planned.night, otherwise, ends)
    for number, (name, case) in enumerate(ways):
        tell(number / len(ways), name[0].lower() + name[1:])
        answers.append(_one(name, case, wishes, kept, aims, best, slot, worth, seconds))
    return tuple(answers)


def _rest(kept: Sequence[Held], moment: datetime, change: timedelta) -> list[Held]:
    """What of the kept runs is still to come, each changed to when the one before is."""
    free, rest = moment, []
    for run in sorted(kept, key=lambda run: run.begins):
        begins = max(run.begins, free)
        if begins < run.ends:
            rest.append(replace(run, begins=begins, frames=None))
            free = begins + change
    return rest


def _worth(made: Composed, held: Sequence[Held]) -> float:
    return made.problem.value(held_stretches(made, held))


def replans(
    stop: Stop, wishes: Sequence[Wish], sessions: Sequence[Sequence[Session]], kept: Sequence[Held], tell: Tell, seconds: float
) -> tuple[Replan, ...]:
    """For every ten minutes of a night the best from then on, so that it can be looked up where there is no connection.

    Worked out from the end: what is best from a later moment can be done from an earlier one too, so no answer is worse than the
    one after it. seconds: that each search may take. Raises InvalidInput.
    """
    refuse_wrong(stop.stands, wishes)
    seen = looked(stop, wishes)
    best = best_paces(seen.found)
    aims = aims_of(wishes, seen.found, best, sessions)
    slot = slot_min(aims, stop.stands)
    whole = posed(seen, wishes, aims, best, slot)
    as_kept = held_stretches(whole, _still(whole, kept))
    first, end = whole.problem.first, whole.problem.minute(whole.problem.slots)
    moments = range(first - first % REPLAN_EVERY_MIN, end - whole.problem.rules.change, REPLAN_EVERY_MIN)
    answers = []
    for so_far in (False, True):
        later: list[Held] = []
        for number, minute in enumerate(reversed(moments)):
            tell((number / len(moments) + so_far) / 2.0, f"from {whole.night.spot.clock(float(whole.night.mjd[minute]))} on")
            had = [replace(one, last=min(one.last, minute)) for one in as_kept if one.first < minute] if so_far else []
            gathered = whole.problem.gathered(had)
            now = [replace(one, gathered_h=one.gathered_h + float(gathered[aim])) for aim, one in enumerate(aims)]
            made = posed(replace(seen, between=(max(minute, seen.between[0]), seen.between[1])), wishes, now, best, slot)
            moment = datetime_from_mjd(float(whole.night.mjd[0]) + minute * MINUTE)
            rest = _rest(kept, moment, timedelta(minutes=made.problem.rules.change))
            known = max((_still(made, one) for one in (later, rest)), key=partial(_worth, made))
            made, order = solved(made, (), seconds, known=known)
            runs = runs_of(made, order.stretches)
            later = [Held(run.stand, run.wish, run.panel, run.held_from, run.held_to) for run in runs]
            answers.append(Replan(moment, so_far, tuple(told_run(made, run) for run in runs)))
    return tuple(sorted(answers, key=lambda replan: (replan.moment, replan.so_far)))


def _one(
    name: str,
    case: Stop,
    wishes: Sequence[Wish],
    kept: Sequence[Held],
    aims: Sequence[Aim],
    best: Sequence[float],
    slot: int,
    worth: float,
    seconds: float,
) -> WhatIf:
    try:
        made = posed(looked(case, wishes), wishes, aims, best, slot)
    except InvalidInput as refused:
        told = refused.faults[0].message
        return WhatIf(name, 100.0 if worth > 0.0 else None, (), Verdict(name, "stop", told, "the hours that are left"))
    made, order = solved(made, _still(made, case.held), seconds, known=_still(made, kept))
    runs = tuple(told_run(made, run) for run in runs_of(made, order.stretches))
    brings = value_of_runs(made, order.stretches)
    loses = 100.0 * (1.0 - brings / worth) if worth > 0.0 else None
    return WhatIf(name, loses, runs, _verdict(name, runs, order, (brings, worth), loses))


def _verdict(name: str, runs: Sequence[TripRun], order: Solution, worth: tuple[float, float], loses: float | None) -> Verdict:
    """worth: of this order and of the night as it is kept, both in whole subs."""
    frames, open_s = sum(run.frames for run in runs), sum(run.frames * run.exposure_s for run in runs)
    left = Working(
        "left",
        "What is left of the night",
        "1 − Σ w √(weighted time) of this order / that of the night as it is kept",
        (Quantity("This order", worth[0], decimals=3), Quantity("The night as it is kept", worth[1], decimals=3)),
        Quantity("Less than planned", loses, "%", decimals=0)
        if loses is not None
        else Quantity("Less", text="nothing was planned"),
        "Both weighed by the same hours: those of the night that was planned, in whole subs",
        "definition",
    )
    shot = Working(
        "frames",
        "Frames that are left",
        "Σ frames × exposure",
        tuple(Quantity(f"{run.rig}: {run.name}", text=f"{run.frames} × {run.exposure_s:g} s") for run in runs),
        Quantity("Shutter open", text=duration_words(open_s)),
        "Whole subs in each run",
        "definition",
    )
    figures = (
        Quantity("Frames", frames, decimals=0, working="frames"),
        Quantity("Shutter open", text=duration_words(open_s), working="frames"),
        *((Quantity("Less than planned", loses, "%", decimals=0, working="left"),) if loses is not None else ()),
    )
    level: Level = "go" if loses is not None and loses < WELL_PERCENT else "care" if runs else "stop"
    return Verdict(
        name, level, _sentence(runs, loses), "what is left of the night", proof_words(order), figures, workings=(left, shot)
    )


def _sentence(runs: Sequence[TripRun], loses: float | None) -> str:
    if not runs:
        return "Nothing is left of the night."
    first, last = min(runs, key=lambda run: run.held_from), max(runs, key=lambda run: run.held_to)
    told = f"{len(runs)} run{'s' if len(runs) > 1 else ''}, {first.change_clock} to {last.ends_clock}"
    if loses is None or abs(loses) < 0.5:
        return f"{told}; as good as planned." if loses is not None else f"{told}."
    return f"{told}; {abs(loses):.0f} % {'less' if loses > 0.0 else 'more'} than planned."

"""A schedule as runs: whole subs, clocks, what limits each, and what is left out of the night."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

import numpy as np

from widedusk.core.exposure.response import Through
from widedusk.core.night.verdict import window_verdict
from widedusk.core.night.windows import strip_span
from widedusk.core.plan.outlook import looked_at, pauses_of
from widedusk.core.plan.schedule.compose import LOOKED_AHEAD, Composed
from widedusk.core.plan.schedule.problem import Ints, Problem, Stretch
from widedusk.core.plan.schedule.schools import SCHOOLS
from widedusk.core.plan.schedule.worth import Taken
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import MINUTE, Floats, datetime_from_mjd
from widedusk.core.verdict import joined


@dataclass(frozen=True)
class NightRun:
    """One planned run. Minutes count from the start of the strip; the change comes before the first frame."""

    stand: int
    wish: int
    panel: int
    side: int
    change: int
    first: int
    last: int
    held_from: datetime  # the whole slots that are the run's, by which it is fixed
    held_to: datetime
    change_at: datetime
    begins_at: datetime
    ends_at: datetime
    change_clock: str
    begins_clock: str
    ends_clock: str
    frames: int
    exposure_s: float
    pause_s: float  # from the end of one exposure to the beginning of the next
    iso: int
    f_number: float
    hours: float  # weighted
    signal: float  # the square of the signal to noise of one square arcsecond
    begins_with: str
    ends_with: str
    held: bool


def runs_of(made: Composed, stretches: Sequence[Stretch]) -> tuple[NightRun, ...]:
    """Schedules as runs of whole subs, whatever order they come in. Panels of one picture are evened out to within a sub, but for
    runs that are kept: they have their frames."""
    stretches = sorted(stretches, key=lambda one: (made.problem.ways[one.way].lane, one.first))
    counts = _counts(made, stretches)
    found = [_run(made, stretches, number, frames) for number, frames in enumerate(counts) if frames > 0]
    return tuple(sorted(found, key=lambda run: (run.stand, run.change)))


def _of(made: Composed, one: Stretch) -> tuple[Taken, int, int]:
    way = made.problem.ways[one.way]
    wish, panel = made.wish_and_panel(way.aim)
    return made.found[way.lane][wish], wish, panel


def _first_frame(problem: Problem, one: Stretch) -> int:
    """Minute of the first frame: after the change, once the window is open."""
    way, begin = problem.ways[one.way], min(one.first + problem.rules.change, one.last)
    open_ = np.flatnonzero(way.open[begin : one.last])
    return begin + int(open_[0]) if len(open_) else one.last


def _last_frame(problem: Problem, one: Stretch) -> int:
    open_ = np.flatnonzero(problem.ways[one.way].open[one.first : one.last])
    return one.first + int(open_[-1]) + 1 if len(open_) else one.first


def _counts(made: Composed, stretches: Sequence[Stretch]) -> list[int]:
    """Frames of each run."""
    counts = [whole_subs(made, one) for one in stretches]
    if made.counts:
        return [min(count, made.counts.get(one, count)) for one, count in zip(stretches, counts, strict=True)]
    return evened(made, stretches, counts)


def value_of_runs(made: Composed, stretches: Sequence[Stretch]) -> float:
    """What an order is worth in whole subs, a little less than its slots are."""
    hours = np.zeros(len(made.problem.aims))
    for one, frames in zip(stretches, _counts(made, stretches), strict=True):
        hours[made.problem.ways[one.way].aim] += float(hours_of(made, one, frames))
    return float(made.problem.gains(hours).sum())


def whole_subs(made: Composed, one: Stretch) -> int:
    """How many fit into a run."""
    cycle = _of(made, one)[0].cycle_s
    problem = made.problem
    way, first, last = problem.ways[one.way], _first_frame(problem, one), _last_frame(problem, one)
    minutes = way.counted[last] - way.counted[first] if last > first else 0
    return int(np.floor(minutes * 60.0 / cycle + 1e-9))


def hours_of(made: Composed, one: Stretch, frames: int | Ints) -> Floats:
    """Weighted hours of so many frames from the first on; of each number of them where several are asked about."""
    way, first = made.problem.ways[one.way], _first_frame(made.problem, one)
    taken_min = np.arange(len(way.counted), dtype=float)
    ends = np.interp(way.counted[first] + np.asarray(frames) * _of(made, one)[0].cycle_s / 60.0, way.counted, taken_min)
    return np.asarray(np.interp(ends, taken_min, way.summed) - way.summed[first])


def evened(made: Composed, stretches: Sequence[Stretch], counts: Sequence[int]) -> list[int]:
    """Frames are left out of those panels of a picture that would get more than the poorest, as far as whole subs allow."""
    problem, found = made.problem, list(counts)
    for aims in problem.panels:
        if len(aims) < 2:
            continue
        rows = {int(aim): [n for n, one in enumerate(stretches) if problem.ways[one.way].aim == aim] for aim in aims}
        total = {
            aim: problem.aims[aim].gathered_h + sum(float(hours_of(made, stretches[n], found[n])) for n in numbers)
            for aim, numbers in rows.items()
        }
        least = min(total.values())
        for aim, numbers in rows.items():
            spare = total[aim] - least
            for number in reversed(numbers):
                worth = hours_of(made, stretches[number], np.arange(found[number] + 1))
                fewest = int(np.argmax(worth[-1] - worth <= spare))  # the last frames of a run may be worth less than its first
                spare -= float(worth[-1] - worth[fewest])
                found[number] = fewest
    return found


def _run(made: Composed, stretches: Sequence[Stretch], number: int, frames: int) -> NightRun:
    problem, night, one = made.problem, made.night, stretches[number]
    found, wish, panel = _of(made, one)
    way = problem.ways[one.way]
    first, window_ends = _first_frame(problem, one), _last_frame(problem, one)
    opened = way.counted[first] + frames * found.cycle_s / 60.0
    last = min(int(np.ceil(np.interp(opened, way.counted, np.arange(len(way.counted))))), window_ends)
    start = strip_span(night)[0]
    # The change has the time that the schedule gives it: nobody sets up two rigs at once.
    change_at, begins_at, ends_at = (float(night.mjd[0]) + at * MINUTE for at in (one.first, first, last))
    advice = found.seen.advice
    lane = [other for other in stretches if problem.ways[other.way].lane == way.lane and other is not one]
    hours = float(hours_of(made, one, frames))
    return NightRun(
        way.lane,
        wish,
        panel,
        way.side,
        one.first - start,
        first - start,
        last - start,
        datetime_from_mjd(float(night.mjd[0]) + one.first * MINUTE),
        datetime_from_mjd(float(night.mjd[0]) + one.last * MINUTE),
        datetime_from_mjd(change_at),
        datetime_from_mjd(begins_at),
        datetime_from_mjd(ends_at),
        night.spot.clock(change_at),
        night.spot.clock(begins_at),
        night.spot.clock(ends_at),
        frames,
        advice.exposure_s,
        pauses_of(found.stand.choices).after(advice.exposure_s),
        advice.step.iso,
        found.seen.light.f_number,
        hours,
        hours * made.best_pace[wish],
        _begins_with(problem, one, first, lane, stretches),
        _ends_with(problem, one, window_ends, lane),
        one in problem.fixed,
    )


def _card_is_full(problem: Problem, lane: Sequence[Stretch]) -> bool:
    """Whether the card of a rig with these runs has no room for one more slot of frames."""
    ways = [problem.ways[one.way] for one in lane]
    if not problem.room:
        return False
    framed = [min(one.first + problem.rules.change, one.last) for one in lane]
    frames = sum((w.counted[s.last] - w.counted[at]) * w.frames_min for w, s, at in zip(ways, lane, framed, strict=True))
    return bool(frames > problem.room[ways[0].lane] - problem.rules.slot * ways[0].frames_min)


def _begins_with(problem: Problem, one: Stretch, first: int, lane: Sequence[Stretch], stretches: Sequence[Stretch]) -> str:
    """What keeps it from beginning one slot earlier, as a clause after "begins when"; only what is true of this night."""
    way, rules = problem.ways[one.way], problem.rules
    at, before = first - rules.slot, one.first - rules.slot
    shut = before < problem.first or at < 0 or not way.open[at:first].all()
    other_rigs = [other for other in stretches if problem.ways[other.way].lane != way.lane]
    reasons = (
        (one in problem.fixed, "you fixed it"),
        (0 <= before < rules.aligned, "all axes are aligned"),
        (shut, "its window opens"),
        (any(other.first < one.first and other.last > before for other in lane), "the run before ends"),
        (any(abs(other.first - before) < rules.change for other in other_rigs), "the other rig is set up"),
        (any(begin - rules.change < before < end for begin, end in rules.asleep), "you wake"),
        (_card_is_full(problem, (one, *lane)), "the memory card holds all from there on"),
        (bool(problem.most_min) and np.isfinite(problem.most_min[way.lane]), "its best hours begin"),
        (any(other.first < one.first for other in lane), "others gain more from the time before"),
    )
    return next((words for holds, words in reasons if holds), "no earlier start was found to gain more")


def _ends_with(problem: Problem, one: Stretch, last: int, lane: Sequence[Stretch]) -> str:
    way = problem.ways[one.way]
    if one in problem.fixed:
        return "you fixed it"
    if way.fed_until is not None and last >= way.fed_until:
        nobody = any(begin <= way.fed_until < end for begin, end in problem.rules.asleep)
        return "the battery is empty and you sleep" if nobody else "the battery is empty"
    if last >= len(way.open) or not way.open[last]:
        return "its window closes"
    if any(other.first == one.last for other in lane):
        return "the next run begins"
    if problem.most_min and np.isfinite(problem.most_min[way.lane]):
        return "it has the hours that you want of it at most"
    return "the night has no more use for it"


@dataclass(frozen=True)
class LeftOut:
    """A wish, or a panel of it, that gets nothing this night."""

    wish: int
    panel: int
    name: str
    reason: str
    returns: date | None  # the next night with time enough for a run, where it has none this night


def left_out(made: Composed, runs: Sequence[NightRun], spot: Spot, evening: date) -> tuple[LeftOut, ...]:
    """What gets no frame, and why; what has no window is looked for in the nights to come."""
    got = {(run.wish, run.panel) for run in runs}
    alive = {way.aim for way in made.problem.ways}
    found = []
    for number, wish in enumerate(made.wishes):
        for panel, one in enumerate(wish.panels):
            if (number, panel) in got:
                continue
            name = f"{wish.target.name}, {one.name}" if one.name else wish.target.name
            off = [stand for stand in range(len(made.stands)) if (stand, number, panel) in made.dropped]
            unsuited = [stand for stand in range(len(made.stands)) if (stand, number) in made.unsuited and stand not in off]
            if len(off) + len(unsuited) == len(made.stands):
                reason = _size_words(made, number, unsuited) if unsuited else "You dropped it."
                found.append(LeftOut(number, panel, name, reason, None))
                continue
            if made.first_aim[number] + panel in alive:
                found.append(LeftOut(number, panel, name, _why_not(wish.least_h, bool(runs)), None))
                continue
            first = made.found[0][number]
            at = replace(wish.target, ra_deg=one.ra_deg, dec_deg=one.dec_deg)
            told = window_verdict(made.night, first.paths[panel], at, first.stand.choices).sentence
            found.append(LeftOut(number, panel, name, told, _returns(made, at, spot, evening)))
    return tuple(found)


def _size_words(made: Composed, wish: int, stands: Sequence[int]) -> str:
    """Why no rig is given a target: of each the share of its frame."""
    shares = [(made.stands[stand].name, made.found[stand][wish].share) for stand in stands]
    told = joined([f"{100.0 * share:.2g} % of the frame of {name}" for name, share in shares])
    much = "too small" if max(share for _, share in shares) < 1.0 else "too large"
    return f"It fills {told}: {much}. Tick the rig beside it to shoot it all the same."


def _why_not(least_h: float, others: bool) -> str:
    """Why nothing is taken of what has a window."""
    if others:
        return "Others gain more from the time" + (f"; it was to have {least_h:g} h or nothing." if least_h else ".")
    if least_h:
        return f"It was to have {least_h:g} h or nothing, and no order was found that gives it so much."
    return "No order was found that gives it time for a run."


def _returns(made: Composed, target: Target, spot: Spot, evening: date) -> date | None:
    stand = made.stands[0]
    through, needed = Through(stand.rig.camera, tuple(stand.rig.filters)), stand.choices.change_min + stand.choices.shortest_min
    for later in range(1, LOOKED_AHEAD + 1):
        night = evening + timedelta(days=later)
        if looked_at(spot, night, target, stand.choices, through)[1].usable_minutes >= needed:
            return night
    return None


def school_values(problem: Problem) -> dict[str, tuple[float, Floats]]:
    """What each way of sharing by head is worth, and the weighted hours that it gives each aim."""
    found = {}
    for name, school in SCHOOLS.items():
        stretches = school(problem) if problem.ways else []
        found[name] = (problem.value(stretches), problem.gathered(stretches))
    return found

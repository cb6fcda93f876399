"""Several nights planned as one: the same targets, panels and rigs, each where it brings most, and what came out night by night.

The nights are laid one after another on one axis, so that one problem holds them all: a picture gathers over the whole trip, and
the bound is one over every order of every night.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import date, datetime

import numpy as np

from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.many import Session
from widedusk.core.plan.schedule.compose import (
    SLOTS_MIN,
    Composed,
    Looked,
    Stop,
    aims_of,
    best_paces,
    held_stretches,
    looked,
    posed,
    refuse_wrong,
    those_that_open,
)
from widedusk.core.plan.schedule.problem import Aim, Problem, Stretch, Way
from widedusk.core.plan.schedule.runs import NightRun, evened, hours_of, runs_of, whole_subs
from widedusk.core.plan.schedule.schools import even_split
from widedusk.core.plan.schedule.solve import Solution, solve
from widedusk.core.plan.schedule.whole import at_most_percent, panel_name, proof_words
from widedusk.core.plan.schedule.worth import Wish
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words, joined

Tell = Callable[[float, str], None]
LOOKED = 0.3  # of the work is done once all nights are looked at
EVENLY, ANY_NIGHT = "Splitting every night evenly", "Panels on any night"
EVENINGS = 8  # times that nights are evened out against one another at most
TRIP_GAP = 0.03  # more than this unproved, and it is said with care; our own


def _nobody(share: float, doing: str) -> None:
    """Nobody wants to know how far it is."""


@dataclass(frozen=True)
class ComposedTrip:
    """nights: each as a problem of its own; problem: all of them, night after night; begins: the minute of it that is the first of
    each night's problem."""

    stops: Sequence[Stop]
    nights: Sequence[Composed]
    problem: Problem
    begins: Sequence[int]

    def of_night(self, stretches: Sequence[Stretch], number: int) -> list[Stretch]:
        """Those that lie in one night, in its own minutes and ways."""
        first_way = sum(len(one.problem.ways) for one in self.nights[:number])
        mine = self.nights[number].problem
        moved = mine.first - self.begins[number]
        return [
            Stretch(one.way - first_way, one.first + moved, one.last + moved)
            for one in stretches
            if first_way <= one.way < first_way + len(mine.ways)
        ]

    def in_trip(self, stretches: Sequence[Stretch], number: int) -> list[Stretch]:
        """The other way round."""
        first_way = sum(len(one.problem.ways) for one in self.nights[:number])
        moved = self.begins[number] - self.nights[number].problem.first
        return [Stretch(one.way + first_way, one.first + moved, one.last + moved) for one in stretches]


def _laid(way: Way, problem: Problem, begin: int, length: int) -> Way:
    """A way of one night on the axis of all."""

    def on(values: Floats) -> Floats:
        whole = np.zeros(length)
        mine = values[problem.first : problem.first + problem.slots * problem.rules.slot]
        whole[begin : begin + len(mine)] = mine
        return whole

    open_, seen = (on(values.astype(float)) > 0.0 for values in (way.open, way.seen))
    return replace(way, worth_h=on(way.worth_h), open=open_, seen=seen, fed_until=None)


def _joined(nights: Sequence[Composed], wishes: Sequence[Wish], aims: Sequence[Aim]) -> tuple[Problem, list[int]]:
    rules = nights[0].problem.rules
    between = -(-rules.change // rules.slot)  # nobody sets up the rigs of two nights at once
    slots = [one.problem.slots + between for one in nights]
    first = [sum(slots[:number]) for number in range(len(nights))]
    begins, length = [one * rules.slot for one in first], sum(slots) * rules.slot
    ways = [_laid(way, one.problem, begin, length) for one, begin in zip(nights, begins, strict=True) for way in one.problem.ways]
    asleep = tuple(
        (begin + max(start - one.problem.first, 0), begin + min(end - one.problem.first, count * rules.slot))
        for one, begin, count in zip(nights, begins, slots, strict=True)
        for start, end in one.problem.rules.asleep
        if start < one.problem.minute(count) and end > one.problem.first
    )
    _, aims_left, pictures = those_that_open(ways, aims, wishes, rules)  # each night keeps only ways that open
    every = nights[0].stands[0].choices.panel_school == "all"
    room = next((one.problem.room for one in nights if one.problem.room), ())
    most = next((one.problem.most_min for one in nights if one.problem.most_min), ())
    asleep_too = replace(rules, asleep=asleep)
    return Problem(pictures, aims_left, ways, 0, sum(slots), asleep_too, (), tuple(first), every, room, most), begins


@contextmanager
def _named(number: int) -> Iterator[None]:
    """What is wrong with a night is told with its place in the trip."""
    try:
        yield
    except InvalidInput as refused:
        raise InvalidInput([replace(fault, field=f"nights.{number}.{fault.field}") for fault in refused.faults]) from refused


def composed_trip(
    stops: Sequence[Stop], wishes: Sequence[Wish], sessions: Sequence[Sequence[Session]] = (), tell: Tell = _nobody
) -> ComposedTrip:
    """Look at every night of a trip. Hours of all nights weigh alike: under the darkest zenith of the trip. Raises InvalidInput; a
    fault of one night is told with its place in the trip."""
    refuse_wrong(stops[0].stands, wishes)
    seen: list[Looked] = []
    for number, stop in enumerate(stops):
        tell(LOOKED * number / len(stops), f"night {number + 1} of {len(stops)}")
        with _named(number):
            seen.append(looked(stop, wishes))
    best = [max(paces) for paces in zip(*(best_paces(one.found) for one in seen), strict=True)]
    darkest = max(seen, key=lambda one: one.stop.spot.sky_mag)
    aims = aims_of(wishes, darkest.found, best, sessions)
    nights = [posed(one, wishes, aims, best, SLOTS_MIN[1]) for one in seen]
    problem, begins = _joined(nights, wishes, aims)
    made = ComposedTrip(stops, nights, problem, begins)
    fixed: list[Stretch] = []
    for number, (stop, night) in enumerate(zip(stops, nights, strict=True)):
        with _named(number):
            fixed += made.in_trip(held_stretches(night, stop.held), number)
    return replace(made, problem=replace(problem, fixed=tuple(fixed)))


@dataclass(frozen=True)
class TripRun:
    """stand, wish, panel: places in what was asked; held_from, held_to: the whole slots that are its own."""

    stand: int
    wish: int
    panel: int
    side: int  # of the meridian, where the camera has to be turned over: -1 before, 1 after
    rig: str
    name: str
    held_from: datetime
    held_to: datetime
    held: bool
    change_at: datetime
    begins_at: datetime  # the first frame
    ends_at: datetime
    change_clock: str
    begins_clock: str
    ends_clock: str
    frames: int
    exposure_s: float
    iso: int
    f_number: float
    signal: float


@dataclass(frozen=True)
class PlannedTripNight:
    evening: date
    spot: str
    runs: tuple[TripRun, ...]
    frames: int
    open_s: float


@dataclass(frozen=True)
class PanelFrames:
    """What one panel, or a picture of one frame, gets. frames: by night, then by rig; what one rig took in one night is a stack.

    hours: weighted, of this trip; gathered_h: from before it."""

    wish: int
    panel: int
    name: str
    frames: tuple[tuple[int, ...], ...]
    in_all: int
    stacks: int
    storage_gb: float
    hours: float
    gathered_h: float


@dataclass(frozen=True)
class TripPlan:
    rigs: tuple[str, ...]
    nights: tuple[PlannedTripNight, ...]
    panels: tuple[PanelFrames, ...]
    stacks: int
    storage_gb: float
    gap_percent: float
    verdict: Verdict


def _runs_by_night(trip: ComposedTrip, stretches: Sequence[Stretch]) -> list[tuple[NightRun, ...]]:
    """Whole subs. Panels are evened out in every night where they share it alike, else over the trip: night after night, and again
    while one that was evened out leaves another with too much."""
    mine = [trip.of_night(stretches, number) for number in range(len(trip.nights))]
    counts = [[whole_subs(one, run) for run in runs] for one, runs in zip(trip.nights, mine, strict=True)]

    def hours(number: int) -> Floats:
        one, found = trip.nights[number], np.zeros(len(trip.problem.aims))
        for run, count in zip(mine[number], counts[number], strict=True):
            found[one.problem.ways[run.way].aim] += float(hours_of(one, run, count))
        return found

    for _ in range(EVENINGS):
        before = [list(each) for each in counts]
        for number, one in enumerate(trip.nights):
            had = one.problem.gathered_h + sum(hours(other) for other in range(len(trip.nights)) if other != number)
            for night, aims in trip.problem.shares:
                had[aims if night == number else []] = 0.0
            aims_then = [replace(aim, gathered_h=float(has)) for aim, has in zip(one.problem.aims, had, strict=True)]
            seen = replace(one, problem=replace(one.problem, aims=aims_then))
            counts[number] = evened(seen, mine[number], counts[number])
        if counts == before:
            break
    found = []
    for number, one in enumerate(trip.nights):
        fixed = tuple(trip.of_night(trip.problem.fixed, number))
        made = replace(one, problem=replace(one.problem, fixed=fixed), counts=dict(zip(mine[number], counts[number], strict=True)))
        found.append(runs_of(made, mine[number]))
    return found


def panel_frames(nights: Sequence[tuple[Composed, Sequence[NightRun]]]) -> tuple[PanelFrames, ...]:
    """Panels by nights by rigs."""
    first = nights[0][0]
    rigs = range(len(first.stands))
    found = []
    for number, aim in enumerate(first.problem.aims):
        wish, panel = first.wish_and_panel(number)
        mine = [[run for run in runs if (run.wish, run.panel) == (wish, panel)] for _, runs in nights]
        frames = tuple(tuple(sum(run.frames for run in runs if run.stand == rig) for rig in rigs) for runs in mine)
        by_rig = [sum(night[rig] for night in frames) for rig in rigs]
        found.append(
            PanelFrames(
                wish,
                panel,
                panel_name(first, wish, panel),
                frames,
                sum(by_rig),
                sum(count > 0 for night in frames for count in night),
                sum(count * stand.rig.camera.raw_file_mb for count, stand in zip(by_rig, first.stands, strict=True)) / 1000.0,
                sum(run.hours for runs in mine for run in runs),
                aim.gathered_h,
            )
        )
    return tuple(found)


def told_run(made: Composed, run: NightRun) -> TripRun:
    """A run with its names, and nothing that only a drawing needs."""
    return TripRun(
        run.stand,
        run.wish,
        run.panel,
        run.side,
        made.stands[run.stand].name,
        panel_name(made, run.wish, run.panel),
        run.held_from,
        run.held_to,
        run.held,
        run.change_at,
        run.begins_at,
        run.ends_at,
        run.change_clock,
        run.begins_clock,
        run.ends_clock,
        run.frames,
        run.exposure_s,
        run.iso,
        run.f_number,
        run.signal,
    )


def planned_trip(trip: ComposedTrip, spots: Sequence[str], tell: Tell = _nobody, seconds: float = 10.0) -> TripPlan:
    """The best order over all nights, and what it comes to. spots: their names; seconds: that each search may take."""
    tell(LOOKED, "the best order over all nights")
    found = solve(trip.problem, seconds=seconds)
    schools = {EVENLY: float(trip.problem.gains(trip.problem.gathered(even_split(trip.problem))).sum())}
    if trip.problem.shares:
        tell((1.0 + LOOKED) / 2.0, "what panels on any night would bring")
        schools[ANY_NIGHT] = solve(replace(trip.problem, every_night=False), seconds=seconds / 2.0, known=found.stretches).value
    by_night = _runs_by_night(trip, found.stretches)
    panels = panel_frames(list(zip(trip.nights, by_night, strict=True)))
    nights = tuple(
        PlannedTripNight(
            stop.evening,
            spot,
            tuple(told_run(made, run) for run in runs),
            sum(run.frames for run in runs),
            sum(run.frames * run.exposure_s for run in runs),
        )
        for stop, spot, made, runs in zip(trip.stops, spots, trip.nights, by_night, strict=True)
    )
    stacks = sum(one.stacks for one in panels)
    storage = sum(one.storage_gb for one in panels)
    verdict = _verdict(trip, found, nights, panels, schools)
    return TripPlan(tuple(one.name for one in trip.stops[0].stands), nights, panels, stacks, storage, found.gap * 100.0, verdict)


def _beside(problem: Problem, school: str, brings: float) -> str:
    """brings: per cent more than the order found. An even split keeps neither to the slots nor to every panel every night."""
    if abs(brings) < 0.5:
        return ""
    if school == ANY_NIGHT:
        return f"Panels on any night instead of every panel every night would bring {brings:.0f} % more." if brings > 0.0 else ""
    more = "its panels unequal" if problem.shares else f"its edges off the {problem.rules.slot} min of these runs"
    return f"{school} would bring {abs(brings):.0f} % {f'more, {more}' if brings > 0.0 else 'less'}."


def _verdict(
    trip: ComposedTrip,
    found: Solution,
    nights: Sequence[PlannedTripNight],
    panels: Sequence[PanelFrames],
    schools: Mapping[str, float],
) -> Verdict:
    frames, stacks, storage = (sum(getattr(one, name) for one in panels) for name in ("in_all", "stacks", "storage_gb"))
    open_s = sum(one.open_s for one in nights)
    rules = trip.problem.rules
    if not frames:
        told = "Nothing can be taken in any of these nights."
        return Verdict("Trip", "stop", told, "the windows of all targets", "Choose other nights, or other targets.")
    nothing = [one.name for one in panels if not one.in_all]
    idle = [f"{one.evening:%-d %b}" for one in nights if not one.runs]
    level: Level = "care" if nothing or found.gap > TRIP_GAP else "go"
    brings = {name: 100.0 * (worth / found.value - 1.0) for name, worth in schools.items()}
    advice = [told for name, percent in brings.items() if (told := _beside(trip.problem, name, percent))]
    advice += [f"Left out: {joined(nothing)}."] if nothing else []
    advice += [f"Nothing on {joined(idle)}."] if idle else []
    counts = Working(
        "frames",
        "Frames of the trip",
        "Σ over nights and rigs",
        tuple(
            Quantity(
                one.name,
                text=f"{one.in_all} frames in {one.stacks} stack{'s' if one.stacks != 1 else ''}, {one.hours:.2f} h weighted",
            )
            for one in panels
        ),
        Quantity("Frames", frames, decimals=0),
        "Whole subs in each run; a stack is what one rig took of one panel in one night",
        "definition",
        "Flats belong to one rig as it was set up that night; darks of the same ISO, length and temperature serve all its stacks.",
    )
    bound = Working(
        "bound",
        "How good the order is",
        "maximise Σ w √(weighted time of all nights); a picture of panels counts as its poorest panel, once for each",
        (
            Quantity("Worth of this order", found.value, "", decimals=3),
            Quantity("No order is worth more than", found.bound, decimals=3),
            *(Quantity(name, worth, decimals=3) for name, worth in schools.items()),
            Quantity("Nights", len(nights), decimals=0),
            Quantity("Runs begin and end every", rules.slot, "min", decimals=0),
        ),
        Quantity("At most missed", at_most_percent(found.gap), "%", decimals=1),
        "Signal to noise grows with the root of the time; integer program by HiGHS, bound by Lagrange over all possible runs",
        "published",
        "An hour counts by what it brings: sky, height, Moon and filter of each minute, as on the page of the night.",
    )
    runs = sum(len(one.runs) for one in nights)
    return Verdict(
        "Trip",
        level,
        f"{runs} run{'s' if runs > 1 else ''} over {len(nights)} night{'s' if len(nights) > 1 else ''}: "
        f"{frames} frames in {stacks} stack{'s' if stacks > 1 else ''}. "
        f"{proof_words(found)}",
        "the hours of darkness",
        " ".join(advice),
        (
            Quantity("Shutter open", text=duration_words(open_s), working="frames"),
            Quantity("Frames", frames, decimals=0, working="frames"),
            Quantity("Stacks", stacks, decimals=0, working="frames"),
            Quantity("Storage", storage, "GB", decimals=1, working="frames"),
            Quantity("At most missed", at_most_percent(found.gap), "%", decimals=1, working="bound"),
        ),
        workings=(counts, bound),
    )

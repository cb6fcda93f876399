"""A night posed as a problem: what is wished for, with which rigs, under which limits, and what somebody has fixed already."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime

import numpy as np

from widedusk.core.choices import minutes_of
from widedusk.core.errors import Checks
from widedusk.core.exposure.many import Session, add_up
from widedusk.core.kit.dew import Air
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.night.windows import Night, clock_mjd
from widedusk.core.plan.dusk import all_aligned_mjd
from widedusk.core.plan.outlook import night_of
from widedusk.core.plan.schedule.effort import Gone
from widedusk.core.plan.schedule.problem import Aim, Picture, Problem, Rules, Stretch, Way
from widedusk.core.plan.schedule.solve import Solution, as_it_is, refit, solve
from widedusk.core.plan.schedule.worth import Stand, Taken, Wish, card_room, current, taken, ways_of
from widedusk.core.scene import Spot
from widedusk.core.sky.time import MINUTE, mjd_from_datetime

MOST_AIMS = 60
MOST_STANDS = 6
SLOTS_MIN = (5, 10)
FINE_UP_TO = 12  # aims by stands; more of them are planned in the coarser slots
LOOKED_AHEAD = 45  # nights in which a target without a window is looked for again


@dataclass(frozen=True)
class Held:
    """A run that somebody fixed or keeps: from the beginning of its change to its last frame. frames: as it was kept, at most."""

    stand: int
    wish: int
    panel: int
    begins: datetime
    ends: datetime
    frames: int | None = None


@dataclass(frozen=True)
class Limits:
    """Of one evening; clocks are local, empty for none. awakenings: how often one may be woken in the sleep."""

    sleep_from: str = ""
    sleep_to: str = ""
    awakenings: int = 0
    not_before: str = ""
    not_after: str = ""


@dataclass(frozen=True)
class Composed:
    """The night as a problem, and what it stands for."""

    night: Night
    stands: Sequence[Stand]
    wishes: Sequence[Wish]
    found: Sequence[Sequence[Taken]]  # by stand, then wish
    first_aim: Sequence[int]  # of each wish
    best_pace: Sequence[float]  # of each wish: that of the fastest stand
    problem: Problem
    dropped: frozenset[tuple[int, int, int]]  # stand, wish and panel of runs that are not wanted
    counts: Mapping[Stretch, int] = field(default_factory=dict)  # frames of runs that are kept
    unsuited: frozenset[tuple[int, int]] = frozenset()  # stand and wish that are left out, the target being no size for the frame

    def wish_and_panel(self, aim: int) -> tuple[int, int]:
        wish = int(np.searchsorted(self.first_aim, aim, side="right")) - 1
        return wish, aim - self.first_aim[wish]


def gathered_hours(one: Taken, best_pace: float, sessions: Sequence[Session]) -> float:
    """What earlier nights brought, in weighted hours."""
    if not sessions or best_pace <= 0.0:
        return 0.0
    seen = one.seen
    _, total = add_up(sessions, seen.subject, seen.light, seen.advice.step, seen.advice.exposure_s)
    rig = seen.subject.rig
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    return total.snr**2 / scale**2 / best_pace


def _minute(night: Night, clock: str, field: str, checks: Checks) -> int | None:
    if not clock:
        return None
    if minutes_of(clock) is None:
        checks.fault(field, clock, f"{clock!r} is no time of day; write it like 23:30.")
        return None
    return round((clock_mjd(night, clock) - float(night.mjd[0])) / MINUTE)


def _limits(night: Night, limits: Limits) -> tuple[tuple[int, int] | None, tuple[int, int]]:
    """Minutes of the sleep, and of the time in which anything is done. Raises InvalidInput."""
    checks = Checks()
    told = {
        name: _minute(night, getattr(limits, name), name, checks) for name in ("sleep_from", "sleep_to", "not_before", "not_after")
    }
    start, end = told["sleep_from"], told["sleep_to"]
    if (limits.sleep_from == "") != (limits.sleep_to == ""):
        missing = "sleep_to" if limits.sleep_from else "sleep_from"
        checks.fault(missing, "", "Say from when to when you sleep, like 01:00 and 04:00.")
    elif start is not None and end is not None and end <= start:
        checks.fault("sleep_to", limits.sleep_to, f"You would wake before {limits.sleep_from}; give a later time.")
    begin, stop = told["not_before"], told["not_after"]
    if begin is not None and stop is not None and stop <= begin:
        checks.fault("not_after", limits.not_after, f"That is not after {limits.not_before}; give a later time.")
    checks.within("awakenings", limits.awakenings, 0, 20)
    checks.done()
    asleep = (start, end) if start is not None and end is not None else None
    return asleep, (begin if begin is not None else 0, stop if stop is not None else len(night.mjd))


def _first_slot(night: Night, ways: Sequence[Way], slot: int) -> tuple[int, int]:
    """The minute at which slots begin, on a round clock, and how many of them hold all that can be done."""
    seen = np.any([way.seen | way.open for way in ways], axis=0) if ways else np.zeros(0, dtype=bool)
    open_ = np.any([way.open for way in ways], axis=0) if ways else np.zeros(0, dtype=bool)
    if not open_.any():
        return 0, 0
    inside = np.flatnonzero(open_)
    begin = int(inside[0])
    earliest = max(begin - 60, 0)
    while begin > earliest and seen[begin - 1]:
        begin -= 1
    begin -= night.spot.local(float(night.mjd[begin])).minute % slot
    begin += slot if begin < 0 else 0
    return begin, -(-(int(inside[-1]) + 1 - begin) // slot)


@dataclass(frozen=True)
class Stop:
    """One evening that is to be planned. held: what is fixed in it; dropped: stand, wish and panel of what shall not be shot.

    chosen: stand and wish of what shall be shot although it is too small or too large for that frame."""

    stands: Sequence[Stand]
    spot: Spot
    evening: date
    limits: Limits = field(default_factory=Limits)
    air: Air | None = None
    held: Sequence[Held] = ()
    dropped: frozenset[tuple[int, int, int]] = frozenset()
    chosen: frozenset[tuple[int, int]] = frozenset()


@dataclass(frozen=True)
class Looked:
    """A stop with every wish seen through every stand. found: by stand, then wish; asleep, between: minutes."""

    stop: Stop
    night: Night
    found: Sequence[Sequence[Taken]]
    asleep: tuple[int, int] | None
    between: tuple[int, int]

    @property
    def unsuited(self) -> frozenset[tuple[int, int]]:
        """Stand and wish where the target is too small or too large for the frame. What was framed by hand is as it should be."""
        pairs = ((stand, wish, taken) for stand, row in enumerate(self.found) for wish, taken in enumerate(row))
        return frozenset((stand, wish) for stand, wish, taken in pairs if not taken.suits)

    @property
    def aligned(self) -> int:
        """The minute by which one person has aligned several rigs; 0 for one, which has its own set-up time."""
        at = all_aligned_mjd(self.night, self.stop.stands)
        return 0 if at is None else int(np.ceil((at - float(self.night.mjd[0])) / MINUTE - 1e-6))

    def ways(self, first: Sequence[int], best: Sequence[float]) -> list[Way]:
        """first, best: of each wish, its first aim and the pace that weighs its hours."""
        stop = self.stop
        off = {(stand, first[wish] + panel) for stand, wish, panel in stop.dropped if 0 <= wish < len(first)}
        off |= {(stand, first[wish]) for stand, wish in self.unsuited if (stand, wish) not in stop.chosen}
        made = []
        between = (max(self.between[0], self.aligned), self.between[1])
        for lane, (stand, row) in enumerate(zip(stop.stands, self.found, strict=True)):
            made += ways_of(row, lane, first, best, current(stand, stop.spot, stop.evening, stop.air), self.asleep, between)
        return [way for way in made if (way.lane, way.aim) not in off]


def refuse_wrong(stands: Sequence[Stand], wishes: Sequence[Wish]) -> None:
    """Raises InvalidInput for more than can be planned, and less."""
    checks = Checks()
    panels = sum(len(one.panels) for one in wishes)
    if not 1 <= len(stands) <= MOST_STANDS:
        checks.fault("rigs", len(stands), f"A night is planned for 1 to {MOST_STANDS} rigs.")
    if not wishes:
        checks.fault("wishes", 0, "Choose at least one target for the night.")
    if panels > MOST_AIMS:
        told = f"{panels} panels and targets are more than a night is planned for; leave some for another, up to {MOST_AIMS}."
        checks.fault("wishes", panels, told)
    for number, one in enumerate(wishes):
        checks.within(f"wishes.{number}.weight", one.weight, 0.01, 100)
        checks.within(f"wishes.{number}.least_h", one.least_h, 0, 24, "h")
    checks.done()


def looked(stop: Stop, wishes: Sequence[Wish]) -> Looked:
    """Look at every wish of an evening with every stand. Raises InvalidInput."""
    night = night_of(stop.spot, stop.evening)
    asleep, between = _limits(night, stop.limits)
    found = [[taken(stand, wish, stop.spot, stop.evening) for wish in wishes] for stand in stop.stands]
    return Looked(stop, night, found, asleep, between)


def first_aims(wishes: Sequence[Wish]) -> list[int]:
    """Of each wish the number of its first aim: one a panel."""
    return [sum(len(one.panels) for one in wishes[:number]) for number in range(len(wishes))]


def best_paces(found: Sequence[Sequence[Taken]]) -> list[float]:
    """Of each wish, that of the fastest stand; found: by stand, then wish."""
    return [max(one.best_pace for one in column) for column in zip(*found, strict=True)]


def aims_of(
    wishes: Sequence[Wish], found: Sequence[Sequence[Taken]], best: Sequence[float], sessions: Sequence[Sequence[Session]]
) -> list[Aim]:
    """One aim a panel with what it has from other nights. sessions: those that were shot of each wish; they count where it is one
    frame."""
    aims = []
    for number, wish in enumerate(wishes):
        by = max((row[number] for row in found), key=lambda one: one.best_pace)
        shot = gathered_hours(by, best[number], sessions[number]) if sessions and len(wish.panels) == 1 else 0.0
        aims += [Aim(number, shot + (one.elsewhere / best[number] if best[number] > 0.0 else 0.0)) for one in wish.panels]
    return aims


def composed(
    stands: Sequence[Stand],
    wishes: Sequence[Wish],
    spot: Spot,
    evening: date,
    limits: Limits,
    air: Air | None = None,
    sessions: Sequence[Sequence[Session]] = (),
    dropped: frozenset[tuple[int, int, int]] = frozenset(),
    chosen: frozenset[tuple[int, int]] = frozenset(),
) -> Composed:
    """Look at every wish with every stand. sessions: earlier nights of each wish that is one frame. Raises InvalidInput."""
    refuse_wrong(stands, wishes)
    one = looked(Stop(stands, spot, evening, limits, air, (), dropped, chosen), wishes)
    best = best_paces(one.found)
    aims = aims_of(wishes, one.found, best, sessions)
    return posed(one, wishes, aims, best, slot_min(aims, stands))


def slot_min(aims: Sequence[Aim], stands: Sequence[Stand]) -> int:
    """How fine a night is cut."""
    return SLOTS_MIN[0] if len(aims) * len(stands) <= FINE_UP_TO else SLOTS_MIN[1]


def posed(one: Looked, wishes: Sequence[Wish], aims: Sequence[Aim], best: Sequence[float], slot: int) -> Composed:
    """An evening as a problem of whole slots, in minutes. best: of each wish, the pace that weighs its hours."""
    stop, first, choices = one.stop, first_aims(wishes), one.stop.stands[0].choices
    asleep = (one.asleep,) if one.asleep is not None else ()
    rules = Rules(slot, choices.change_min, choices.shortest_min, asleep, stop.limits.awakenings, one.aligned)
    ways, aims_left, wishes_left = those_that_open(one.ways(first, best), aims, wishes, rules)
    begin, slots = _first_slot(one.night, ways, slot)
    problem = Problem(wishes_left, aims_left, ways, begin, slots, rules)
    bounded = _with_most(_with_cards(problem, stop.stands), stop.stands)
    off = one.unsuited - stop.chosen
    return Composed(one.night, stop.stands, wishes, one.found, first, best, bounded, stop.dropped, unsuited=off)


def _with_cards(problem: Problem, stands: Sequence[Stand]) -> Problem:
    """With memory cards where a night might fill one."""
    room = tuple(card_room(one) for one in stands[: problem.lanes])
    for lane, holds in enumerate(room):
        mine = [way for way in problem.ways if way.lane == lane]
        minutes = int(np.any([way.worth_h > 0.0 for way in mine], axis=0).sum()) if mine else 0
        if minutes * max((way.frames_min for way in mine), default=0.0) > holds:
            return replace(problem, room=room)
    return problem


def _with_most(problem: Problem, stands: Sequence[Stand]) -> Problem:
    """With the hours that are wanted of one target at most, where a person set an end."""
    hours = [one.choices.most_hours for one in stands[: problem.lanes]]
    if all(one is None for one in hours):
        return problem
    return replace(problem, most_min=tuple(np.inf if one is None else 60.0 * one for one in hours))


def those_that_open(
    ways: Sequence[Way], aims: Sequence[Aim], wishes: Sequence[Wish], rules: Rules
) -> tuple[list[Way], list[Aim], list[Picture]]:
    """Ways with time enough for a run. A panel that has none this night does not hold up the rest of its picture."""
    kept = [way for way in ways if way.counted[-1] >= rules.shortest]
    alive = {way.aim for way in kept}
    pictures = [Picture(one.weight, one.least_h) for one in wishes]
    made = []
    for number, one in enumerate(aims):
        if number not in alive and any(other.picture == one.picture for n, other in enumerate(aims) if n in alive):
            pictures.append(Picture(1.0))
            made.append(Aim(len(pictures) - 1, one.gathered_h))
        else:
            made.append(one)
    return kept, made, pictures


def held_stretches(made: Composed, held: Sequence[Held]) -> tuple[Stretch, ...]:
    """Fixed runs as stretches on whole slots. Raises InvalidInput naming each that cannot be."""
    checks, problem, night = Checks(), made.problem, made.night
    slot, change = problem.rules.slot, problem.rules.change
    found: list[Stretch] = []
    for number, one in enumerate(held):
        field = f"held.{number}"
        if not (0 <= one.stand < len(made.stands) and 0 <= one.wish < len(made.wishes)) or not (
            0 <= one.panel < len(made.wishes[one.wish].panels)
        ):
            checks.fault(field, number, "This run is of a rig or a target that is not part of the night.")
            continue
        edges = _edges(made, one)
        aim = made.first_aim[one.wish] + one.panel
        name = made.wishes[one.wish].target.name
        told = f"{name}, {night.spot.clock(float(night.mjd[max(edges[0], 0)]))}"
        if edges[1] - edges[0] < change + slot:
            checks.fault(field, told, f"This run is too short: a change takes {change} min, and a frame has to follow.")
            continue
        end = problem.minute(problem.slots)
        if edges[0] < problem.first or edges[1] > end:
            clocks = [night.spot.clock(float(night.mjd[at])) for at in (problem.first, min(end, len(night.mjd) - 1))]
            checks.fault(field, told, f"This run leaves the hours in which anything can be taken, {clocks[0]} to {clocks[1]}.")
            continue
        options = [_within(problem, n, *edges) for n, way in enumerate(problem.ways) if way.lane == one.stand and way.aim == aim]
        best = max((each for each in options if _open_throughout(problem, each)), key=problem.hours, default=None)
        if best is None:
            checks.fault(field, told, f"{name} cannot be taken all that time; see its window and move the run into it.")
            continue
        clash = next((other for other in found if _clash(problem, best, other)), None)
        if clash is not None:
            same = problem.ways[clash.way].lane == one.stand
            why = "another fixed run of the same rig has that time" if same else "you would set up two rigs at once"
            checks.fault(field, told, f"This run cannot stay there: {why}; move one of them.")
            continue
        found.append(best)
    checks.done()
    return tuple(found)


def _within(problem: Problem, number: int, first: int, last: int) -> Stretch:
    """A run on a way; what it was given in a coarser cut of the night and is shut in this finer one is taken off its end. Its
    change stays where it is: another rig may be set up right after."""
    way, slot = problem.ways[number], problem.rules.slot
    if slot < SLOTS_MIN[1] and last - slot > first + problem.rules.change and way.opened[last] == way.opened[last - slot]:
        last -= slot
    return Stretch(number, first, last)


def _open_throughout(problem: Problem, one: Stretch) -> bool:
    """Whether frames can be taken in every slot after the change; of a coarser cut the first may be shut."""
    way, slot, begin = problem.ways[one.way], problem.rules.slot, one.first + problem.rules.change
    edges = np.arange(begin + (-begin + problem.first) % slot, one.last + 1, slot)
    open_ = np.diff(way.opened[edges]) > 0
    waited = SLOTS_MIN[1] // slot - 1 if len(open_) and not open_[0] else 0
    return bool(open_[waited:].all()) and way.summed[one.last] > way.summed[begin]


def _clash(problem: Problem, one: Stretch, other: Stretch) -> bool:
    if problem.ways[one.way].lane == problem.ways[other.way].lane:
        return one.first < other.last and other.first < one.last
    return abs(one.first - other.first) < problem.rules.change


def solved(
    made: Composed, held: Sequence[Held] = (), seconds: float = 3.0, gone: Gone = lambda: False, known: Sequence[Held] = ()
) -> tuple[Composed, Solution]:
    """The best schedule around what is fixed, no worse than one that is known.

    Raises InvalidInput for fixed runs that cannot be, GivenUp when who asked is gone.
    """
    made = replace(made, problem=replace(made.problem, fixed=held_stretches(made, held)))
    return made, solve(made.problem, seconds=seconds, gone=gone, known=held_stretches(made, known))


def moved(made: Composed, held: Sequence[Held], last: Sequence[Held], stand: int) -> tuple[Composed, Solution]:
    """One rig's night filled in anew around what is fixed, at once: the rest stays as it was last, and nothing is proved."""
    made = replace(made, problem=replace(made.problem, fixed=held_stretches(made, held)))
    return made, refit(made.problem, _as_they_were(made, last), stand)


def to_keep(made: Composed, runs: Sequence[Held], held: Sequence[Held]) -> tuple[Composed, tuple[Stretch, ...]]:
    """Runs as stretches, some of them fixed. Raises InvalidInput for those that cannot be."""
    stretches = held_stretches(made, runs)
    counts = {one: run.frames for one, run in zip(stretches, runs, strict=True) if run.frames is not None}
    return replace(made, problem=replace(made.problem, fixed=held_stretches(made, held)), counts=counts), stretches


def as_kept(made: Composed, runs: Sequence[Held], held: Sequence[Held]) -> tuple[Composed, Solution]:
    """The runs as somebody kept them, weighed under tonight's sky. Raises InvalidInput for those that can be no longer."""
    made, stretches = to_keep(made, runs, held)
    return made, as_it_is(made.problem, stretches)


def _as_they_were(made: Composed, last: Sequence[Held]) -> list[Stretch]:
    """Earlier runs as stretches, as far as they still are of this night."""
    found = []
    for one in last:
        if 0 <= one.wish < len(made.wishes) and 0 <= one.panel < len(made.wishes[one.wish].panels):
            aim = made.first_aim[one.wish] + one.panel
            edges = _edges(made, one)
            options = [Stretch(n, *edges) for n, way in enumerate(made.problem.ways) if (way.lane, way.aim) == (one.stand, aim)]
            inside = [
                each for each in options if made.problem.first <= each.first < each.last <= made.problem.minute(made.problem.slots)
            ]
            found += [max(inside, key=made.problem.hours)] if inside else []
    return found


def _edges(made: Composed, one: Held) -> tuple[int, int]:
    """Minutes of a run's edges, on whole slots; what leaves the hours by less than a slot of the coarser cut is taken off."""
    first, slot = made.problem.first, made.problem.rules.slot
    at = [(mjd_from_datetime(moment) - float(made.night.mjd[0])) / MINUTE for moment in (one.begins, one.ends)]
    begin, end = (first + round((minute - first) / slot) * slot for minute in at)
    last, coarse = made.problem.minute(made.problem.slots), SLOTS_MIN[1]
    return first if first - coarse < begin < first else begin, last if last < end < last + coarse else end

"""The night as a problem: aims that gather signal, lanes that shoot one at a time, ways to shoot an aim, and what restrains
them.

Times are minutes of the night's own arrays; a stretch runs from its first minute up to, not including, its last. Its first
`change` minutes go into framing and focus. Signal is counted in *weighted hours*: the hours under a moonless zenith of this
spot, with the fastest rig there is for the aim, that bring the same signal to noise (its square grows with them). What a
picture is worth is the root of its weighted hours: the signal to noise, up to a factor of its own.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from widedusk.core.sky.time import Floats

Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Aim:
    """What one frame is pointed at: a picture, or one panel of it. gathered_h: weighted hours from earlier nights."""

    picture: int
    gathered_h: float = 0.0


@dataclass(frozen=True)
class Picture:
    """What shall come out in the end. With several panels it is as good as the one with the least, for each of them.

    weight: how much it matters beside others; least_h: weighted hours that every panel gets this night at least, or none at all.
    """

    weight: float = 1.0
    least_h: float = 0.0


@dataclass(frozen=True)
class Way:
    """An aim by one lane. Arrays over the minutes of the night."""

    aim: int
    lane: int
    worth_h: Floats  # weighted hours that a minute brings; nought where no frame can be taken
    open: Bools  # whether a run may go on: frames are taken, or a battery is being changed
    seen: Bools  # whether it can be framed and focused on
    side: int = 0  # of the meridian, where the camera has to be turned over: -1 before, 1 after
    fed_until: int | None = None  # minute at which the power ends; none where it lasts
    frames_min: float = 0.0  # frames that a minute brings

    @cached_property
    def summed(self) -> Floats:
        return np.concatenate(([0.0], np.cumsum(self.worth_h)))

    @cached_property
    def counted(self) -> Ints:
        return np.concatenate(([0], np.cumsum(self.worth_h > 0.0)))

    @cached_property
    def opened(self) -> Ints:
        return np.concatenate(([0], np.cumsum(self.open)))

    @cached_property
    def hidden(self) -> Ints:
        return np.concatenate(([0], np.cumsum(~self.seen)))


@dataclass(frozen=True)
class Stretch:
    """One way from one minute to another."""

    way: int
    first: int
    last: int


@dataclass(frozen=True)
class Rules:
    """What one person, who never changes two rigs at once, can do and will bear. Minutes; asleep: each sleep, from and to."""

    slot: int = 5
    change: int = 10
    shortest: int = 20  # frames, after the change
    asleep: tuple[tuple[int, int], ...] = ()
    awakenings: int = 0  # changes in a sleep come together in so many half hours at most
    aligned: int = 0  # the minute by which one person has aligned all rigs; nothing is framed before

    def disturbs(self, first: Ints, last: Ints) -> Bools:
        """Whether something from one minute to another falls into a sleep."""
        found = np.zeros(len(first), dtype=bool)
        for begin, end in self.asleep:
            found |= (last > begin) & (first < end)
        return found


ALIKE = 0.02  # panels that have equally much, to within so much of it; our own
AWAKE_MIN = 30  # whoever is woken stays up so long: changes in it count as one awakening. Our own


@dataclass(frozen=True)
class Problem:
    """first: the minute at which the first slot begins; slots of rules.slot minutes follow. Nights may be laid one after another
    on one axis, with time between them in which nothing is open. nights: the slot at which each begins; every_night: whether panels
    of a picture that have equally much share every night alike, so that what counts of a night is what its poorest panel gets.
    """

    pictures: Sequence[Picture]
    aims: Sequence[Aim]
    ways: Sequence[Way]
    first: int
    slots: int
    rules: Rules
    fixed: Sequence[Stretch] = ()  # runs that stay as they are
    nights: Sequence[int] = (0,)
    every_night: bool = False
    room: Sequence[float] = ()  # frames that the memory card of each lane holds in one night; none where it holds all
    most_min: Sequence[float] = ()  # minutes of frames that each lane takes of one picture in a night at most; none without an end

    @property
    def lanes(self) -> int:
        return max((way.lane for way in self.ways), default=-1) + 1

    def minute(self, slot: int) -> int:
        return self.first + slot * self.rules.slot

    def hours(self, one: Stretch) -> float:
        """Weighted hours of a stretch, its change taken off."""
        way = self.ways[one.way]
        begin = min(one.first + self.rules.change, one.last)
        return float(way.summed[one.last] - way.summed[begin])

    def minutes(self, found: "Candidates") -> Floats:
        """Minutes of each column in which frames are taken, shape (n,)."""
        made, slot = np.zeros(len(found.way)), self.rules.slot
        for number, way in enumerate(self.ways):
            mine = np.flatnonzero(found.way == number)
            last = self.first + found.end[mine] * slot
            framed = np.minimum(self.first + found.begin[mine] * slot + self.rules.change, last)
            made[mine] = way.counted[last] - way.counted[framed]
        return made

    def frames(self, found: "Candidates") -> Floats:
        """How many each column takes, shape (n,)."""
        pace = np.array([way.frames_min for way in self.ways], dtype=float)
        return np.asarray(self.minutes(found) * pace[found.way])

    def gathered(self, stretches: Sequence[Stretch]) -> Floats:
        """Weighted hours that each aim gets, shape (aims,)."""
        found = np.zeros(len(self.aims))
        for one in stretches:
            found[self.ways[one.way].aim] += self.hours(one)
        return found

    def night(self, minute: int) -> int:
        """Which of several nights a minute lies in."""
        return int(np.searchsorted(np.asarray(self.nights), (minute - self.first) // self.rules.slot, side="right")) - 1

    def night_of_way(self, way: Way) -> int:
        """The one in which it is open."""
        return self.night(int(np.argmax(way.open))) if len(self.nights) > 1 else 0

    def night_of(self, found: "Candidates") -> Ints:
        """The same of columns."""
        return np.asarray(np.searchsorted(np.asarray(self.nights), found.end - 1, side="right") - 1)

    @cached_property
    def shares(self) -> tuple[tuple[int, Ints], ...]:
        """Nights that panels have to share alike: which, and those panels of one picture that can be taken in it."""
        if not self.every_night or len(self.nights) < 2:
            return ()
        up = {(way.aim, self.night_of_way(way)) for way in self.ways if way.open.any()}
        found = []
        for aims in self.panels:
            had = self.gathered_h[aims]
            for night in range(len(self.nights)) if len(aims) > 1 and np.ptp(had) <= ALIKE * had.max() else ():
                there = np.array([aim for aim in aims if (int(aim), night) in up], dtype=int)
                found += [(night, there)] if len(there) else []
        return tuple(found)

    def counting(self, stretches: Sequence[Stretch]) -> Floats:
        """Weighted hours of each aim that count, shape (aims,)."""
        if not self.shares:
            return self.gathered(stretches)
        by_night = np.zeros((len(self.nights), len(self.aims)))
        for one in stretches:
            by_night[self.night(one.last - 1), self.ways[one.way].aim] += self.hours(one)
        for night, aims in self.shares:
            by_night[night, aims] = by_night[night, aims].min()
        return np.asarray(by_night.sum(axis=0))

    @cached_property
    def panels(self) -> tuple[Ints, ...]:
        """Which aims make up each picture."""
        of = np.array([one.picture for one in self.aims], dtype=int)
        return tuple(np.flatnonzero(of == number) for number in range(len(self.pictures)))

    @cached_property
    def gathered_h(self) -> Floats:
        """From earlier nights, shape (aims,)."""
        return np.array([one.gathered_h for one in self.aims], dtype=float)

    @cached_property
    def scale(self) -> Floats:
        """What one more unit of the root is worth to each picture: its weight for each of its panels."""
        return np.array([one.weight * len(aims) for one, aims in zip(self.pictures, self.panels, strict=True)], dtype=float)

    @cached_property
    def before(self) -> Floats:
        """Root of the weighted hours that the poorest panel of each picture had before this night."""
        return np.array([float(np.sqrt(self.gathered_h[aims].min())) if len(aims) else 0.0 for aims in self.panels])

    def gains(self, hours: Floats) -> Floats:
        """What so many weighted hours for each aim are worth to each picture."""
        root = np.sqrt(self.gathered_h + hours)
        now = np.array([float(root[aims].min()) if len(aims) else 0.0 for aims in self.panels])
        return np.asarray(self.scale * (now - self.before))

    def value(self, stretches: Sequence[Stretch]) -> float:
        """What is maximised: the weighted sum of what each picture's signal to noise gains."""
        return float(self.gains(self.counting(stretches)).sum())


@dataclass(frozen=True)
class Candidates:
    """Every stretch that the rules allow one way to have, as columns; shape (n,) each. begin, end: slots."""

    way: Ints
    begin: Ints
    end: Ints
    hours: Floats
    held: Bools  # those that are fixed

    def taken(self, chosen: Ints) -> "Candidates":
        return Candidates(*(getattr(self, name)[chosen] for name in ("way", "begin", "end", "hours", "held")))

    def stretches(self, problem: Problem, chosen: Ints) -> tuple[Stretch, ...]:
        """By lane and time."""
        found = [
            Stretch(int(self.way[one]), problem.minute(int(self.begin[one])), problem.minute(int(self.end[one]))) for one in chosen
        ]
        return tuple(sorted(found, key=lambda one: (problem.ways[one.way].lane, one.first)))


def _of_way(problem: Problem, number: int) -> tuple[Ints, Ints, Floats]:
    """Begin, end and hours of every stretch of a way, fixed ones not considered."""
    rules, way = problem.rules, problem.ways[number]
    whole, partly = rules.change // rules.slot, -(-rules.change // rules.slot)
    edges = problem.first + np.arange(problem.slots + 1) * rules.slot
    open_ = np.flatnonzero(np.diff(way.opened[edges]))
    if not len(open_):
        return np.zeros(0, dtype=int), np.zeros(0, dtype=int), np.zeros(0)
    earliest = max(int(open_[0]) - partly, 0)
    begin, end = np.triu_indices(int(open_[-1]) + 2 - earliest, max(partly, 1))
    begin, end = begin + earliest, end + earliest
    shut = np.concatenate(([0], np.cumsum(np.diff(way.opened[edges]) == 0)))
    first, last = edges[begin], edges[end]
    framed = np.minimum(first + rules.change, last)
    ok = way.hidden[framed] == way.hidden[first]  # it is seen while it is framed
    ok &= shut[end] == shut[np.minimum(begin + whole, end)]  # and can be taken in every slot from then on
    ok &= way.counted[last] - way.counted[framed] >= rules.shortest
    if rules.awakenings == 0:
        ok &= ~rules.disturbs(first, framed)
    hours = way.summed[last] - way.summed[framed]
    ok &= hours > 0.0
    return begin[ok], end[ok], hours[ok]


def candidates(problem: Problem) -> Candidates:
    """All stretches from which a schedule is made. On a lane with fixed runs only what leaves room for them."""
    ways, begins, ends, hours = [], [], [], []
    for number, way in enumerate(problem.ways):
        begin, end, worth = _of_way(problem, number)
        clear = np.ones(len(begin), dtype=bool)
        for one in problem.fixed:
            if problem.ways[one.way].lane == way.lane:
                clear &= (problem.first + end * problem.rules.slot <= one.first) | (
                    problem.first + begin * problem.rules.slot >= one.last
                )
        ways.append(np.full(int(clear.sum()), number))
        begins.append(begin[clear])
        ends.append(end[clear])
        hours.append(worth[clear])
    held = [(one.way, *((at - problem.first) // problem.rules.slot for at in (one.first, one.last))) for one in problem.fixed]
    ways.append(np.array([one[0] for one in held], dtype=int))
    begins.append(np.array([one[1] for one in held], dtype=int))
    ends.append(np.array([one[2] for one in held], dtype=int))
    hours.append(np.array([problem.hours(one) for one in problem.fixed], dtype=float))
    count = sum(map(len, ways))
    return Candidates(
        np.concatenate(ways),
        np.concatenate(begins),
        np.concatenate(ends),
        np.concatenate(hours),
        np.arange(count) >= count - len(held),
    )

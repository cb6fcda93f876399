"""A schedule at once, whatever the limits: run after run is put where it gains most and breaks no rule.

No proof and not the best, but always there: what a search that was cut short falls back on, and begins with.
"""

import numpy as np

from widedusk.core.plan.schedule.problem import AWAKE_MIN, Bools, Candidates, Ints, Problem
from widedusk.core.sky.time import Floats

SHARES = (1, 2, 3, 5)  # of a night that one run may take at most, each tried
MOST_RUNS = 60


def greedy(problem: Problem, found: Candidates) -> Ints:
    """Columns of a schedule that keeps every rule; those that are fixed are among them. The best of a few lengths of runs."""
    held = np.flatnonzero(found.held)
    best, value = held, problem.value(found.stretches(problem, held))
    state = _State(problem, found)
    ways = [(share, False, False) for share in SHARES] + [(1, True, False)]
    if any(one.least_h > 0.0 for one in problem.pictures):
        ways += [(1, False, True), (2, True, True)]
    for share, thrifty, least_first in ways:
        chosen = state.filled(held, max(problem.slots // len(problem.nights) // share, 1), thrifty, least_first)
        worth = problem.value(found.stretches(problem, chosen))
        if worth > value:
            best, value = chosen, worth
    return best


class _State:
    """What of a problem is the same for every try."""

    def __init__(self, problem: Problem, found: Candidates) -> None:
        self.problem, self.found = problem, found
        self.lane = np.array([way.lane for way in problem.ways], dtype=int)[found.way]
        self.aim = np.array([way.aim for way in problem.ways], dtype=int)[found.way]
        self.picture = np.array([one.picture for one in problem.aims], dtype=int)[self.aim]
        self.night = problem.night_of(found)
        self.frames = problem.frames(found) if problem.room else np.zeros(len(found.way))
        self.minutes = problem.minutes(found) if problem.most_min else np.zeros(len(found.way))
        self.least = np.array([one.least_h for one in problem.pictures])[self.picture]
        self.scale = np.array([one.weight for one in problem.pictures])[self.picture]
        self.sleep = self._sleeps()

    def _sleeps(self) -> Ints:
        """In which sleep a column would be set up; none: -1."""
        rules = self.problem.rules
        first = self.problem.first + self.found.begin * rules.slot
        told = np.full(len(first), -1)
        for number, (begin, end) in enumerate(rules.asleep):
            told[(first + rules.change > begin) & (first < end)] = number
        return told

    def filled(self, held: Ints, longest: int, thrifty: bool, least_first: bool) -> Ints:
        """As long as something gains: the column that gains most, of those at most so many slots long. thrifty: for its length;
        least_first: what panels ask for at least comes before all else, in as many runs as it takes."""
        problem, found = self.problem, self.found
        cost = (found.end - found.begin).astype(float) if thrifty else np.ones(len(found.way))
        free = (found.end - found.begin <= longest) & ~found.held
        chosen, hours = [int(one) for one in held], np.zeros(len(problem.aims))
        for one in held:
            hours[self.aim[one]] += found.hours[one]
            free &= self._beside(int(one))
        for _ in range(MOST_RUNS):
            room = free & self._within(chosen)
            one = self._towards_least(room, hours) if least_first else -1
            if one >= 0:
                chosen.append(one)
                hours[self.aim[one]] += found.hours[one]
                free &= self._beside(one)
                continue
            allowed = room & (hours[self.aim] + found.hours >= self.least)
            had = problem.gathered_h[self.aim] + hours[self.aim]
            gains = np.where(allowed, self.scale * (np.sqrt(had + found.hours) - np.sqrt(had)) / cost, 0.0)
            one = int(np.argmax(gains)) if len(gains) else 0
            if not len(gains) or gains[one] <= 0.0:
                break
            chosen.append(one)
            hours[self.aim[one]] += found.hours[one]
            free &= self._beside(one)
        return self._without_too_little(np.array(chosen, dtype=int), hours)

    def _towards_least(self, room: Bools, hours: Floats) -> int:
        """The shortest column that gives the panel which lacks most what it lacks, or as much of that as one can; none: -1."""
        lacks = np.maximum(self.least - hours[self.aim], 0.0)
        could = room & (lacks > 1e-9)
        if not could.any():
            return -1
        panel = self.aim[could][np.argmax(lacks[could])]
        mine = np.flatnonzero(could & (self.aim == panel))
        enough = mine[self.found.hours[mine] >= lacks[mine] - 1e-9]
        if enough.size:
            return int(enough[np.argmin((self.found.end - self.found.begin)[enough])])
        return int(mine[np.argmax(self.found.hours[mine])])

    def _beside(self, one: int) -> Bools:
        """Columns that go with one: on its lane before or after it, on others not set up while it is."""
        found, change = self.found, -(-self.problem.rules.change // self.problem.rules.slot)
        apart = (found.end <= found.begin[one]) | (found.begin >= found.end[one])
        return np.asarray(np.where(self.lane == self.lane[one], apart, np.abs(found.begin - found.begin[one]) >= change))

    def _within(self, chosen: list[int]) -> Bools:
        """Columns for which card, hours and sleep have room beside those chosen."""
        problem = self.problem
        allowed = np.ones(len(self.lane), dtype=bool)
        for limits, size, of in ((problem.room, self.frames, None), (problem.most_min, self.minutes, self.picture)):
            if limits:
                taken = np.zeros(len(self.lane))
                for one in chosen:
                    same = (self.lane == self.lane[one]) & (self.night == self.night[one])
                    taken += size[one] * (same if of is None else same & (of == of[one]))
                allowed &= taken + size <= np.asarray(limits)[self.lane] + 1e-9
        if problem.rules.asleep:
            allowed &= (self.sleep < 0) | self._may_wake(chosen)
        return allowed

    def _may_wake(self, chosen: list[int]) -> Bools:
        """Columns in a sleep in which one more change may be made."""
        rules, allowed = self.problem.rules, np.zeros(len(self.lane), dtype=bool)
        for number in range(len(rules.asleep)):
            mine = np.flatnonzero(self.sleep == number)
            before = [int(self.found.begin[one]) for one in chosen if self.sleep[one] == number]
            for begin in np.unique(self.found.begin[mine]):
                if _times_woken([*before, int(begin)], rules.slot) <= rules.awakenings:
                    allowed[mine[self.found.begin[mine] == begin]] = True
        return allowed

    def _without_too_little(self, chosen: Ints, hours: Floats) -> Ints:
        """A picture that asks for so much on each of its panels, or nothing, and has one without: not taken at all."""
        keep = np.ones(len(chosen), dtype=bool)
        for number, aims in enumerate(self.problem.panels):
            least = self.problem.pictures[number].least_h
            if least > 0.0 and (hours[aims] < least - 1e-9).any():
                keep &= (self.picture[chosen] != number) | self.found.held[chosen]
        return chosen[keep]


def _times_woken(begins: list[int], slot: int) -> int:
    """Slots of changes in one sleep: those within half an hour are one awakening."""
    times, until = 0, -np.inf
    for begin in sorted(begins):
        if begin * slot >= until:
            times, until = times + 1, begin * slot + AWAKE_MIN
    return times

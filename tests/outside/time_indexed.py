"""A night of rigs as a program over slots, with every limit there is: written from the rules, and solved by scipy's milp.

Nothing is generated: each slot of each way has its own unknowns. The root is held from above by tangents, so that the program's
bound lies a little above the truth, and never below.
"""

from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from widedusk.core.plan.schedule.problem import AWAKE_MIN, Problem, Stretch

TANGENTS = 30


@dataclass(frozen=True)
class Indexed:
    """The best order that the program found, and what no order exceeds."""

    stretches: tuple[Stretch, ...]
    bound: float


class _Rows:
    """Rows of a program, each at most its limit."""

    def __init__(self, columns: int) -> None:
        self.columns, self.entries, self.limits = columns, ([], [], []), []

    def at_most(self, terms: list[tuple[int, float]], limit: float) -> None:
        for column, value in terms:
            for part, one in zip(self.entries, (len(self.limits), column, value), strict=True):
                part.append(one)
        self.limits.append(limit)

    def matrix(self) -> LinearConstraint:
        row, column, value = self.entries
        shape = (len(self.limits), self.columns)
        return LinearConstraint(sparse.csr_matrix((value, (row, column)), shape=shape), -np.inf, np.array(self.limits))


def time_indexed(problem: Problem, seconds: float = 60.0) -> Indexed:
    """problem: one night that begins at minute 0, its change whole slots, its windows on the edges of slots."""
    rules, slots, ways = problem.rules, problem.slots, problem.ways
    framing, least = rules.change // rules.slot, -(-rules.shortest // rules.slot)
    count = len(ways)
    on = lambda way, slot: way * slots + slot  # noqa: E731 - names of unknowns
    start = lambda way, slot: count * slots + way * slots + slot  # noqa: E731
    wake = lambda slot: 2 * count * slots + slot  # noqa: E731
    wanted = lambda picture: (2 * count + 1) * slots + picture  # noqa: E731
    gain = lambda picture: (2 * count + 1) * slots + len(problem.pictures) + picture  # noqa: E731
    columns = (2 * count + 1) * slots + 2 * len(problem.pictures)
    rows, upper = _Rows(columns), np.ones(columns)
    hours = [np.add.reduceat(way.worth_h, np.arange(0, slots * rules.slot, rules.slot)) for way in ways]

    def taken(way: int, slot: int) -> list[tuple[int, float]]:
        """One where frames are taken: it is on, and framed already."""
        return [(on(way, slot), 1.0), *((start(way, slot - back), -1.0) for back in range(framing) if slot >= back)]

    for way, one in enumerate(ways):
        opened, seen = (np.reshape(values, (slots, rules.slot)).all(axis=1) for values in (one.open, one.seen))
        for slot in range(slots):
            upper[on(way, slot)] = float(seen[slot] or opened[slot])
            if not seen[slot : slot + framing].all() or slot + framing + least > slots:
                upper[start(way, slot)] = 0.0
            before = [(on(way, slot - 1), -1.0)] if slot else []
            rows.at_most([(on(way, slot), 1.0), (start(way, slot), -1.0), *before], 0.0)
            rows.at_most([(start(way, slot - back), 1.0) for back in range(framing + least) if slot >= back], 1.0)
            for ahead in range(min(framing + least, slots - slot)):
                rows.at_most([(start(way, slot), 1.0), (on(way, slot + ahead), -1.0)], 0.0)
            rows.at_most(taken(way, slot), float(opened[slot]))
    for slot in range(slots):
        for lane in range(problem.lanes):
            rows.at_most([(on(way, slot), 1.0) for way in range(count) if ways[way].lane == lane], 1.0)
        rows.at_most([(start(way, slot - back), 1.0) for way in range(count) for back in range(framing) if slot >= back], 1.0)
        if any(slot * rules.slot + rules.change > begin and slot * rules.slot < end for begin, end in rules.asleep):
            up = [(wake(slot - back), -1.0) for back in range(-(-AWAKE_MIN // rules.slot)) if slot >= back]
            for way in range(count):
                rows.at_most([(start(way, slot), 1.0), *up], 0.0)
    rows.at_most([(wake(slot), 1.0) for slot in range(slots)], float(rules.awakenings))
    _limits(problem, rows, taken)
    most = sum(float(values.sum()) for values in hours)
    for number, picture in enumerate(problem.pictures):
        for aim in problem.panels[number]:
            brought = [
                (column, sign * float(hours[way][slot]))
                for way in range(count)
                if ways[way].aim == aim
                for slot in range(slots)
                for column, sign in taken(way, slot)
            ]
            if picture.least_h:
                rows.at_most([(wanted(number), picture.least_h), *((column, -value) for column, value in brought)], 0.0)
                rows.at_most([*brought, (wanted(number), -most)], 0.0)
            had, scale = problem.aims[aim].gathered_h, float(problem.scale[number])
            for at in had + np.linspace(0.02, 1.0, TANGENTS) ** 2 * most:
                slope = scale / (2.0 * np.sqrt(at))
                level = scale * np.sqrt(at) + slope * (had - at) - scale * float(problem.before[number])
                rows.at_most([(gain(number), 1.0), *((column, -slope * value) for column, value in brought)], level)
        upper[gain(number)] = np.inf
    whole = np.ones(columns)
    whole[gain(0) :] = 0.0
    cost = np.zeros(columns)
    cost[gain(0) :] = -1.0
    answer = milp(cost, constraints=rows.matrix(), bounds=Bounds(0.0, upper), integrality=whole, options={"time_limit": seconds})
    return Indexed(_read(problem, answer.x, on, start), float(-answer.mip_dual_bound))


def _limits(problem: Problem, rows: _Rows, taken) -> None:
    """Memory cards, and hours at most of one picture."""
    every = [(way, slot) for way in range(len(problem.ways)) for slot in range(problem.slots)]
    for lane in range(problem.lanes):
        mine = [(way, slot) for way, slot in every if problem.ways[way].lane == lane]
        if problem.room:
            pace = [(way, slot, problem.ways[way].frames_min * problem.rules.slot) for way, slot in mine]
            terms = [(column, sign * frames) for way, slot, frames in pace for column, sign in taken(way, slot)]
            rows.at_most(terms, float(problem.room[lane]))
        for aims in problem.panels if problem.most_min else ():
            here = [(way, slot) for way, slot in mine if problem.ways[way].aim in aims]
            terms = [(column, sign * problem.rules.slot) for way, slot in here for column, sign in taken(way, slot)]
            rows.at_most(terms, float(problem.most_min[lane]))


def _read(problem: Problem, found, on, start) -> tuple[Stretch, ...]:
    stretches, slot_min = [], problem.rules.slot
    for way in range(len(problem.ways)):
        begins = [slot for slot in range(problem.slots) if found[start(way, slot)] > 0.5]
        for place, begin in enumerate(begins):
            end, last = begin, begins[place + 1] if place + 1 < len(begins) else problem.slots
            while end < last and found[on(way, end)] > 0.5:
                end += 1
            stretches.append(Stretch(way, begin * slot_min, end * slot_min))
    return tuple(sorted(stretches, key=lambda one: (problem.ways[one.way].lane, one.first)))

"""A night, or a trip, as a mixed-integer program: what a schedule may be, as rows and columns of a matrix.

Each lane walks a path through the night whose arcs are stretches (one way from one slot to another) or idle slots. Paths of
a lane alone are a network and need no integers; what couples them are the pictures, whose gain is concave in the hours they
get, the one person who sets them up, sleep, and memory cards. The gain is held down twice: by tangents to the root at the sum
of the hours, and by the sum of the gains of the stretches, each taken alone. The second is no less true, for a concave gain
from nought is subadditive, and it makes the relaxation tight: without it a fraction of a long stretch and bits of short ones
would pass for an even split.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from scipy import sparse

from widedusk.core.plan.schedule.problem import AWAKE_MIN, Bools, Candidates, Ints, Problem
from widedusk.core.sky.time import Floats

TANGENT_RATIO = 1.2  # tangents at hours in this ratio stand 0.1 % over the root where they cross
NOTHING = 1e-7  # of worth


def lane_of(problem: Problem, found: Candidates) -> Ints:
    return np.array([way.lane for way in problem.ways], dtype=int)[found.way]


@dataclass
class _Rows:
    """Rows of a matrix, gathered piece by piece: of the columns that are stretches, and of all other variables."""

    stretches: list[tuple[Ints, Ints, Floats]] = field(default_factory=list)
    others: list[tuple[Ints, Ints, Floats]] = field(default_factory=list)
    limits: list[Floats] = field(default_factory=list)
    count: int = 0

    def add(self, limits: Floats) -> int:
        """Room for so many rows; the number of the first."""
        first = self.count
        self.limits.append(np.asarray(limits, dtype=float))
        self.count += len(limits)
        return first

    def of_stretches(self, rows: Ints, columns: Ints, values: Floats) -> None:
        self.stretches.append((np.asarray(rows), np.asarray(columns), np.asarray(values, dtype=float)))

    def of_others(self, rows: Ints, columns: Ints, values: Floats | float) -> None:
        rows = np.asarray(rows)
        self.others.append((rows, np.asarray(columns), np.broadcast_to(np.asarray(values, dtype=float), rows.shape)))

    def built(self, part: str, columns: int) -> sparse.csc_matrix:
        pieces = getattr(self, part)
        if not pieces:
            return sparse.csc_matrix((self.count, columns))
        rows, places, values = (np.concatenate([piece[n] for piece in pieces]) for n in range(3))
        return sparse.csc_matrix((values, (rows, places)), shape=(self.count, columns))

    @property
    def limit(self) -> Floats:
        return np.concatenate(self.limits) if self.limits else np.zeros(0)


@dataclass(frozen=True)
class Model:
    """Equal rows are the paths of the lanes, then the hours of the aims; in the others the left side is at most the limit.

    Other variables: idle slots, hours and gain of each aim, awakenings, aims that are taken at all, what panels share of a night.
    """

    problem: Problem
    found: Candidates
    equal: sparse.csc_matrix
    equal_others: sparse.csc_matrix
    equal_to: Floats
    most: sparse.csc_matrix
    most_others: sparse.csc_matrix
    limit: Floats
    paths: int  # of the equal rows
    cost: Floats  # of the other variables; minimised
    upper: Floats
    whole: Bools


def _tangent(problem: Problem, rows: _Rows, aim: int, at_h: Floats, hours: int, gain: int) -> None:
    """The gain of an aim's picture stands under tangents to the root, which touch it at these weighted hours in all."""
    picture = problem.aims[aim].picture
    scale, root = problem.scale[picture], np.sqrt(at_h)
    places = rows.add(scale * (root - problem.before[picture] + (problem.aims[aim].gathered_h - at_h) / (2.0 * root)))
    numbers = places + np.arange(len(at_h))
    rows.of_others(numbers, np.full(len(at_h), gain + picture), 1.0)
    rows.of_others(numbers, np.full(len(at_h), hours + aim), -scale / (2.0 * root))


def _tangents(problem: Problem, found: Candidates, rows: _Rows, of: Ints, most_h: Floats, hours: int, gain: int) -> None:
    """From the least that a run of an aim brings on: less than that it never gets, but for nothing."""
    least = np.full(len(problem.aims), np.inf)
    np.minimum.at(least, of, found.hours)
    for number, aim in enumerate(problem.aims):
        lowest = max(aim.gathered_h, float(least[number]) if np.isfinite(least[number]) else 1.0, NOTHING)
        count = int(np.ceil(np.log(max((aim.gathered_h + most_h[number]) / lowest, 1.0)) / np.log(TANGENT_RATIO))) + 1
        _tangent(problem, rows, number, np.asarray(lowest * TANGENT_RATIO ** np.arange(count), dtype=np.float64), hours, gain)


def _alone(problem: Problem, found: Candidates, rows: _Rows, aim: Ints, gain: int) -> None:
    """The gain of an aim's picture stands under the sum of what each of the aim's stretches would bring alone."""
    had = problem.gathered_h[aim]
    of = np.array([one.picture for one in problem.aims])
    scale = problem.scale[of]
    first = rows.add(scale * (np.sqrt(problem.gathered_h) - problem.before[of]))
    rows.of_stretches(first + aim, np.arange(len(aim)), -scale[aim] * (np.sqrt(had + found.hours) - np.sqrt(had)))
    rows.of_others(first + np.arange(len(of)), gain + of, 1.0)


def _person(problem: Problem, found: Candidates, rows: _Rows) -> None:
    """One change at a time."""
    change = -(-problem.rules.change // problem.rules.slot)
    if problem.lanes < 2 or change == 0:
        return
    first = rows.add(np.ones(problem.slots))
    columns = np.arange(len(found.way))
    for later in range(change):
        inside = found.begin + later < problem.slots
        rows.of_stretches(first + found.begin[inside] + later, columns[inside], np.ones(int(inside.sum())))


def _cards(problem: Problem, found: Candidates, rows: _Rows) -> None:
    """In one night no more frames than the memory card holds; whoever fixes more than that brings another card."""
    lanes, night = lane_of(problem, found), problem.night_of(found)
    frames = problem.frames(found) if problem.room else np.zeros(0)
    for lane, room in enumerate(problem.room):
        for number in range(len(problem.nights)):
            mine = np.flatnonzero((lanes == lane) & (night == number))
            row = rows.add(np.array([max(room, frames[mine][found.held[mine]].sum())]))
            rows.of_stretches(np.full(len(mine), row), mine, frames[mine])


def _at_most(problem: Problem, found: Candidates, rows: _Rows, aim: Ints) -> None:
    """In one night no more time for a picture than is wanted of it with each rig; whoever fixes more wants more."""
    lanes, night = lane_of(problem, found), problem.night_of(found)
    picture = np.array([one.picture for one in problem.aims], dtype=int)[aim]
    minutes = problem.minutes(found) if problem.most_min else np.zeros(0)
    for lane, most in enumerate(problem.most_min):
        mine = np.flatnonzero(lanes == lane)
        for key in np.unique(np.stack([picture[mine], night[mine]], axis=1), axis=0) if np.isfinite(most) else ():
            these = mine[(picture[mine] == key[0]) & (night[mine] == key[1])]
            row = rows.add(np.array([max(most, minutes[these][found.held[these]].sum())]))
            rows.of_stretches(np.full(len(these), row), these, minutes[these])


def _woken(begins: Ints, slot: int) -> int:
    """How often these changes wake somebody, each time for half an hour."""
    times, until = 0, -1
    for begin in np.sort(begins):
        if begin >= until:
            times, until = times + 1, int(begin) + max(AWAKE_MIN // slot, 1)
    return times


def _sleep(problem: Problem, found: Candidates, rows: _Rows, awake: int) -> int:
    """Changes in each sleep fall into few half hours; how many variables that takes, `awake` being the first."""
    variables = 0
    for begin, end in problem.rules.asleep if problem.rules.awakenings else ():
        variables += _one_sleep(problem, found, rows, awake + variables, begin, end)
    return variables


def _one_sleep(problem: Problem, found: Candidates, rows: _Rows, awake: int, begin: int, end: int) -> int:
    """Whoever fixes runs in their own sleep is woken for them all the same."""
    rules = problem.rules
    edges = problem.first + np.arange(problem.slots) * rules.slot
    asleep = np.flatnonzero((edges + rules.change > begin) & (edges < end))
    if not len(asleep):
        return 0
    place = np.full(problem.slots, -1)
    place[asleep] = np.arange(len(asleep))
    first = rows.add(np.zeros(len(asleep)))
    waking = place[np.minimum(found.begin, problem.slots - 1)]
    columns = np.flatnonzero(waking >= 0)
    rows.of_stretches(first + waking[columns], columns, np.ones(len(columns)))
    for earlier in range(max(AWAKE_MIN // rules.slot, 1)):
        up = np.arange(earlier, len(asleep))
        rows.of_others(first + up, awake + up - earlier, -float(problem.lanes))
    total = rows.add(np.array([float(max(rules.awakenings, _woken(found.begin[found.held & (waking >= 0)], rules.slot)))]))
    rows.of_others(np.full(len(asleep), total), awake + np.arange(len(asleep)), 1.0)
    return len(asleep)


def _least(problem: Problem, found: Candidates, rows: _Rows, aim: Ints, most_h: Floats, hours: int, taken: int) -> int:
    """At least so much for every panel or nothing at all; how many variables that takes."""
    asked = [number for number, one in enumerate(problem.pictures) if one.least_h > 0.0]
    for place, number in enumerate(asked):
        for panel in problem.panels[number]:
            columns = np.flatnonzero(aim == panel)
            first = rows.add(np.zeros(2))
            rows.of_stretches(np.full(len(columns), first), columns, found.hours[columns])
            rows.of_others(np.array([first]), np.array([taken + place]), -max(float(most_h[panel]), 1e-9))
            least = 1.0 / problem.pictures[number].least_h
            rows.of_others(np.full(2, first + 1), np.array([taken + place, hours + panel]), np.array([1.0, -least]))
    return len(asked)


def model_of(problem: Problem, found: Candidates) -> Model:
    lanes, slots, aims, count = problem.lanes, problem.slots, len(problem.aims), len(found.way)
    pictures = len(problem.pictures)
    columns = np.arange(count)
    lane = np.array([way.lane for way in problem.ways])[found.way]
    aim = np.array([way.aim for way in problem.ways])[found.way]
    most_h = np.zeros(aims)
    for way in problem.ways:
        most_h[way.aim] += way.summed[-1]
    idle, hours, gain = 0, lanes * slots, lanes * slots + aims
    awake = gain + pictures

    equal = _Rows()
    ends = np.zeros((lanes, slots + 1))
    ends[:, 0], ends[:, -1] = 1.0, -1.0
    equal.add(ends.ravel())
    equal.of_stretches(lane * (slots + 1) + found.begin, columns, np.ones(count))
    equal.of_stretches(lane * (slots + 1) + found.end, columns, -np.ones(count))
    node = (np.arange(lanes)[:, None] * (slots + 1) + np.arange(slots)).ravel()
    equal.of_others(node, idle + np.arange(lanes * slots), 1.0)
    equal.of_others(node + 1, idle + np.arange(lanes * slots), -1.0)
    first = equal.add(np.zeros(aims))
    shared = np.isin(aim, np.concatenate([np.zeros(0, dtype=int), *(panels for _, panels in problem.shares)]))
    equal.of_stretches(first + aim[~shared], columns[~shared], -found.hours[~shared])
    equal.of_others(first + np.arange(aims), hours + np.arange(aims), 1.0)

    most = _Rows()
    _alone(problem, found, most, aim, gain)
    _tangents(problem, found, most, aim, most_h, hours, gain)
    _person(problem, found, most)
    _cards(problem, found, most)
    _at_most(problem, found, most, aim)
    waking = _sleep(problem, found, most, awake)
    asked = _least(problem, found, most, aim, most_h, hours, awake + waking)

    others = awake + waking + asked
    night = problem.night_of(found)
    for number, (of, panels) in enumerate(problem.shares):
        place = others + number
        equal.of_others(first + panels, np.full(len(panels), place), -1.0)
        least = most.add(np.zeros(len(panels)))
        most.of_others(least + np.arange(len(panels)), np.full(len(panels), place), 1.0)
        for row, panel in enumerate(panels):
            mine = np.flatnonzero((aim == panel) & (night == of))
            most.of_stretches(np.full(len(mine), least + row), mine, -found.hours[mine])
    others += len(problem.shares)
    cost = np.zeros(others)
    cost[gain:awake] = -1.0
    upper = np.ones(others)
    upper[hours:awake] = np.inf
    whole = np.zeros(others, dtype=bool)
    whole[awake : others - len(problem.shares)] = True
    upper[others - len(problem.shares) :] = np.inf
    return Model(
        problem,
        found,
        equal.built("stretches", count),
        equal.built("others", others),
        equal.limit,
        most.built("stretches", count),
        most.built("others", others),
        most.limit,
        lanes * (slots + 1),
        cost,
        upper,
        whole,
    )


def touching(model: Model, hours: Floats) -> Model:
    """The same with tangents that touch the root at these hours."""
    problem, rows = model.problem, _Rows()
    first = problem.lanes * problem.slots
    for number, aim in enumerate(problem.aims):
        at = max(aim.gathered_h + float(hours[number]), NOTHING)
        _tangent(problem, rows, number, np.array([at]), first, first + len(problem.aims))
    added = rows.built("others", len(model.cost))
    none = sparse.csc_matrix((rows.count, model.most.shape[1]))
    return replace(
        model,
        most=sparse.vstack((model.most, none), format="csc"),
        most_others=sparse.vstack((model.most_others, added), format="csc"),
        limit=np.concatenate((model.limit, rows.limit)),
    )

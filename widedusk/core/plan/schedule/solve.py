"""The best schedule, and a bound that no schedule of these rules exceeds.

Each lane walks a path through the night whose arcs are stretches (one way from one slot to another) or idle slots. Paths of
a lane alone are a network and need no integers; what couples them are the pictures, whose gain is concave in the hours they
get, and the one person who sets them up. The gain is held down twice: by tangents to the root at the sum of the hours, and
by the sum of the gains of the stretches, each taken alone. The second is no less true, for a concave gain from nought is
subadditive, and it makes the relaxation tight: without it a fraction of a long stretch and bits of short ones would pass for
an even split.

The relaxation has tens of thousands of columns, of which few matter: they are generated (Dantzig & Wolfe 1960, Operations
Research 8, 101), each round with a bound by Lagrange (Geoffrion 1974, Mathematical Programming Study 2, 82). The
mixed-integer program over those that matter is solved by HiGHS (Huangfu & Hall 2018, Mathematical Programming Computation
10, 119), as scipy ships it.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, linprog, milp

from widedusk.core.plan.schedule.problem import AWAKE_MIN, Bools, Candidates, Ints, Problem, Stretch, candidates
from widedusk.core.plan.schedule.schools import even_split
from widedusk.core.sky.time import Floats

TANGENT_RATIO = 1.2  # tangents at hours in this ratio stand 0.1 % over the root where they cross
FEW = 300  # columns of an integer program for one lane, beside those of the relaxation
NOTHING = 1e-7  # of worth
SMALL = 1_000  # columns that are all tried
ROUNDS = 60
CLOSE = 0.001  # the bound may stand so far over the relaxation before no more columns are sought
NEAR_SLOTS = 3  # an improvement looks so far about the edges of the schedule in use


@dataclass(frozen=True)
class Solution:
    """stretches by lane and time. bound: no schedule is worth more; infinite where it was not asked for."""

    stretches: tuple[Stretch, ...]
    value: float
    bound: float
    seconds: float

    @property
    def gap(self) -> float:
        """By which share another order could at most be better."""
        if self.value <= 0.0:
            return 0.0 if self.bound <= 1e-12 else np.inf
        return max(self.bound / self.value - 1.0, 0.0)


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
class _Model:
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
    lanes, night = _lane_of(problem, found), problem.night_of(found)
    frames = problem.frames(found) if problem.room else np.zeros(0)
    for lane, room in enumerate(problem.room):
        for number in range(len(problem.nights)):
            mine = np.flatnonzero((lanes == lane) & (night == number))
            row = rows.add(np.array([max(room, frames[mine][found.held[mine]].sum())]))
            rows.of_stretches(np.full(len(mine), row), mine, frames[mine])


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


def _model(problem: Problem, found: Candidates) -> _Model:
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
    return _Model(
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


def _longest(model: _Model, profit: Floats) -> float:
    """Sum over the lanes of the dearest path, each stretch bringing its profit and idle slots nothing."""
    problem, found = model.problem, model.found
    lane = np.array([way.lane for way in problem.ways])[found.way]
    total = 0.0
    for number in range(problem.lanes):
        mine = np.flatnonzero(lane == number)
        mine = mine[np.argsort(found.end[mine], kind="stable")]
        edges = np.searchsorted(found.end[mine], np.arange(problem.slots + 2))
        reach = np.zeros(problem.slots + 1)
        held = found.held[mine]
        for slot in range(1, problem.slots + 1):
            here = mine[edges[slot] : edges[slot + 1]]
            reach[slot] = reach[slot - 1]
            if len(here):
                reach[slot] = max(reach[slot], float(np.max(reach[found.begin[here]] + profit[here])))
        total += float(reach[-1]) if not held.any() else _held_path(problem, found, mine, profit)
    return total


def _held_path(problem: Problem, found: Candidates, mine: Ints, profit: Floats) -> float:
    """The same where some stretches have to be on the path."""
    inside = np.zeros(problem.slots, dtype=bool)  # slots that are no idle ones
    for one in mine[found.held[mine]]:
        inside[found.begin[one] : found.end[one]] = True
    reach = np.full(problem.slots + 1, -np.inf)
    reach[0] = 0.0
    for slot in range(1, problem.slots + 1):
        here = mine[found.end[mine] == slot]
        stay = reach[slot - 1] if not inside[slot - 1] else -np.inf
        best = float(np.max(reach[found.begin[here]] + profit[here])) if len(here) else -np.inf
        reach[slot] = max(stay, best)
    return float(reach[-1])


@dataclass
class _Relaxed:
    """taken: how much of each column the relaxation takes; spare: its reduced cost."""

    taken: Floats
    spare: Floats
    bound: float = np.inf

    @property
    def needed(self) -> Bools:
        return self.taken > 1e-9


def _relaxed(model: _Model, stops: float) -> _Relaxed:
    """Generate columns until no more matter."""
    found, slots = model.found, model.problem.slots
    every = max(slots // 12, 1)
    active = found.held | ((found.begin % every == 0) & (found.end % every == 0))
    told = _Relaxed(active.astype(float), np.zeros(len(found.way)))
    begins = found.way * (slots + 1) + found.begin
    ends = found.way * (slots + 1) + found.end
    for _ in range(ROUNDS):
        chosen = np.flatnonzero(active)
        lower = np.concatenate((found.held[chosen].astype(float), np.zeros(len(model.cost))))
        upper = np.concatenate((np.full(len(chosen), np.inf), model.upper))
        answer = linprog(
            np.concatenate((np.zeros(len(chosen)), model.cost)),
            A_ub=sparse.hstack((model.most[:, chosen], model.most_others), format="csr"),
            b_ub=model.limit,
            A_eq=sparse.hstack((model.equal[:, chosen], model.equal_others), format="csr"),
            b_eq=model.equal_to,
            bounds=np.stack((lower, upper), 1),
            method="highs",
        )
        if answer.x is None:  # what is fixed leaves no way, or numbers failed: no columns to tell from
            return replace(told, taken=active.astype(float))
        equal, most = answer.eqlin.marginals, answer.ineqlin.marginals
        aside = np.concatenate((np.zeros(model.paths), equal[model.paths :]))
        profit = model.equal.T @ aside + model.most.T @ most
        told.spare = -(model.equal.T @ equal + model.most.T @ most)
        left = model.cost - model.equal_others.T @ equal - model.most_others.T @ most
        freely = np.where(np.isfinite(model.upper), np.minimum(left, 0.0), 0.0)
        freely[: model.problem.lanes * slots] = 0.0  # idle slots are on the paths
        told.bound = min(told.bound, _longest(model, profit) - float(most @ model.limit + freely.sum()))
        told.taken = np.zeros(len(found.way))
        told.taken[chosen] = answer.x[: len(chosen)]
        better = np.flatnonzero((told.spare < -1e-9) & ~active)
        if not len(better) or told.bound <= -answer.fun * (1.0 + CLOSE) or time.monotonic() > stops:
            break
        cheap = better[np.argsort(told.spare[better], kind="stable")]
        one_a_begin = np.unique(begins[cheap], return_index=True)[1]
        one_an_end = np.unique(ends[cheap], return_index=True)[1]
        active[cheap[np.concatenate((one_a_begin, one_an_end, np.arange(min(100, len(cheap)))))]] = True
    return told


def _chosen(model: _Model, columns: Ints, seconds: float, gap: float, over: float = 0.0) -> tuple[Ints, float] | None:
    """The best schedule out of some columns, and a bound on all out of them; None where none worth more than `over` was found."""
    count = len(columns)
    held = model.found.held[columns].astype(float)
    answer = milp(
        np.concatenate((np.zeros(count), model.cost)),
        constraints=LinearConstraint(
            sparse.bmat(
                [
                    [model.equal[:, columns], model.equal_others],
                    [model.most[:, columns], model.most_others],
                    [None, sparse.csr_matrix(model.cost)],
                ],
                format="csr",
            ),
            np.concatenate((model.equal_to, np.full(len(model.limit) + 1, -np.inf))),
            np.concatenate((model.equal_to, model.limit, [-over])),
        ),
        bounds=Bounds(np.concatenate((held, np.zeros(len(model.cost)))), np.concatenate((np.ones(count), model.upper))),
        integrality=np.concatenate((np.ones(count), model.whole)),
        options={"time_limit": max(seconds, 0.05), "mip_rel_gap": gap},
    )
    if answer.x is None:
        return None
    most = answer.fun if answer.mip_dual_bound is None else answer.mip_dual_bound  # none where no number had to be whole
    return columns[answer.x[:count] > 0.5], -float(most)


def _touching(model: _Model, hours: Floats) -> _Model:
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


def _near(found: Candidates, chosen: Ints, slots: int) -> Bools:
    """Columns of the same ways whose edges stand within so many slots of those chosen."""
    near = np.zeros(len(found.way), dtype=bool)
    for one in chosen:
        near |= (
            (found.way == found.way[one])
            & (np.abs(found.begin - found.begin[one]) <= slots)
            & (np.abs(found.end - found.end[one]) <= slots)
        )
    return near


def _cheapest(found: Candidates, spare: Floats, few: int) -> Bools:
    chosen = np.zeros(len(found.way), dtype=bool)
    chosen[np.argsort(spare, kind="stable")[:few]] = True
    return chosen


def _lane_of(problem: Problem, found: Candidates) -> Ints:
    return np.array([way.lane for way in problem.ways], dtype=int)[found.way]


def _parts(problem: Problem, found: Candidates) -> list[Bools]:
    """What is improved by itself: a night of several, else a lane of several."""
    if len(problem.nights) > 1:
        night = problem.night_of(found)
        return [night == number for number in range(len(problem.nights))]
    lane = _lane_of(problem, found)
    return [lane == number for number in range(problem.lanes)] if problem.lanes > 1 else []


def _one_part(problem: Problem, found: Candidates, best: Ints, part_: Bools, gap: float, stops: float) -> Ints:
    """The best schedule of a part while all else stands."""
    mine = np.flatnonzero(part_)
    columns = np.concatenate((mine, best[~part_[best]]))
    part = found.taken(columns)
    part = replace(part, held=part.held | (np.arange(len(columns)) >= len(mine)))
    model = _model(problem, part)
    told = _relaxed(model, stops)
    tried = told.needed | part.held | _near(found, best, NEAR_SLOTS)[columns] | _cheapest(part, told.spare, FEW)
    worth = problem.value(found.stretches(problem, best))
    answer = _chosen(model, np.flatnonzero(tried), stops - time.monotonic(), gap, worth)
    return columns[answer[0]] if answer else best


def _by_head(problem: Problem, found: Candidates) -> Ints:
    """An even split on whole slots, than which no answer shall be worse; nothing under conditions for which it has no eye."""
    chosen: list[int] = []
    edges = [problem.first + places * problem.rules.slot for places in (found.begin, found.end)]
    blind = problem.fixed or problem.rules.asleep or problem.room or any(one.least_h > 0.0 for one in problem.pictures)
    for one in even_split(problem) if not blind else ():
        inside = np.flatnonzero((found.way == one.way) & (edges[0] >= one.first) & (edges[1] <= one.last))
        best = int(inside[np.argmax(found.hours[inside])]) if len(inside) else -1
        if best >= 0 and not _two_at_once(problem, found, best, np.array(chosen, dtype=int)):
            chosen.append(best)
    return np.array(chosen, dtype=int)


def _night_by_night(problem: Problem, found: Candidates, told: _Relaxed, gap: float, stops: float) -> Ints:
    """Each night by itself, given what those before it bring, and what the relaxation says of those after it."""
    night, of = problem.night_of(found), np.array([way.aim for way in problem.ways])[found.way]
    hours = np.zeros((len(problem.nights), len(problem.aims)))
    np.add.at(hours, (night, of), told.taken * found.hours)
    for number, panels in problem.shares:
        hours[number, panels] = hours[number, panels].mean()
    best: list[Ints] = []
    for number in range(len(problem.nights)):
        mine, others = np.flatnonzero(night == number), hours.sum(axis=0) - hours[number]
        aims = [replace(aim, gathered_h=aim.gathered_h + float(had)) for aim, had in zip(problem.aims, others, strict=True)]
        alone, part = replace(problem, aims=aims, every_night=False), found.taken(mine)
        if not len(mine):
            continue
        model, until = _model(alone, part), time.monotonic() + (stops - time.monotonic()) / (len(problem.nights) - number + 1)
        seen = _relaxed(model, until)
        answer = _chosen(
            model, np.flatnonzero(seen.needed | part.held | _cheapest(part, seen.spare, FEW)), until - time.monotonic(), gap
        )
        chosen = mine[answer[0]] if answer else mine[part.held]
        best.append(chosen)
        hours[number] = problem.counting(found.stretches(problem, chosen))
    return np.concatenate([*best, np.zeros(0, dtype=int)])


def solve(problem: Problem, gap: float = 0.01, seconds: float = 8.0) -> Solution:
    """The best schedule, to within a share `gap` of the bound where the time allows.

    The problem's fixed runs must keep the rules among themselves.
    """
    begun = time.monotonic()
    found = candidates(problem)
    if not len(found.way):
        return Solution((), 0.0, 0.0, time.monotonic() - begun)
    model, stops = _model(problem, found), begun + seconds
    told = _relaxed(model, begun + 0.6 * seconds)
    needed, bound = told.needed, told.bound
    tried = needed | found.held | _cheapest(found, told.spare, FEW * max(2, len(problem.nights)))
    best, value, inside = np.flatnonzero(found.held), problem.value(problem.fixed), gap / 3.0
    parts, trip = _parts(problem, found), len(problem.nights) > 1

    def offer(chosen: Ints) -> bool:
        """Whether it is better by enough to go on."""
        nonlocal best, value
        before, worth = value, problem.value(found.stretches(problem, chosen))
        if worth > value:
            best, value = chosen, worth
        return value > before * (1.0 + gap / 10.0)

    def open_() -> bool:
        return bound > value * (1.0 + gap) + NOTHING and time.monotonic() < stops

    offer(_by_head(problem, found))
    if problem.shares:
        offer(_night_by_night(problem, found, told, inside, stops))
    going, before = True, np.zeros(0, dtype=int)
    while going and open_():
        going = False
        for part in parts if not trip else ():  # a trip begins with all its nights
            going |= offer(_one_part(problem, found, best, part, inside, stops))
        trip = False
        if not open_():
            break
        tried |= _near(found, best, NEAR_SLOTS)
        answer = _chosen(model, np.flatnonzero(tried), 0.7 * (stops - time.monotonic()), inside, value)
        if answer is None:
            going |= len(problem.nights) > 1 and not len(before)
            before = best
            continue
        chosen, most = answer
        going |= offer(chosen)
        if tried.all():
            bound = min(bound, most)
        hours = problem.counting(found.stretches(problem, chosen))
        # While the tangents promise more than the root holds, they are drawn closer: a new choice may follow.
        going |= most > problem.value(found.stretches(problem, chosen)) * (1.0 + gap) and not np.array_equal(chosen, before)
        before = chosen
        tried = needed | found.held | _near(found, best, NEAR_SLOTS) | (tried & (len(tried) <= SMALL))
        model = _touching(model, hours)
    return Solution(found.stretches(problem, best), value, max(bound, value), time.monotonic() - begun)


def as_it_is(problem: Problem, stretches: Sequence[Stretch], seconds: float = 2.0) -> Solution:
    """A schedule that somebody keeps, and the bound of the problem it is of."""
    begun = time.monotonic()
    value, found = problem.value(stretches), candidates(problem)
    bound = _relaxed(_model(problem, found), begun + seconds).bound if len(found.way) else 0.0
    return Solution(tuple(stretches), value, max(bound, value), time.monotonic() - begun)


def _two_at_once(problem: Problem, found: Candidates, one: int, others: Ints) -> bool:
    """Whether a run would be set up while one of others is, on another rig."""
    lanes, change = _lane_of(problem, found), -(-problem.rules.change // problem.rules.slot)
    close = np.abs(found.begin[others] - found.begin[one]) < change
    return bool((close & (lanes[others] != lanes[one])).any())


def refit(problem: Problem, last: Sequence[Stretch], lane: int, seconds: float = 0.3) -> Solution:
    """One lane filled in anew around what is fixed, all others as they were last: quick, and with no bound.

    Whatever of the last schedule the rules no longer allow is dropped.
    """
    begun = time.monotonic()
    found = candidates(problem)
    if not len(found.way):
        return Solution((), 0.0, 0.0, time.monotonic() - begun)
    key = {(way, begin, end): n for n, (way, begin, end) in enumerate(zip(found.way, found.begin, found.end, strict=True))}
    slot = problem.rules.slot
    kept = [key.get((one.way, (one.first - problem.first) // slot, (one.last - problem.first) // slot)) for one in last]
    held = np.flatnonzero(found.held)
    still = [n for n in kept if n is not None and not found.held[n] and not _two_at_once(problem, found, n, held)]
    best = np.array(sorted({*still, *held.tolist()}), dtype=int)
    best = _one_part(problem, found, best, _lane_of(problem, found) == lane, 0.01, begun + seconds)
    stretches = found.stretches(problem, best)
    return Solution(stretches, problem.value(stretches), np.inf, time.monotonic() - begun)

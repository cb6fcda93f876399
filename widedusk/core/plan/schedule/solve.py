"""The best schedule, and a bound that no schedule of these rules exceeds.

The relaxation of the program (`model`) has tens of thousands of columns, of which few matter: they are generated (Dantzig &
Wolfe 1960, Operations Research 8, 101), each round with a bound by Lagrange (Geoffrion 1974, Mathematical Programming Study
2, 82). The mixed-integer program over those that matter is solved by HiGHS, with an effort that is counted (`effort`).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy import sparse
from scipy.optimize import linprog

from widedusk.core.plan.schedule.effort import Effort, GivenUp, Gone, Program, best_of
from widedusk.core.plan.schedule.greedy import greedy
from widedusk.core.plan.schedule.model import NOTHING, Model, lane_of, model_of, touching
from widedusk.core.plan.schedule.problem import Bools, Candidates, Ints, Problem, Stretch, candidates
from widedusk.core.plan.schedule.schools import even_split
from widedusk.core.sky.time import Floats

FEW = 300  # columns of an integer program for one lane, beside those of the relaxation
LEAST_S = 0.05  # of effort, for a program that is begun
SMALL = 1_000  # columns that are all tried
ROUNDS = 60
CLOSE = 0.001  # the bound may stand so far over the relaxation before no more columns are sought
NEAR_SLOTS = 3  # an improvement looks so far about the edges of the schedule in use


@dataclass(frozen=True)
class Solution:
    """stretches by lane and time. bound: no schedule is worth more; infinite where it was not asked for. cut_short: whether a busy
    machine ended the search before it had done what it may."""

    stretches: tuple[Stretch, ...]
    value: float
    bound: float
    cut_short: bool = False

    @property
    def gap(self) -> float:
        """By which share another order could at most be better."""
        if self.value <= 0.0:
            return 0.0 if self.bound <= 1e-12 else np.inf
        return max(self.bound / self.value - 1.0, 0.0)


def _longest(model: Model, profit: Floats) -> float:
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


def _relaxed(model: Model, effort: Effort, seconds: float = np.inf) -> _Relaxed:
    """Generate columns until no more matter."""
    until = effort.spent + min(seconds, effort.left)
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
        effort.of_simplex(int(answer.nit), len(chosen))
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
        if not len(better) or told.bound <= -answer.fun * (1.0 + CLOSE) or effort.spent >= until or effort.left <= 0.0:
            break
        cheap = better[np.argsort(told.spare[better], kind="stable")]
        one_a_begin = np.unique(begins[cheap], return_index=True)[1]
        one_an_end = np.unique(ends[cheap], return_index=True)[1]
        active[cheap[np.concatenate((one_a_begin, one_an_end, np.arange(min(100, len(cheap)))))]] = True
    return told


def _chosen(
    model: Model, columns: Ints, best: Ints, effort: Effort, gap: float, seconds: float = np.inf
) -> tuple[Ints, float] | None:
    """The best schedule out of some columns, and a bound on all out of them; None where there is none.

    best: that is known so far; as far as the program's own reckoning goes, the answer is no worse."""
    count, others = len(columns), len(model.cost)
    known = np.isin(columns, best)
    start = np.flatnonzero(known) if known.sum() == len(best) else np.zeros(0, dtype=int)
    answer = best_of(
        Program(
            np.concatenate((np.zeros(count), model.cost)),
            sparse.bmat([[model.equal[:, columns], model.equal_others], [model.most[:, columns], model.most_others]], format="csc"),
            np.concatenate((model.equal_to, np.full(len(model.limit), -np.inf))),
            np.concatenate((model.equal_to, model.limit)),
            np.concatenate((model.found.held[columns].astype(float), np.zeros(others))),
            np.concatenate((np.ones(count), model.upper)),
            np.concatenate((np.ones(count), model.whole)).astype(bool),
        ),
        (np.arange(count), known.astype(float)) if len(start) else (start, np.zeros(0)),
        gap,
        effort,
        max(min(seconds, effort.left), LEAST_S),
    )
    return None if answer is None else (columns[answer[0][:count] > 0.5], -answer[1])


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


def _parts(problem: Problem, found: Candidates) -> list[Bools]:
    """What is improved by itself: a night of several, else a lane of several."""
    if len(problem.nights) > 1:
        night = problem.night_of(found)
        return [night == number for number in range(len(problem.nights))]
    lane = lane_of(problem, found)
    return [lane == number for number in range(problem.lanes)] if problem.lanes > 1 else []


def _one_part(problem: Problem, found: Candidates, best: Ints, part_: Bools, gap: float, effort: Effort) -> Ints:
    """The best schedule of a part while all else stands."""
    mine = np.flatnonzero(part_)
    columns = np.concatenate((mine, best[~part_[best]]))
    part = found.taken(columns)
    part = replace(part, held=part.held | (np.arange(len(columns)) >= len(mine)))
    model = model_of(problem, part)
    told = _relaxed(model, effort)
    tried = told.needed | part.held | _near(found, best, NEAR_SLOTS)[columns] | _cheapest(part, told.spare, FEW)
    answer = _chosen(model, np.flatnonzero(tried), np.flatnonzero(np.isin(columns, best)), effort, gap)
    return columns[answer[0]] if answer else best


def _by_head(problem: Problem, found: Candidates) -> Ints:
    """An even split on whole slots, than which no answer shall be worse; nothing under conditions for which it has no eye."""
    chosen: list[int] = []
    edges = [problem.first + places * problem.rules.slot for places in (found.begin, found.end)]
    bounded = problem.room or problem.most_min or any(one.least_h > 0.0 for one in problem.pictures)
    blind = problem.fixed or problem.rules.asleep or bounded
    for one in even_split(problem) if not blind else ():
        inside = np.flatnonzero((found.way == one.way) & (edges[0] >= one.first) & (edges[1] <= one.last))
        best = int(inside[np.argmax(found.hours[inside])]) if len(inside) else -1
        if best >= 0 and not _two_at_once(problem, found, best, np.array(chosen, dtype=int)):
            chosen.append(best)
    return np.array(chosen, dtype=int)


def _night_by_night(problem: Problem, found: Candidates, told: _Relaxed, gap: float, effort: Effort) -> Ints:
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
        model, until = model_of(alone, part), effort.spent + effort.left / (len(problem.nights) - number + 1)
        seen = _relaxed(model, effort, until - effort.spent)
        tried = seen.needed | part.held | _cheapest(part, seen.spare, FEW)
        answer = _chosen(model, np.flatnonzero(tried), np.flatnonzero(part.held), effort, gap, until - effort.spent)
        chosen = mine[answer[0]] if answer else mine[part.held]
        best.append(chosen)
        hours[number] = problem.counting(found.stretches(problem, chosen))
    return np.concatenate([*best, np.zeros(0, dtype=int)])


def solve(
    problem: Problem, gap: float = 0.01, seconds: float = 8.0, gone: Gone = lambda: False, known: Sequence[Stretch] = ()
) -> Solution:
    """The best schedule, to within a share `gap` of the bound where the effort allows.

    The problem's fixed runs must keep the rules among themselves. seconds: of effort, about as long on an idle machine.
    gone: whether whoever asked has left. known: a schedule of these rules, than which the answer shall be no worse.
    Raises GivenUp.
    """
    effort, found = Effort(seconds, gone), candidates(problem)
    if not len(found.way):
        return Solution((), 0.0, 0.0)
    model = model_of(problem, found)
    told = _relaxed(model, effort, 0.6 * seconds)
    needed, bound = told.needed, told.bound
    tried = needed | found.held | _cheapest(found, told.spare, FEW * max(2, len(problem.nights)))
    best, value, inside = np.flatnonzero(found.held), problem.value(problem.fixed), gap / 3.0
    parts, trip = _parts(problem, found), len(problem.nights) > 1

    def offer(chosen: Ints) -> bool:
        """Whether it is better by enough to go on."""
        nonlocal best, value
        if gone():
            raise GivenUp
        before, worth = value, problem.value(found.stretches(problem, chosen))
        if worth > value:
            best, value = chosen, worth
        return value > before * (1.0 + gap / 10.0)

    def open_() -> bool:
        return bound > value * (1.0 + gap) + NOTHING and effort.left > 0.0

    offer(greedy(problem, found))
    offer(_by_head(problem, found))
    offer(_as_known(problem, found, known, effort))
    if problem.shares:
        offer(_night_by_night(problem, found, told, inside, effort))
    going, before = True, np.zeros(0, dtype=int)
    while going and open_():
        going = False
        for part in parts if not trip else ():  # a trip begins with all its nights
            going |= offer(_one_part(problem, found, best, part, inside, effort))
        trip = False
        if not open_():
            break
        tried |= _near(found, best, NEAR_SLOTS)
        answer = _chosen(model, np.flatnonzero(tried), best, effort, inside, 0.7 * effort.left)
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
        model = touching(model, hours)
    return Solution(found.stretches(problem, best), value, max(bound, value), effort.cut_short)


def as_it_is(problem: Problem, stretches: Sequence[Stretch], seconds: float = 2.0) -> Solution:
    """A schedule that somebody keeps, and the bound of the problem it is of."""
    value, found = problem.value(stretches), candidates(problem)
    bound = _relaxed(model_of(problem, found), Effort(seconds)).bound if len(found.way) else 0.0
    return Solution(tuple(stretches), value, max(bound, value))


def _places(problem: Problem, found: Candidates, stretches: Sequence[Stretch]) -> list[int | None]:
    """Stretches as columns; none for one that the rules do not allow."""
    key = {(way, begin, end): n for n, (way, begin, end) in enumerate(zip(found.way, found.begin, found.end, strict=True))}
    first, slot = problem.first, problem.rules.slot
    return [key.get((one.way, (one.first - first) // slot, (one.last - first) // slot)) for one in stretches]


def _as_known(problem: Problem, found: Candidates, known: Sequence[Stretch], effort: Effort) -> Ints:
    """A schedule that is known, as columns; nothing where it breaks a rule of this problem, by the program's own rows."""
    places = _places(problem, found, known)
    if not places or None in places or not set(np.flatnonzero(found.held)) <= set(places):
        return np.zeros(0, dtype=int)
    columns, all_of_it = np.array(places, dtype=int), np.arange(len(places))
    part = found.taken(columns)
    # All of it or nothing; the rows are those of what nobody fixed, for what a person fixes may overstep some limits.
    alone = replace(model_of(problem, part), found=replace(part, held=np.ones(len(columns), dtype=bool)))
    return columns if _chosen(alone, all_of_it, all_of_it, effort, 0.5) else columns[:0]


def _two_at_once(problem: Problem, found: Candidates, one: int, others: Ints) -> bool:
    """Whether a run would be set up while one of others is, on another rig."""
    lanes, change = lane_of(problem, found), -(-problem.rules.change // problem.rules.slot)
    close = np.abs(found.begin[others] - found.begin[one]) < change
    return bool((close & (lanes[others] != lanes[one])).any())


def refit(problem: Problem, last: Sequence[Stretch], lane: int, seconds: float = 0.3) -> Solution:
    """One lane filled in anew around what is fixed, all others as they were last: quick, and with no bound.

    Whatever of the last schedule the rules no longer allow is dropped.
    """
    found = candidates(problem)
    if not len(found.way):
        return Solution((), 0.0, 0.0)
    held = np.flatnonzero(found.held)
    kept = [place for place in _places(problem, found, last) if place is not None and not found.held[place]]
    still = [place for place in kept if not _two_at_once(problem, found, place, held)]
    best = np.array(sorted({*still, *held.tolist()}), dtype=int)
    best = _one_part(problem, found, best, lane_of(problem, found) == lane, 0.01, Effort(seconds))
    stretches = found.stretches(problem, best)
    return Solution(stretches, problem.value(stretches), np.inf)

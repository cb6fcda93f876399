"""Laws that a best schedule keeps on any night: small ones, solved to the end."""

from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widedusk.core.plan.schedule.problem import Aim, Picture, Problem, Rules, Stretch, Way
from widedusk.core.plan.schedule.schools import SCHOOLS
from widedusk.core.plan.schedule.solve import Solution, refit, solve

SLOTS, SLOT = 12, 10
EXACT = 1e-4


@st.composite
def nights(draw: st.DrawFn) -> Problem:
    """One or two rigs, up to three pictures, of which the first may have two panels."""
    minutes = np.arange(SLOTS * SLOT)
    lanes, items = draw(st.integers(1, 2)), draw(st.integers(1, 3))
    panels = draw(st.booleans()) and items > 1
    ways = []
    for lane in range(lanes):
        for aim in range(items):
            rises, length = draw(st.integers(0, 80)), draw(st.integers(10, 120))
            shape = draw(st.floats(0.1, 1.0)) * (1.0 + draw(st.floats(-0.5, 0.5)) * np.sin(minutes / 40.0)) / 60.0
            worth = shape * ((minutes >= rises) & (minutes < rises + length))
            ways.append(Way(aim, lane, worth, worth > 0, worth > 0))
    of = [max(number - panels, 0) for number in range(items)]
    pictures = [Picture(draw(st.sampled_from([0.5, 1.0, 2.0]))) for _ in range(max(of) + 1)]
    aims = [Aim(one, draw(st.sampled_from([0.0, 0.3, 2.0]))) for one in of]
    return Problem(pictures, aims, ways, 0, SLOTS, Rules(SLOT, draw(st.sampled_from([0, 5, 10])), 10))


def best(problem: Problem) -> Solution:
    found = solve(problem, gap=EXACT, seconds=60.0)  # a busy machine is slow, not wrong
    assert found.value >= found.bound * (1.0 - 1.1 * EXACT) - 1e-6
    return found


@pytest.mark.parametrize(("high", "bent"), [(0.65819210681384, 0.4950965052353241), (0.963169878427698, -0.13059558890831913)])
def test_what_the_solver_gives_up_in_one_way_is_solved_in_another(high, bent):
    """Two panels in one night, for which HiGHS answers neither a solution nor that there is none. The best by brute force."""
    minutes, ways = np.arange(SLOTS * SLOT), []
    for aim, (shape, rises, sets) in enumerate(((high * (1.0 + bent * np.sin(minutes / 40.0)), 17, 67), (0.5625, 13, 84))):
        worth = shape / 60.0 * ((minutes >= rises) & (minutes < sets))
        ways.append(Way(aim, 0, worth, worth > 0, worth > 0))
    night = Problem([Picture(0.5)], [Aim(0, 0.3), Aim(0)], ways, 0, SLOTS, Rules(SLOT, 0, 10))
    edges = range(10, 91, SLOT)
    apart = [(a, b, c, d) for a, b, c, d in product(edges, repeat=4) if a < b and c < d and (b <= c or d <= a)]
    most = max(night.value([Stretch(0, a, b), Stretch(1, c, d)]) for a, b, c, d in apart)
    assert best(night).value == pytest.approx(most, rel=2 * EXACT)


@settings(max_examples=12)
@given(nights(), st.integers(0, 5), st.integers(5, 60))
def test_more_window_never_lowers_the_total(problem, number, more):
    before = best(problem)
    way = problem.ways[number % len(problem.ways)]
    last = int(np.flatnonzero(way.open)[-1]) + 1
    worth = way.worth_h.copy()
    worth[last : last + more] = worth[last - 1]
    ways = [replace(way, worth_h=worth, open=worth > 0, seen=worth > 0) if one is way else one for one in problem.ways]
    assert best(replace(problem, ways=ways)).value >= before.value * (1.0 - 2 * EXACT)


@settings(max_examples=12)
@given(nights(), st.integers(0, 2), st.floats(0.1, 0.9))
def test_a_lower_weight_never_gives_a_picture_more(problem, number, share):
    number %= len(problem.pictures)
    lowered = [replace(one, weight=one.weight * share) if n == number else one for n, one in enumerate(problem.pictures)]
    less = replace(problem, pictures=lowered)
    before, after = (problem.gains(problem.gathered(best(one).stretches))[number] for one in (problem, less))
    assert after <= before + 1e-3 * max(before, 0.1)


@settings(max_examples=12)
@given(nights())
def test_fixing_the_best_changes_nothing_and_no_school_beats_it(problem):
    found = best(problem)
    again = best(replace(problem, fixed=found.stretches))
    assert set(again.stretches) >= set(found.stretches)
    assert again.value <= found.value * (1.0 + 2 * EXACT)
    for lane in range(problem.lanes):
        quick = refit(replace(problem, fixed=found.stretches[:1]), found.stretches, lane, seconds=5.0)
        assert set(quick.stretches) >= set(found.stretches[:1])
        assert quick.value <= found.value * (1.0 + 2 * EXACT)
    for school in SCHOOLS.values():
        slots = [one for one in school(problem) if one.first % SLOT == 0 and one.last % SLOT == 0]
        assert problem.value(slots) <= found.value * (1.0 + 2 * EXACT)


@settings(max_examples=60)
@given(nights())
def test_schools_too_change_one_rig_after_the_other(problem):
    for name, school in SCHOOLS.items():
        made = sorted(school(problem), key=lambda one: one.first)
        assert all(later.first - one.first >= problem.rules.change for one, later in pairwise(made)), name
        for lane in range(problem.lanes):
            mine = [one for one in made if problem.ways[one.way].lane == lane]
            assert all(one.last <= later.first for one, later in pairwise(mine)), name


@settings(max_examples=12)
@given(nights(), st.integers(20, 80), st.integers(1, 60))
def test_a_memory_card_is_never_overfull_and_a_larger_one_never_brings_less(problem, holds, more):
    ways = [replace(way, frames_min=1.0) for way in problem.ways]
    small, large = (replace(problem, ways=ways, room=[float(room)] * problem.lanes) for room in (holds, holds + more))
    tight, loose = best(small), best(large)
    for lane in range(problem.lanes):
        mine = [one for one in tight.stretches if problem.ways[one.way].lane == lane]
        frames = sum((problem.ways[one.way].worth_h[one.first + problem.rules.change : one.last] > 0).sum() for one in mine)
        assert frames <= holds
    assert loose.value >= tight.value * (1.0 - 2 * EXACT)

"""A search is limited by what it does and not by the clock: a busy machine is slow, not wrong."""

import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from benchmarks.whole_night import night as a_night
from tests.conftest import a_rig, a_spot
from tests.outside.test_trips_planned import FIRST, a_trip
from tests.outside.test_whole_night import broken_rules, stand, wish
from widedusk.core.plan.outlook import outlook
from widedusk.core.plan.schedule import effort
from widedusk.core.plan.schedule.compose import Limits, composed, solved
from widedusk.core.plan.schedule.problem import Picture, Problem
from widedusk.core.plan.schedule.runs import left_out, runs_of
from widedusk.core.plan.schedule.solve import Solution, solve
from widedusk.core.plan.schedule.whole import against_even
from widedusk.core.sky.time import mjd_from_datetime

NAMES = ("nine panels", "two rigs", "a trip")
BURNS = "while True: pass"


@pytest.fixture
def busy() -> Iterator[None]:
    for name in NAMES:
        idle(name)
    others = [subprocess.Popen([sys.executable, "-c", BURNS]) for _ in range(4)]
    yield
    for one in others:
        one.kill()
        one.wait()


def hard() -> dict[str, Problem]:
    """Nights of which the search is always ended by its limit, or comes close to it."""
    return {
        "nine panels": a_night(9, 1, 60, 10, 1, alike=True, tied=True),
        "two rigs": a_night(4, 2, 60, 10, 2, alike=True),
        "a trip": a_trip(2, "all").problem,
    }


@cache
def idle(name: str) -> Solution:
    return solve(hard()[name], gap=1e-4, seconds=0.5)


@pytest.mark.parametrize("name", NAMES)
def test_the_same_question_has_the_same_answer_on_a_busy_machine(name, busy):
    again = solve(hard()[name], gap=1e-4, seconds=0.5)
    assert again.stretches == idle(name).stretches and again.bound == idle(name).bound
    assert not again.cut_short and again.gap > 1e-4


@pytest.mark.parametrize("name", NAMES)
def test_less_than_is_known_is_never_returned(name):
    problem = hard()[name]
    least = solve(problem, gap=1e-4, seconds=0.02, known=idle(name).stretches)
    assert least.value >= idle(name).value
    assert solve(problem, gap=1e-4, seconds=0.02).value <= idle(name).bound + 1e-9


def test_what_is_known_is_not_taken_where_it_breaks_a_rule():
    """Less of a picture than “so much or nothing”, more of it than at most, two rigs set up at once: the solver finds its own."""
    free = a_night(2, 2, 40, 10, 3, alike=True)
    best = solve(free, gap=1e-4, seconds=2.0)
    at_least = replace(free, pictures=[Picture(1.0, 2.0 * float(free.gathered(best.stretches).max())), Picture()])
    at_most = replace(free, most_min=(60.0, 60.0))
    at_once = tuple(replace(one, first=0, last=200) for one in {free.ways[one.way].lane: one for one in best.stretches}.values())
    for problem, known in ((at_least, best.stretches), (at_most, best.stretches), (free, at_once)):
        found = solve(problem, gap=1e-4, seconds=0.3, known=known)
        assert set(found.stretches) != set(known)
        assert not broken_rules(problem, found.stretches)
    assert solve(at_most, gap=1e-4, seconds=0.3, known=best.stretches).value < best.value


def test_a_search_that_a_far_too_busy_machine_ends_says_so(monkeypatch):
    real, late = time.monotonic, iter(range(0, 10_000, 5))
    monkeypatch.setattr(effort.time, "monotonic", lambda: real() + next(late))
    assert solve(hard()["two rigs"], gap=1e-6, seconds=0.5).cut_short


def test_who_left_is_not_searched_for():
    with pytest.raises(effort.GivenUp):
        solve(hard()["nine panels"], gap=1e-6, seconds=20.0, gone=lambda: True)


def test_no_reason_is_given_that_is_not_true():
    """With one target alone nothing else gains from the time; each reason is held against the night itself."""
    rigs = [stand("long", a_rig(135)), stand("wide", a_rig(100))]
    for evening, limits in ((FIRST, Limits()), (FIRST, Limits("23:00", "02:00"))):
        made, found = solved(composed(rigs, [wish("two", 83.8, -5.4)], a_spot(-24.6), evening, limits))
        runs = runs_of(made, found.stretches)
        assert len(runs) >= 2
        told = {run.begins_with for run in runs}
        assert not any("others" in words for words in told), told
        no_better = "no earlier start was found to gain more"
        aligned = "all axes are aligned"
        assert told <= {"its window opens", "the run before ends", "the other rig is set up", "you wake", no_better, aligned}
        for run in (run for run in runs if run.begins_with == aligned):  # stars are out at −9°, and each axis takes 15 min
            sun = np.degrees(made.night.sun_altitude[round((mjd_from_datetime(run.change_at) - made.night.mjd[0]) * 1440) - 30])
            assert -12.0 < sun < -8.9
        second = max(runs, key=lambda run: run.change)
        if second.begins_with == "the other rig is set up":
            assert any(abs(one.change - second.change) <= 15 for one in runs if one.stand != second.stand)
    asks_too_much = [wish("two", 83.8, -5.4, least_h=20.0)]
    made, found = solved(composed(rigs[:1], asks_too_much, a_spot(-24.6), FIRST, Limits()))
    (left,) = left_out(made, runs_of(made, found.stretches), a_spot(-24.6), FIRST)
    assert "20 h or nothing" in left.reason and "Others" not in left.reason


def test_hours_at_most_are_kept_to_as_on_tonight():
    """Counted by hand from the clocks of the runs; Tonight's own card keeps to the same hours."""
    spot, target = a_spot(-24.6), wish("two", 83.8, -5.4)
    for most_h in (None, 2.0):
        rigs = [stand("long", a_rig(135), most_hours=most_h), stand("wide", a_rig(100))]
        made, found = solved(composed(rigs, [target, wish("one", 161.0, -59.7)], spot, FIRST, Limits()))
        runs = runs_of(made, found.stretches)
        hours = {
            rig: sum((run.ends_at - run.begins_at).total_seconds() for run in runs if (run.stand, run.wish) == (rig, 0)) / 3600
            for rig in range(2)
        }
        alone, order = solved(composed(rigs[:1], [target], spot, FIRST, Limits()))
        (run,) = runs_of(alone, order.stretches)
        card = outlook(rigs[0].rig, spot, FIRST, target.target, rigs[0].choices).card
        if most_h:
            assert hours[0] <= most_h + 1e-6
            # Whole slots, and the share of looks at axis and focus, take up to a tenth of what the card says.
            assert 0.9 * card.frames <= run.frames <= card.frames and run.frames * run.exposure_s <= most_h * 3600
            assert run.begins_with in {"its best hours begin", "its window opens"}
        else:
            assert run.frames > 2.0 * 3600 / run.exposure_s
    assert "neither card nor hours" in against_even(-5.0, 5, limited=True)

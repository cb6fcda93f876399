"""How heads share a night, worked out by hand on nights a person can see through; and what is said of an order."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from widedusk.core.plan.schedule.problem import Aim, Picture, Problem, Rules, Stretch, Way
from widedusk.core.plan.schedule.schools import best_first, by_setting, even_split, one_target
from widedusk.core.plan.schedule.solve import Solution, as_it_is, refit, solve
from widedusk.core.plan.schedule.whole import against_even, proof_words

MINUTES = 240


def way(aim: int, rises: int, sets: int, worth: float = 1.0, lane: int = 0) -> Way:
    open_ = (np.arange(MINUTES) >= rises) & (np.arange(MINUTES) < sets)
    return Way(aim, lane, open_ * worth / 60.0, open_, open_)


def night(*ways: Way, change: int = 10) -> Problem:
    items = max(one.aim for one in ways) + 1
    return Problem([Picture()] * items, [Aim(n) for n in range(items)], ways, 0, MINUTES // 10, Rules(10, change, 20))


EARLY_AND_LATE = night(way(0, 0, 160), way(1, 80, 240))


def test_an_even_split_halves_the_night_and_clips_to_the_windows():
    assert even_split(EARLY_AND_LATE) == [Stretch(0, 0, 120), Stretch(1, 120, 240)]
    short = night(way(0, 0, 60), way(1, 80, 240))
    assert even_split(short) == [Stretch(0, 0, 60), Stretch(1, 120, 240)]
    too_short = night(way(0, 0, 25), way(1, 0, 240))
    assert even_split(too_short) == [Stretch(1, 120, 240)]  # a change and 15 min are no run


def test_one_target_takes_the_better_window_and_the_best_first_leaves_the_rest():
    assert one_target(night(way(0, 0, 100), way(1, 80, 240))) == [Stretch(1, 80, 240)]
    assert best_first(night(way(0, 0, 160), way(1, 80, 240, 3.0))) == [Stretch(0, 0, 80), Stretch(1, 80, 240)]
    assert by_setting(EARLY_AND_LATE) == [Stretch(0, 0, 160), Stretch(1, 160, 240)]


def test_two_rigs_are_not_set_up_at_once_by_head_either():
    both = night(way(0, 0, 240), way(1, 0, 240), way(0, 0, 240, lane=1), way(1, 0, 240, lane=1))
    starts = sorted(one.first for one in even_split(both))
    assert all(later - earlier >= 10 for earlier, later in pairwise(starts))


def test_the_best_of_two_equal_targets_is_half_each_and_worth_what_the_root_says():
    alike = night(way(0, 0, 240), way(1, 0, 240))
    found = solve(alike, gap=1e-6)
    assert sorted(alike.gathered(found.stretches)) == pytest.approx([110 / 60, 110 / 60])
    assert found.value == pytest.approx(2 * np.sqrt(110 / 60))
    assert found.gap < 1e-5
    kept = as_it_is(alike, even_split(alike))
    assert kept.value == pytest.approx(found.value)
    assert found.value <= kept.bound < found.value * 1.02
    worse = as_it_is(alike, [Stretch(0, 0, 60)])
    assert worse.gap > 1.0


@pytest.mark.parametrize("worth", [1.0, 0.02, 0.0005])
def test_a_poor_sky_makes_an_order_no_less_sure(worth):
    """All hours by the same share less: the same order, and worth the root of that share."""
    ways = [way(0, 0, 200, worth), way(1, 40, 240, worth), way(2, 90, 180, worth)]
    rich, poor = solve(night(way(0, 0, 200), way(1, 40, 240), way(2, 90, 180)), gap=1e-5), solve(night(*ways), gap=1e-5)
    assert poor.value == pytest.approx(rich.value * np.sqrt(worth), rel=1e-4)
    assert poor.gap < 1e-4


def test_a_lane_without_anything_to_shoot_stays_empty():
    dark = night(way(0, 0, 0))
    assert solve(dark).stretches == refit(dark, [], 0).stretches == ()
    assert even_split(dark) == best_first(dark) == by_setting(dark) == one_target(dark) == []


@pytest.mark.parametrize(
    ("gap", "words"),
    [
        (0.0, "No other order"),
        (0.0004, "No other order"),
        (0.0061, "brings 0.7 % more"),
        (0.03, "brings 3 % more"),
        (np.inf, "looked for"),
    ],
)
def test_how_good_an_order_is_is_never_rounded_in_its_favour(gap, words):
    assert words in proof_words(Solution((), 1.0, 1.0 + gap))
    assert "too busy" not in proof_words(Solution((), 1.0, 1.0 + gap))
    assert "too busy" in proof_words(Solution((), 1.0, 1.0 + min(gap, 1.0), cut_short=True))


def test_a_moved_run_leaves_the_rest_where_no_time_is_left_to_look_and_nobody_sets_up_two_at_once():
    both = night(way(0, 0, 240), way(1, 0, 240), way(0, 0, 240, lane=1), way(1, 0, 240, lane=1))
    last = [Stretch(0, 0, 120), Stretch(1, 120, 240), Stretch(2, 10, 130), Stretch(3, 130, 240)]
    moved = replace(both, fixed=[Stretch(0, 0, 110)])
    found = refit(moved, last, 0, seconds=0.0)
    assert {Stretch(0, 0, 110), *last[2:]} < set(found.stretches)
    assert [one.way for one in found.stretches if both.ways[one.way].lane == 0] == [0, 1]
    clash = replace(both, fixed=[Stretch(0, 130, 240)])  # as the other rig is changed
    assert last[3] not in refit(clash, last, 0, seconds=5.0).stretches


def test_whoever_fixes_runs_in_the_sleep_is_woken_for_them_and_for_no_more():
    sleepy = night(way(0, 0, 240), way(1, 0, 240), way(2, 0, 240))
    rules = replace(sleepy.rules, asleep=((60, 180),), awakenings=1)
    fixed = [Stretch(0, 60, 100), Stretch(1, 140, 180)]
    found = solve(replace(sleepy, rules=rules, fixed=fixed), gap=1e-4)
    assert set(fixed) < set(found.stretches)
    assert all(one in fixed or one.first + 10 <= 60 or one.first >= 180 or 60 <= one.first < 90 for one in found.stretches)


def test_an_even_split_off_the_slots_may_be_better_and_is_said_to_be():
    thirds = night(way(0, 0, 220), way(1, 0, 220), way(2, 0, 220))  # 220 min make no three runs of whole slots
    by_head, found = thirds.value(even_split(thirds)), solve(thirds, gap=1e-6)
    assert found.value < by_head < found.value * 1.01
    assert "off the 10 min" in against_even(-0.8, 10)
    assert against_even(0.2, 10) == "An even split would be as good."
    assert "gains 5 %" in against_even(5.1, 10)

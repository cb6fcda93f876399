"""What a minute of a rig on a target is worth: the meridian, the battery, the sleep, and what is asked that cannot be."""

from datetime import date

import numpy as np
import pytest

from tests.conftest import a_rig, a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.parts import Bracket, Counterweight
from widedusk.core.kit.parts import Rig as CoreRig
from widedusk.core.kit.power import Swap
from widedusk.core.plan.schedule.compose import MOST_AIMS, Limits, composed, solved
from widedusk.core.plan.schedule.runs import left_out, runs_of
from widedusk.core.plan.schedule.worth import SWAP_MIN, Current, PanelWish, Stand, Wish, taken, ways_of
from widedusk.core.scene import Target

EVENING, SPOT = date(2026, 12, 9), a_spot(-24.6)
HIGH = Wish(Target("high", 80.0, -40.0, 2.0, 22.0), [PanelWish("", 80.0, -40.0)])  # highest about midnight
MINUTES = 1441


def bracketed(**choices: object) -> Stand:
    """On a bracket against a counterweight; the parts stand for themselves, the rig is that of other tests."""
    plain = a_rig(135)
    parts = [Placed(Bracket("bracket", 300)), Placed(Counterweight("weight", 1000))]
    rig = CoreRig(plain.name, plain.camera, plain.lens, plain.tracker, "bracket")
    return Stand("bracketed", rig, Choices(**choices), Assembly("bracketed", tuple(parts)))


def ways(
    stand: Stand, power: Current | None = None, asleep: tuple[int, int] | None = None, between: tuple[int, int] = (0, MINUTES)
):
    found = taken(stand, HIGH, SPOT, EVENING)
    return ways_of([found], 0, [0], [found.best_pace], power or Current(MINUTES), asleep, between), found


def test_at_the_meridian_the_camera_is_turned_waits_or_goes_on():
    (before, after), found = ways(bracketed(past_meridian_min=30))
    top = int(np.argmax(found.paths[0].altitude))
    assert [before.side, after.side] == [-1, 1]
    for way, sign in ((before, 1), (after, -1)):
        edge = np.flatnonzero(way.open)[-1 if sign > 0 else 0]
        assert edge == pytest.approx(top + sign * 30, abs=2)  # half an hour past the meridian, as an hour angle
    (waits,), _ = ways(bracketed(meridian_school="wait", past_meridian_min=0))
    assert np.flatnonzero(waits.open)[0] == pytest.approx(top, abs=1)
    (ignores,), _ = ways(bracketed(meridian_school="ignore"))
    assert ignores.open.sum() == (before.open | after.open).sum()
    assert len(ways(Stand("head", a_rig(135), Choices()))[0]) == 1  # nothing to turn over on a ball head


def test_a_battery_takes_five_minutes_or_the_rest_of_the_night_where_nobody_is_up():
    stand = Stand("rig", a_rig(135), Choices())
    (plain,), _ = ways(stand)
    middle = int(np.flatnonzero(plain.open)[200])
    (swapped,), _ = ways(stand, Current(MINUTES, (Swap(middle, "cell 1", "cell 2"),)))
    assert swapped.open.sum() == plain.open.sum()
    assert np.count_nonzero(plain.worth_h) - np.count_nonzero(swapped.worth_h) == SWAP_MIN
    (slept,), _ = ways(stand, Current(MINUTES, (Swap(middle, "cell 1", "cell 2"),)), (middle - 30, middle + 30))
    assert np.flatnonzero(slept.open)[-1] == middle - 1
    assert slept.fed_until == middle
    (empty,), _ = ways(stand, Current(middle))
    assert np.array_equal(empty.open, slept.open)
    (late,), _ = ways(stand, between=(middle, MINUTES))
    assert np.flatnonzero(late.open)[0] == middle


def test_a_filter_that_shuts_the_target_out_and_a_night_without_darkness_leave_nothing_and_say_so():
    white = a_spot(66.0)
    made, found = solved(composed([Stand("rig", a_rig(135), Choices())], [HIGH], white, date(2026, 6, 21), Limits()))
    assert found.stretches == ()
    (left,) = left_out(made, runs_of(made, found.stretches), white, date(2026, 6, 21))
    assert left.reason
    assert left.returns is None  # never high enough up there


def test_earlier_nights_count_and_a_panel_without_a_window_does_not_hold_up_the_others():
    low = [PanelWish("panel 1", 80.0, -40.0), PanelWish("panel 2", 80.0, 75.0)]
    made, found = solved(composed([Stand("rig", a_rig(135), Choices())], [Wish(HIGH.target, low)], SPOT, EVENING, Limits()))
    runs = runs_of(made, found.stretches)
    assert {run.panel for run in runs} == {0}
    assert [one.panel for one in left_out(made, runs, SPOT, EVENING)] == [1]
    had = [PanelWish("panel 1", 80.0, -40.0, 1e6), PanelWish("panel 2", 84.0, -40.0)]
    made, found = solved(composed([Stand("rig", a_rig(135), Choices())], [Wish(HIGH.target, had)], SPOT, EVENING, Limits()))
    assert {run.panel for run in runs_of(made, found.stretches)} == {1}  # the first has more than the other can get this night
    assert made.problem.gathered(found.stretches)[1] > 3.0


def test_too_much_and_too_little_is_refused_in_words():
    stand = Stand("rig", a_rig(135), Choices())
    many = Wish(HIGH.target, [PanelWish(f"panel {n}", 80.0, -40.0) for n in range(MOST_AIMS + 1)])
    with pytest.raises(InvalidInput, match=f"up to {MOST_AIMS}"):
        composed([stand], [many], SPOT, EVENING, Limits())
    with pytest.raises(InvalidInput, match="1 to 6 rigs"):
        composed([stand] * 7, [HIGH], SPOT, EVENING, Limits())
    with pytest.raises(InvalidInput, match="awakenings"):
        composed([stand], [HIGH], SPOT, EVENING, Limits("01:00", "04:00", 99))

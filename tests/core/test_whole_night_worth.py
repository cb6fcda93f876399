"""What a minute of a rig on a target is worth: the meridian, the battery, the sleep, and what is asked that cannot be."""

from dataclasses import replace
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
from widedusk.core.plan.schedule.whole import whole_night
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


def test_a_target_that_is_a_spot_in_the_frame_is_planned_only_where_somebody_ticks_it():
    """15′ of a frame: its share by hand, from the short side of the sensor and the focal length."""
    pair = Wish(Target("pair", 80.0, -40.0, 0.25, 22.0), [PanelWish("", 80.0, -40.0)])
    stands = [Stand("wide", a_rig(50), Choices()), Stand("long", a_rig(250), Choices())]

    def planned(chosen: frozenset[tuple[int, int]] = frozenset(), wish: Wish = pair, rigs: list[Stand] = stands):
        made, found = solved(composed(rigs, [wish], SPOT, EVENING, Limits(), chosen=chosen), (), 0.3)
        return made, whole_night(made, found, SPOT, EVENING)

    made, whole = planned()
    assert {one.run.stand for one in whole.runs} == {1}
    assert [(one.stand, one.suits, one.on) for one in whole.suits] == [(0, False, False), (1, True, True)]
    side = made.stands[0].rig.camera.height_mm
    assert whole.suits[0].share_percent == pytest.approx(25.0 / np.degrees(2 * np.arctan(side / 2 / 50)), rel=1e-6)
    assert {one.run.stand for one in planned(frozenset({(0, 0)}))[1].runs} == {0, 1}
    assert {one.run.stand for one in planned(wish=replace(pair, framed=True))[1].runs} == {0, 1}
    (left,) = planned(rigs=stands[:1])[1].left
    assert "too small" in left.reason and "wide" in left.reason and "Tick" in left.reason


def test_signal_to_noise_is_told_of_each_stack_and_never_added():
    """By hand from the runs: of one rig the root of the sum of the squares, times its own scale."""
    stands = [Stand("wide", a_rig(50), Choices()), Stand("long", a_rig(250), Choices())]
    made, found = solved(composed(stands, [HIGH], SPOT, EVENING, Limits()), (), 0.3)
    (total,) = whole_night(made, found, SPOT, EVENING).totals
    runs = runs_of(made, found.stretches)
    assert [one.stand for one in total.stacks] == [0, 1]
    for stack in total.stacks:
        rig = made.stands[stack.stand].rig
        scale = 206.265 * rig.camera.pitch_um / rig.lens.focal_mm
        mine = [run for run in runs if run.stand == stack.stand]
        assert stack.frames == sum(run.frames for run in mine)
        assert stack.snr == pytest.approx(scale * np.sqrt(sum(run.signal for run in mine)), rel=1e-4)
    assert "with wide and" in total.verdict.sentence


def test_every_choice_of_tonight_holds_in_the_schedule_too():
    """Changed one by one: frames, sub, ISO, aperture, window and hours of a single rig's night follow, or the night is shorter."""

    def night(evening: date = EVENING, **how: object):
        stand = Stand("rig", a_rig(135), Choices(**how))  # type: ignore[arg-type]
        made, found = solved(composed([stand], [HIGH], SPOT, evening, Limits()), (), 0.2)
        runs = runs_of(made, found.stretches)
        return runs, sum(run.frames * run.exposure_s for run in runs) / 3600.0

    plain, hours = night()
    first = plain[0]
    moonlit = date(2026, 12, 18)  # a day past first quarter
    respected = {
        "most_hours": lambda: night(most_hours=3.0)[1] <= 3.0 + first.exposure_s / 3600.0,
        "fixed_sub_s": lambda: {run.exposure_s for run in night(sub_school="fixed", fixed_sub_s=45.0)[0]} == {45.0},
        "iso": lambda: {run.iso for run in night(iso=1600)[0]} == {1600},
        "f_number": lambda: {run.f_number for run in night(f_number=8.0)[0]} == {8.0},
        "min_altitude_deg": lambda: night(min_altitude_deg=60.0)[1] < hours,
        "moon_limit_mag": lambda: night(moonlit, moon_limit_mag=0.0)[1] < night(moonlit)[1],
        "darkness": lambda: night(darkness="nautical")[1] > hours,
        "gap_s": lambda: night(gap_s=30.0)[1] < hours,
        "noise_reduction": lambda: night(noise_reduction="on")[1] < 0.6 * hours,
        "change_min": lambda: night(change_min=60)[1] < hours,
        "setup_time": lambda: night(setup_time="23:00")[0][0].begins_at > first.begins_at,
        "card_gb": lambda: sum(run.frames for run in night(card_gb=4.0)[0]) < sum(run.frames for run in plain),
    }
    assert not [name for name, holds in respected.items() if not holds()]

"""Laws of Framing for every sky: turned as a whole nothing changes, there and back is nowhere, and words say what is meant."""

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.conftest import a_spot
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput, storable
from widedusk.core.framing.compose import compose, composed_verdict
from widedusk.core.framing.frame import Frame, Subject, axes, corners, ra_dec_deg
from widedusk.core.framing.framing import Framing
from widedusk.core.framing.nudge import (
    AGAIN_PX,
    Nudge,
    axes_words,
    ball_words,
    carried_angle_deg,
    nudge,
    nudge_verdict,
    side_words,
    turn_words,
)
from widedusk.core.framing.pair import pair
from widedusk.core.framing.panel_file import read_panels, write_panels
from widedusk.core.framing.panels import fewest, lay
from widedusk.core.night.windows import clock_mjd, night_at
from widedusk.core.plan.panel_nights import panel_nights, panels_verdict
from widedusk.core.scene import Target

places = st.tuples(st.floats(0, 359.99), st.floats(-85, 85))
angles = st.floats(0, 359.99)


def off_deg(one: float, other: float) -> float:
    """Between two angles, the short way round."""
    return abs((one - other + 180.0) % 360.0 - 180.0)


def frame_of(rows: np.ndarray, wide: float, high: float) -> Frame:
    """A frame whose right, up and towards are these rows."""
    ra, dec = (float(one) for one in ra_dec_deg(rows[2]))
    north_up = axes(ra, dec, 0.0)
    angle = float(np.degrees(np.arctan2(-rows[1] @ north_up[0], rows[1] @ north_up[1])) % 360.0)
    return Frame(ra, dec, angle, wide, high)


@settings(max_examples=60, deadline=None)
@given(places, angles)
def test_axes_are_three_right_angles_and_the_corners_lie_round_the_middle(place, angle):
    frame = Frame(*place, angle, 12.0, 8.0)
    rows = axes(*place, angle)
    assert rows @ rows.T == pytest.approx(np.eye(3), abs=1e-12)
    assert np.cross(rows[2], rows[1]) == pytest.approx(rows[0], abs=1e-12)  # right is ahead × up, as one who looks has it
    assert off_deg(frame_of(rows, 12.0, 8.0).angle_deg, angle) < 1e-5
    assert corners(frame).mean(axis=0) @ rows[2] == pytest.approx(np.linalg.norm(corners(frame).mean(axis=0)), abs=1e-9)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_composition_does_not_care_where_in_the_sky_it_is(seed):
    rng = np.random.default_rng(seed)
    turn = Rotation.random(rng=rng)
    near = [(rng.uniform(-3, 3), rng.uniform(-2, 2)) for _ in range(rng.integers(2, 6))]
    here = [Subject(f"{n}", 180.0 + x, y) for n, (x, y) in enumerate(near)]
    ra, dec = (np.radians([getattr(one, name) for one in here]) for name in ("ra_deg", "dec_deg"))
    vectors = np.stack([np.cos(dec) * np.cos(ra), np.cos(dec) * np.sin(ra), np.sin(dec)], axis=1)
    moved_ra, moved_dec = ra_dec_deg(turn.apply(vectors))
    there = [replace(one, ra_deg=float(a), dec_deg=float(d)) for one, a, d in zip(here, moved_ra, moved_dec, strict=True)]
    first, second = compose(here, 9.0, 6.0), compose(there, 9.0, 6.0)
    assert second.margin_deg == pytest.approx(first.margin_deg, abs=1e-4)
    assert second.fits_up_to == pytest.approx(first.fits_up_to, rel=1e-4)
    assert second.cut == first.cut
    # More can never be held with more to spare.
    assert compose(here[:-1], 9.0, 6.0).margin_deg >= first.margin_deg - 1e-4  # angles are narrowed to 0.0001°


@settings(max_examples=60, deadline=None)
@given(places, angles, st.floats(-8, 8), st.floats(-8, 8), st.floats(-40, 40))
def test_a_nudge_back_is_the_nudge_there_turned_round(place, angle, ra_off, dec_off, turn):
    here = Frame(*place, angle, 12.0, 8.0)
    dec = float(np.clip(place[1] + dec_off, -89, 89))
    there = Frame((place[0] + ra_off) % 360.0, dec, (angle + turn) % 360.0, 12.0, 8.0)
    one, two = nudge(here, there), nudge(there, here)
    assert one.apart_deg == pytest.approx(two.apart_deg, abs=1e-9)
    assert one.west_min == pytest.approx(-two.west_min, abs=1e-9) and one.north_deg == pytest.approx(-two.north_deg, abs=1e-9)
    assert one.west_min == pytest.approx(-ra_off * 4.0, abs=1e-6)  # right ascension grows to the east
    assert (one.turn_deg + two.turn_deg + 90) % 180 - 90 == pytest.approx(0, abs=1e-6)
    mirrored = nudge(here, there, mirrored=True)
    if one.right_frames is not None:
        assert mirrored.right_frames == pytest.approx(-one.right_frames) and mirrored.turn_deg == pytest.approx(-one.turn_deg)
    assert off_deg(carried_angle_deg(here, axes(*place, angle)[2]), angle) < 1e-6


def a_nudge(**more: object) -> Nudge:
    usual = {"apart_deg": 3.0, "west_min": 4.0, "north_deg": -2.0, "turn_deg": 5.0, "ball_turn_deg": -6.0}
    return Nudge(**{**usual, "right_frames": 0.4, "down_frames": -0.3, "there": False, **more})  # type: ignore[arg-type]


def test_a_nudge_in_words_names_the_side_the_axis_and_the_turn():
    told = a_nudge()
    assert axes_words(told) == "right ascension 4.0 min (1.00°) west, declination 2.00° south"
    assert side_words(told) == "0.40 of its width to the right and 0.30 of its height up from the middle"
    assert ball_words(told) == "swing the camera up by 0.30 of the picture's height and right by 0.40 of its width"
    assert turn_words(told.turn_deg) == "5.0° counter-clockwise, as you look through it"
    east = a_nudge(west_min=-4.0, north_deg=2.0, right_frames=-0.4, down_frames=0.3)
    assert "east" in axes_words(east) and "north" in axes_words(east)
    assert "left" in ball_words(east) and "down" in ball_words(east)
    behind = a_nudge(right_frames=None, down_frames=None)
    assert side_words(behind) == "behind the camera" and "right round" in ball_words(behind) and behind.off_frames == np.inf
    middle = a_nudge(right_frames=0.0, down_frames=0.0)
    assert side_words(middle) == "in the middle" and ball_words(middle) == "leave the camera where it looks"


def test_the_verdict_tells_the_rig_s_own_motions_and_when_it_is_there():
    bracket = nudge_verdict(a_nudge(), "the cloud", "bracket")
    ball = nudge_verdict(a_nudge(), "the cloud", "ball head")
    assert "turn right ascension" in bracket.sentence and "5.0° counter-clockwise" in bracket.advice
    assert "swing the camera" in ball.sentence and "6.0° clockwise" in ball.advice
    assert {one.name for one in bracket.limits if one.binds} == {"Off the middle", "Turned"}
    there = nudge_verdict(a_nudge(there=True, turn_deg=0.1), "the cloud", "bracket")
    assert there.level == "go" and there.sentence.startswith("There: you are on the cloud.") and not there.advice
    again = nudge_verdict(a_nudge(there=True, turn_deg=0.1), "the cloud", "bracket", "8 Dec 2026")
    assert "as on 8 Dec 2026" in again.sentence and f"{AGAIN_PX:.0f} px" in again.binding


@settings(max_examples=30, deadline=None)
@given(places, angles, st.integers(1, 4), st.integers(1, 4), st.floats(0, 0.5))
def test_panels_of_a_framing_turned_by_half_are_the_same_panels(place, angle, columns, rows, overlap):
    """A frame upside down is the same frame: the same field, cut the same way from the other end."""
    frame = Frame(*place, angle, 5.0, 3.4)
    one = lay(frame, columns, rows, overlap)
    two = lay(replace(frame, angle_deg=(angle + 180.0) % 360.0), columns, rows, overlap)
    middles = [np.array([axes(each.frame.ra_deg, each.frame.dec_deg, 0.0)[2] for each in laid.panels]) for laid in (one, two)]
    apart = np.linalg.norm(middles[0][:, None] - middles[1][None], axis=2)
    assert apart.min(axis=0).max() < 1e-6 and apart.min(axis=1).max() < 1e-6
    assert one.overlap == pytest.approx(two.overlap, abs=1e-6)
    # One axis moves at a time: neighbours in the order differ in the row or in the column, never in both.
    steps = [(b.row - a.row, b.column - a.column) for a, b in zip(one.panels, one.panels[1:], strict=False)]
    assert all((row == 0) != (column == 0) and abs(row) + abs(column) == 1 for row, column in steps)


@settings(max_examples=25, deadline=None)
@given(places, angles, st.floats(-20, 20), st.floats(-15, 15), st.floats(-90, 90))
def test_two_cameras_see_as_much_of_each_other_from_either_side(place, angle, right, up, turn):
    first = Frame(*place, angle, 20.0, 13.0)
    found = pair(first, (20.0, 13.0), right, up, turn)
    assert 0.0 <= found.of_first <= 1.0 and found.of_first == pytest.approx(found.of_second, abs=0.03)
    assert found.either_deg2 >= found.both_deg2
    itself = pair(first, (20.0, 13.0), 0.0, 0.0, 0.0)
    assert itself.of_first == pytest.approx(1.0) and itself.both_deg2 == pytest.approx(itself.either_deg2)


def test_what_no_second_camera_can_do_is_named():
    with pytest.raises(InvalidInput) as caught:
        pair(Frame(10.0, 10.0, 0.0, 20.0, 13.0), (20.0, 13.0), 80.0, -70.0, 0.0)
    assert {one.field for one in caught.value.faults} == {"right_deg", "up_deg"}


@settings(max_examples=80, deadline=None)
@given(st.binary(max_size=400))
def test_whatever_is_brought_as_panels_is_refused_in_words(content):
    with pytest.raises(InvalidInput) as caught:
        read_panels(content)
    assert all(one.message for one in caught.value.faults)


@settings(max_examples=60, deadline=None)
@given(places, angles, st.integers(1, 5), st.integers(1, 5), st.floats(0, 0.5), st.text(min_size=1, max_size=40))
def test_every_framing_comes_back_from_its_own_file(place, angle, columns, rows, overlap, name):
    try:
        framing = Framing(name, *place, angle, columns, rows, overlap)
    except InvalidInput:
        return  # a name that cannot be kept
    if framing.name != storable(framing.name).strip():
        return  # blanks of other kinds become plain ones on the way
    laid = framing.panels(5.0, 3.4)
    back = read_panels(write_panels(framing, laid, "csv").encode())
    assert back == framing


def test_a_framing_says_what_is_wrong_with_it_all_at_once():
    with pytest.raises(InvalidInput) as caught:
        Framing("", 400.0, -95.0, 0.0, 3, 2, 0.7, dropped=((5, 0),))
    told = {one.field: one.message for one in caught.value.faults}
    assert set(told) == {"name", "ra_deg", "dec_deg", "overlap", "dropped"}
    assert "15 to 25 %" in told["overlap"] and "Row 6, column 1 is no panel of 3 × 2" in told["dropped"]


@pytest.mark.parametrize("ra", [0.01, 359.99])
def test_a_frame_over_the_pole_and_one_over_nought_hours_are_frames_like_others(ra):
    across = compose([Subject("before", 359.98, 10.0), Subject("after", 0.02, 10.5)], 6.0, 4.0)
    assert across.margin_deg > 1.5 and not across.cut
    ring = [Subject(f"{hour}", hour * 60.0, 88.8) for hour in range(6)]
    over = compose(ring, 6.0, 4.0)
    assert over.frame.dec_deg > 89.9 and over.margin_deg == pytest.approx(0.9, abs=0.15)
    many = fewest(Frame(ra, 89.5, 0.0, 2.0, 1.4), ring)
    assert len(many.panels) > 1


def test_a_composed_verdict_says_what_is_cut_let_in_and_how_long_a_lens_would_do():
    pair_of = [Subject("left", 10.0, 0.0, 1.0), Subject("right", 14.0, 0.0, 1.0)]
    held = composed_verdict(compose(pair_of, 6.0, 4.0), 180.0, 210.0, 2)
    assert held.level == "go" and held.sentence.startswith("All 2 fit") and "Up to 210 mm would hold them." in held.advice
    cut = composed_verdict(compose([*pair_of, Subject("far", 30.0, 0.0)], 6.0, 4.0), 180.0, 50.0, 3, ["3 × 1 panels would do."])
    assert cut.level == "stop" and "cut, by" in cut.sentence and "3 × 1 panels would do." in cut.advice
    amid = composed_verdict(compose(pair_of, 6.0, 4.0, avoided=[Subject("glare", 12.0, 0.0, 0.5)]), 180.0, None, 2)
    assert amid.level == "care" and "glare cannot be kept out" in amid.advice


def test_a_clock_time_belongs_to_the_evening_or_to_the_morning_after():
    night = night_at(a_spot(-24.6, 16.9), date(2026, 12, 9))
    evening, morning = clock_mjd(night, "22:30"), clock_mjd(night, "03:15")
    assert morning - evening == pytest.approx((4 * 60 + 45) / 1440, abs=1e-6)
    assert clock_mjd(night, "", 61_000.5) == 61_000.5 and clock_mjd(night, "") == night.mjd[720]
    for wrong in ("25:00", "half", "7", "12:99"):
        with pytest.raises(InvalidInput, match="no time of day"):
            clock_mjd(night, wrong)


def test_panels_share_the_night_by_the_school_one_follows():
    spot, evening = a_spot(-24.6, 16.9), date(2026, 12, 9)
    target = Target("Field", 83.0, -5.0, 8.0, 21.0)
    wide, high = 7.5, 5.0
    laid = lay(Frame(83.0, -5.0, 0.0, wide, high), 2, 2)
    found = panel_nights(laid.panels, spot, evening, target, Choices())
    every, one = panels_verdict(found, "all"), panels_verdict(found, "one")
    shortest = min(each.window_s for each in found)
    assert every.level == "go" and "for each of 4 this night" in every.sentence and "4 nights" in one.sentence
    assert shortest > 3_600 and all(each.opens and each.closes and each.sky_mag for each in found)
    never = panel_nights(lay(Frame(83.0, 80.0, 0.0, wide, high), 1, 1).panels, spot, evening, target, Choices())
    told = panels_verdict((*found, *never), "all")
    assert told.level == "care" and "Not this night: 1·1" in told.advice
    assert panels_verdict(never, "all").level == "stop" and never[0].window_s == 0 and never[0].sky_mag is None

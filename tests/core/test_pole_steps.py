"""Rough steps, screws and the record's arithmetic."""

from dataclasses import replace
from datetime import date

import numpy as np
import pytest

from tests.conftest import OPEN, a_rig, a_spot, a_subject
from widedusk.core.choices import Choices
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.setting import conditions, drift_towards, light_of, motion_of, usual_drifts
from widedusk.core.kit.parts import Rig
from widedusk.core.night.panorama import panorama
from widedusk.core.night.windows import night_at
from widedusk.core.plan.outlook import outlook
from widedusk.core.plan.tonight import tonight
from widedusk.core.pole.axis import Axis, AxisError, aim, axis_direction, error_of_axis
from widedusk.core.pole.drift_method import Entry, watch_places, watched
from widedusk.core.pole.keeping import keeping_verdict, recheck_times
from widedusk.core.pole.need import Need, need, target_drift
from widedusk.core.pole.rough import compass_check, rough_verdict, scale_words
from widedusk.core.pole.scope import scope
from widedusk.core.pole.screws import axis_verdict, learn_turn, screw_moves, turns_words
from widedusk.core.pole.slip import slip_doubt
from widedusk.core.pole.tolerance import axis_tolerance
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.time import datetime_from_mjd
from widedusk.core.tracking.keep_rate import keep_rates


@pytest.mark.parametrize(
    ("latitude", "tick", "label", "words"),
    [
        # Common practice, no source: 50° on a scale with a tick each 3°, figures at 45 and 60.
        (50, 3, 15, "two thirds of the way from the first to the second tick past 45"),
        (-50, 3, 15, "two thirds of the way from the first to the second tick past 45"),
        (45, 3, 15, "at 45"),
        (46.5, 3, 15, "half way from 45 to the first tick past 45"),
        (59.9, 3, 15, "at 60"),
        (58.6, 2, 10, "a third of the way from the fourth tick past 50 to 60"),
        (33, 1, 10, "at the third tick past 30"),
    ],
)
def test_a_latitude_on_a_coarse_scale_in_words(latitude, tick, label, words):
    assert scale_words(latitude, tick, label) == words


def test_a_scale_whose_figures_miss_its_ticks_is_refused():
    with pytest.raises(InvalidInput, match=r"every 10° do not fall on ticks every 3°"):
        scale_words(50, 3, 10)


def test_a_lying_compass_is_caught():
    assert compass_check(194, 196, None, None).level == "go"
    assert compass_check(359, 2.5, None, None).level == "care"
    assert compass_check(358, 9, None, None).sentence == "The compasses differ by 11°: trust neither."
    pulled = compass_check(194, 195, 203, 195)
    assert pulled.level == "stop" and "pulls the needle by 8°" in pulled.sentence
    with pytest.raises(InvalidInput) as caught:
        compass_check(194, 400, 12, None)
    assert {fault.field for fault in caught.value.faults} == {"second_deg", "away_deg"}


def test_how_far_a_rough_alignment_serves_falls_with_focal_length_and_time():
    steady = a_rig(50.0, half_amplitude=0.5)  # a worm that is nothing, so that drift alone is left

    def serves(azimuth: str, exposure: float, latitude: float = 50.0, **choices: object) -> float:
        subject = a_subject(steady, **choices)
        verdict = rough_verdict(a_spot(latitude), azimuth, "inclinometer", subject, axis_tolerance(subject, exposure, 0.0))
        return next(one.value for one in verdict.figures if one.name == "Serves up to")

    assert serves("Sun, shadow or landmark", 120) > serves("two compasses that agree", 120) > serves("one compass", 120)
    assert serves("one compass", 60) == pytest.approx(2 * serves("one compass", 120), rel=0.03)
    # Common practice, no source: two degrees off, two minutes at 6 µm lengthen stars by 1.05 at 24 mm.
    limit = 1.0 + 0.05 / 0.9  # a tenth is kept in hand
    assert serves("two compasses that agree", 120, 0.1, elongation_limit=limit) == pytest.approx(24, abs=1.5)
    # The worm's share is taken off: with a usual one a longer lens on the same axis serves less.
    subject = a_subject(a_rig(135.0))
    told = rough_verdict(a_spot(50.0), "one compass", "inclinometer", subject, axis_tolerance(subject, 60.0, 0.0))
    assert told.level == "care" and "holds" in told.sentence and told.figures[2].value < 60


@pytest.mark.parametrize(
    ("turns", "words"),
    [
        (0.03, "less than a sixteenth of a turn"),
        (0.34, "about one third of a turn"),
        (0.5, "about half a turn"),
        (0.66, "about two thirds of a turn"),
        (0.97, "about one turn"),
        (1.26, "about 1 and one quarter turns"),
        (2.5, "about 2 and a half turns"),
        (3.02, "about 3 turns"),
    ],
)
def test_turns_as_a_hand_can_do_them(turns, words):
    assert turns_words(turns) == words


@pytest.mark.parametrize("latitude", [-33.0, 52.0])
def test_the_screws_bring_the_axis_to_the_pole(latitude):
    """Move the axis as told, by altitude and azimuth over the ground, and see where it ends."""
    spot, error = a_spot(latitude), AxisError(24.0, -37.0, 0.1, 0.1)
    height, heading = aim(spot.observer, "refracted")
    moves = {one.screw: one for one in screw_moves(error, spot.observer.south, np.degrees(height), 2.0, 0.9)}
    axis = axis_direction(error, height, heading)
    altitude, azimuth = np.arcsin(axis[2]), np.arctan2(axis[0], axis[1])
    altitude += np.radians(moves["altitude"].degrees) * (1 if moves["altitude"].way == "up" else -1)
    azimuth += np.radians(moves["azimuth"].degrees) * (1 if ("to the east" in moves["azimuth"].way) == (latitude > 0) else -1)
    ended = np.array([np.cos(altitude) * np.sin(azimuth), np.cos(altitude) * np.cos(azimuth), np.sin(altitude)])
    assert error_of_axis(ended, np.zeros((3, 3)), height, heading).total_arcmin < 0.6  # a turn of azimuth also lowers a little
    # Facing the pole, east is on the right in the north and on the left in the south.
    assert ("right" in moves["azimuth"].way) == (latitude > 0)
    assert moves["altitude"].turns == pytest.approx(0.4 / 2.0)
    assert "about one sixth of a turn, 24′" in moves["altitude"].words


def test_degrees_a_turn_are_learnt_from_two_measurements_and_not_from_noise():
    before, after = AxisError(-30.0, 12.0, 0.3, 0.3), AxisError(18.0, 12.4, 0.3, 0.3)
    degrees, sigma = learn_turn(before, after, "altitude", 0.5, 40.0)
    assert degrees == pytest.approx(1.6) and sigma == pytest.approx(0.6 * 2**0.5 / 60, rel=0.01)
    with pytest.raises(InvalidInput, match="no more than measuring leaves open"):
        learn_turn(before, after, "azimuth", 0.5, 40.0)
    with pytest.raises(InvalidInput, match="0 turns cannot be right"):
        learn_turn(before, after, "altitude", 0.0, 40.0)


def test_the_verdict_says_turn_only_while_it_helps():
    def level(high: float, sigma: float = 0.2) -> tuple[str, str]:
        error = AxisError(high, 0.0, sigma, sigma)
        verdict = axis_verdict(error, screw_moves(error, True, 30.0, None, None), 6.0, "by two photographs", "source")
        return verdict.level, verdict.advice

    assert level(1.0) == ("go", "Lock it and leave it.")
    assert level(4.8)[1].startswith("It serves")
    assert level(5.9)[0] == "care"  # not surely within
    assert level(40.0)[0] == "stop"


def test_two_pictures_that_may_hide_a_slip_say_so_and_ask_for_a_third_where_one_is_likely():
    """24′ of which 17′ are a slip: two pictures state them at 0.03′, and no screw may be turned by that alone."""
    light, heavy = a_rig(focal_mm=85.0), a_rig(focal_mm=300.0)
    error = AxisError(24.0, 0.0, 0.03, 0.03)

    def told(rig: Rig, off: AxisError, expected: float | None) -> tuple[str, str]:
        doubt = slip_doubt(rig, off, expected)
        verdict = axis_verdict(off, screw_moves(off, True, 30.0, None, None), 6.0, "by two photographs", "source", doubt)
        return verdict.level, verdict.advice

    assert "Take a third picture before you turn a screw: you expected 5.0′." in told(light, error, 5.0)[1]
    assert "Take a third picture before you turn a screw: the lens is 300 mm long." in told(heavy, error, 60.0)[1]
    near = AxisError(1.0, 0.0, 0.03, 0.03)
    assert told(light, near, 5.0)[0] == "go" and "cannot show whether the camera moved" in told(light, near, 5.0)[1]
    level, advice = told(heavy, near, 5.0)
    assert level == "care" and "before you rely on it" in advice and advice.endswith("If it agrees, lock the axis.")
    loaded = replace(light, tracker=replace(light.tracker, rating_g=1000))
    assert "of its rating" in told(loaded, near, 5.0)[1]
    assert told(light, replace(error), None)[1].startswith("Turn the screws as said, lock, then measure again. Two pictures cannot")


def test_what_is_needed_picks_the_quickest_way_that_is_possible_here():
    def needed(rig: Rig, exposure_s: float, spot: Spot | None = None, now_s: float | None = None, **choices: object) -> Need:
        subject = a_subject(rig, **choices)
        return need(subject, axis_tolerance(subject, exposure_s, 0.0), now_s or exposure_s, spot or a_spot(52.0))

    rig, walled_in = a_rig(focal_mm=200.0), a_spot(52.0, horizon=HorizonProfile(((0, 60), (180, 60))))
    open_sky = needed(rig, 60.0)
    assert open_sky.advised == "photographs" and 6 < open_sky.tolerance_arcmin < 60
    walled = needed(rig, 60.0, walled_in)
    assert not next(row for row in walled.rows if row.key == "scope").possible
    assert next(row for row in walled.rows if row.key == "photographs").possible
    assert needed(a_rig(focal_mm=14.0), 30.0).advised in {"rough", "sight"}
    alone = needed(rig, 60.0, comes_along="phone")
    assert alone.advised != "photographs"
    assert "laptop" in next(row for row in alone.rows if row.key == "photographs").why_not
    hopeless = needed(rig, 480.0)
    assert hopeless.advised == "" and hopeless.tolerance_arcmin == 0 and "No axis is good enough" in hopeless.verdict.sentence
    assert "As it stands, 40′ off, it is 30 s, not 60 s." in needed(rig, 60.0, now_s=30.0, axis_arcmin=40.0).verdict.advice
    # What one expects has no part in what is needed.
    assert needed(rig, 60.0, axis_arcmin=40.0).tolerance_arcmin == open_sky.tolerance_arcmin


def test_expected_drift_is_the_worst_and_measured_drift_is_no_more():
    rig, spot = a_rig(focal_mm=200.0), a_spot(-24.6)
    target = Target("a field", 130.0, -45.0, 2.0, 22.0)

    choices = Choices(alignment_arcmin=10.0, sub_school="fixed", fixed_sub_s=120.0)

    def px(axis: Axis | None) -> tuple[float, float]:
        seen = outlook(rig, spot, date(2026, 12, 8), target, choices, axis)
        verdict = target_drift(seen.subject, seen.tolerance, seen.advice.exposure_s, seen.advice.tracked)
        return verdict.figures[0].value, verdict.figures[1].value

    worst, most_turn = px(None)
    for heading in np.linspace(0, 2 * np.pi, 9):
        drift, turn = px(AxisError(10 * np.cos(heading), 10 * np.sin(heading), 0.1, 0.1))
        assert drift <= worst + 0.12 and turn <= most_turn * 1.02  # the air adds a little of its own


def test_an_alignment_nobody_measured_is_everything_it_may_be():
    """Against ten thousand axes thrown at random, nine in ten of them within what the way leaves."""
    rig, dec = a_rig(focal_mm=200.0), np.radians(-20.0)
    subject = replace(a_subject(rig, -20.0), drifts=usual_drifts(60.0, dec), axis="usual")
    wanted = conditions(subject, light_of(subject, 2.8))
    dice = np.random.default_rng(8)
    places = dice.normal(size=(10_000, 2)) * 60.0 / np.sqrt(-2.0 * np.log(0.1))
    assert np.mean(np.hypot(*places.T) <= 60.0) == pytest.approx(0.9, abs=0.01)
    for exposure_s in (20.0, 60.0, 120.0):
        moved = [motion_of(subject, drift_towards(float(np.hypot(*one)), float(np.arctan2(*one)), dec))[0] for one in places[:1500]]
        shares = keep_rates(tuple(moved), exposure_s, wanted.star_fwhm_px, 1.3)
        assert float(wanted.tracked(exposure_s)) == pytest.approx(float(np.mean(shares)), abs=0.06)
    assert float(wanted.tracked(120.0)) < float(wanted.tracked(60.0)) <= 1.0


def test_stars_to_watch_and_what_was_noted():
    azimuth, altitude = watch_places(-24.6, 5.0, 4.3)
    assert azimuth.azimuth_deg == 0 and "due north" in azimuth.words and altitude.azimuth_deg == 90
    # An axis 5' off moves a star by 2 px of 4.3" in 2 * 4.3 / (15.04 * 5 / 3437.75) s.
    assert azimuth.minutes == pytest.approx(2 * 4.3 / (15.041 * 5 / 3437.75) / 60, rel=1e-3)
    rates = watched([Entry(60, 0, 3, "px", "south", 6), Entry(25, 90, 12, "arcsec", "north", 6)], 4.3)
    assert rates[0].drift_arcsec_min == pytest.approx(-3 * 4.3 / 6) and rates[1].drift_arcsec_min == pytest.approx(2.0)
    with pytest.raises(InvalidInput, match="0 min cannot be right"):
        watched([Entry(60, 0, 3, "px", "south", 0)], 4.3)


def test_schools_of_looking_again():
    start = datetime_from_mjd(61382.9)
    times = recheck_times(start, 95, 118.0, 2.0, Choices())
    assert [(one - start).total_seconds() for one in times] == [3600, 7200, 10800]
    assert recheck_times(start, 30, 118.0, 2.0, Choices()) == []
    never = Choices(recheck_school="never")
    assert recheck_times(start, 95, 118.0, 2.0, never) == []
    assert "No look again" in keeping_verdict([], 5.0, [], [], never).advice
    moved = keeping_verdict([AxisError(2, 1, 0.1, 0.1), AxisError(-2, -2, 0.1, 0.1)], 5.0, times, ["21:00"], Choices())
    assert moved.level == "go" and "It moved 5.0′" in moved.sentence


def test_the_table_of_the_scope_turns_with_the_sky():
    for latitude, sense in ((52.0, -1), (-24.6, 1)):
        found = scope(a_spot(latitude), 61382.9, "upright", "refracted")
        turned = np.diff(np.unwrap(np.radians([row.degrees for row in found.rows])))
        # Ten minutes of the sky are 2.507°; anticlockwise facing north, clockwise facing south.
        assert np.degrees(turned) == pytest.approx(np.full(turned.size, sense * 15.041 / 6), abs=0.06)
        row = found.rows[0]
        assert row.clock_hours * 30 == pytest.approx(row.degrees) and row.parts_24 * 15 == pytest.approx(row.degrees)
    north = scope(a_spot(52.0), 61382.9, "inverted", "true")
    # The polar distance of the pole star shrinks until about 2100; common knowledge of almanacs.
    assert [ring.radius_arcmin for ring in north.rings] == sorted((ring.radius_arcmin for ring in north.rings), reverse=True)


@pytest.mark.parametrize(
    ("latitude", "wall"),
    [(-23.2, HorizonProfile(((150, 30), (210, 30)))), (47.0, HorizonProfile(((350, 60), (10, 60)))), (2.0, OPEN), (88.0, OPEN)],
)
def test_where_the_pole_cannot_be_used_no_page_sends_anybody_to_it(latitude, wall):
    """Sighting and the polar scope need the pole in sight; Tonight, Pole, By day and Grounds go by one rule."""
    spot, night = a_spot(latitude, horizon=wall), date(2026, 12, 8)
    field = Target("field", 90.0, 20.0 if latitude > 0 else -60.0, 1.0, 22.0)
    rig = a_rig(85.0)
    seen = outlook(rig, spot, night, field, Choices())
    rows = {row.key: row for row in need(seen.subject, seen.tolerance, seen.advice.exposure_s, spot).rows}
    assert [key for key, row in rows.items() if not row.possible] == ["sight", "scope"]
    rough = rough_verdict(spot, "one compass", "latitude scale", seen.subject, seen.tolerance)
    found = tonight(rig, spot, night, field, Choices()).verdicts[2]
    ground = panorama(night_at(spot, night), [field], Choices())
    for said in (rough.advice, found.sentence, found.advice, ground.verdict.advice):
        assert "polar scope" not in said and "ighting" not in said
    assert ground.pole.hidden == rows["scope"].why_not and ground.pole.hidden in found.advice
    assert "wo photographs" in ground.verdict.advice
    with pytest.raises(InvalidInput, match="Choose another way"):
        rough_verdict(spot, "one compass", "sighted at the pole star", seen.subject, seen.tolerance)
    free = replace(spot, latitude_deg=47.0, horizon=OPEN)
    assert "polar scope" in rough_verdict(free, "one compass", "latitude scale", seen.subject, seen.tolerance).advice

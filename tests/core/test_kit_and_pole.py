"""Workings that a person would check by hand: light ratios, tolerances, the dial's geometry, the words of a verdict."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from tests.conftest import a_rig, a_spot, a_subject
from widedusk.core.errors import InvalidInput
from widedusk.core.exposure.light import electrons_per_s
from widedusk.core.kit.optics import stops_between
from widedusk.core.kit.parts import Carried
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.pole.dial import dial
from widedusk.core.pole.tolerance import axis_tolerance, way_that_suffices
from widedusk.core.pole.verdict import pole_verdict
from widedusk.core.sky.brightness import airmass, scattering_airmass
from widedusk.core.sky.time import datetime_from_mjd, mjd_from_datetime, tt_from_utc
from widedusk.core.tracking.drift import direction, drift_rad_s, field_rotation_rad_s, pole_direction
from widedusk.core.tracking.elongation import elongation, uniform_trail_ratio
from widedusk.core.verdict import Verdict, duration_words, joined

SETUP = mjd_from_datetime(datetime(2026, 12, 8, 18, 0, tzinfo=UTC))


@pytest.mark.parametrize("latitude", [-35.0, 47.0])
@pytest.mark.parametrize("hours_on", [0.0, 3.0, 6.0, 11.0])
def test_the_dial_turns_with_the_sky(latitude, hours_on):
    """Facing north the sky turns anticlockwise, facing south clockwise, 15.04° an hour; hour angle 0 is straight up."""
    spot = a_spot(latitude)
    first = dial(spot.observer, SETUP, "upright", "true").marks[0]
    later = dial(spot.observer, SETUP + hours_on / 24, "upright", "true").marks[0]
    turned = (later.clock_deg - first.clock_deg + 180) % 360 - 180
    expected = hours_on * 15.041 * (1 if latitude < 0 else -1)
    assert (turned - expected + 180) % 360 - 180 == pytest.approx(0, abs=3.0)  # refraction flattens the circle a little
    sense = 1 if latitude < 0 else -1
    from_hour_angle = (first.hour_angle_h * 15 * sense) % 360
    assert (first.clock_deg - from_hour_angle + 180) % 360 - 180 == pytest.approx(0, abs=3.0)


def test_an_inverting_scope_turns_the_picture_by_half_a_turn():
    spot = a_spot(-35.0)
    upright, inverted = (dial(spot.observer, SETUP, view).marks for view in ("upright", "inverted"))
    for one, other in zip(upright, inverted, strict=True):
        assert (other.clock_deg - one.clock_deg) % 360 == pytest.approx(180)
        assert other.radius_arcmin == pytest.approx(one.radius_arcmin)


@pytest.mark.parametrize(("latitude", "arcmin"), [(50.0, 0.8), (30.0, 1.7), (-30.0, 1.7)])
def test_true_and_refracted_pole_differ_as_published(latitude, arcmin):
    """cot(latitude) times the refraction constant of about 0.97': Bennett 1982."""
    spot = a_spot(latitude)
    face = dial(spot.observer, SETUP, "upright", "refracted")
    assert face.refraction_arcmin == pytest.approx(arcmin, abs=0.2)
    true = dial(spot.observer, SETUP, "upright", "true")
    assert face.pole_altitude_deg - true.pole_altitude_deg == pytest.approx(face.refraction_arcmin / 60)
    assert true.pole_altitude_deg == pytest.approx(abs(latitude))
    # Around the refracted pole a star keeps its polar distance, for both are lifted alike.
    assert face.marks[0].radius_arcmin == pytest.approx(face.marks[0].polar_distance_arcmin, abs=0.15)


def test_which_method_suffices():
    """The quickest that is sure, and that this tracker and spot allow."""
    rig, blind = a_rig(), replace(a_rig(), tracker=replace(a_rig().tracker, scope_view="none"))
    found = [way_that_suffices(arcmin, rig, "", "laptop") for arcmin in (400, 299, 59.0, 6.0, 1.9)]
    assert [one.key for one in found] == ["rough", "sight", "photographs", "photographs", "photographs"]
    assert way_that_suffices(0.9, rig, "", "laptop") is None
    for narrowed in ((299, rig, "a wall"), (7.0, blind, "")):
        assert way_that_suffices(*narrowed, "laptop").key == "photographs"
    assert [way_that_suffices(arcmin, rig, "", "phone").key for arcmin in (59.0, 6.0, 2.0)] == ["scope", "scope", "drift"]
    # Common practice, no source: below 50-80 mm a rough alignment is enough for two minutes.
    rough = [axis_tolerance(a_subject(a_rig(f)), 120, 0.0).arcmin for f in (24, 50, 200)]
    assert rough[0] > 180 and rough[1] > 90 and rough[2] < 60


def test_the_pole_verdict_weighs_what_is_expected_against_what_is_needed():
    rig, spot = a_rig(400, 5.6), a_spot(-35.0)
    face = dial(spot.observer, SETUP, "inverted")

    def told(axis_arcmin: float, sun_deg: float = -12.0) -> Verdict:
        subject = a_subject(rig, -30.0, axis_arcmin)
        return pole_verdict(subject, axis_tolerance(subject, 15.0, 0.0), 15.0, 1.0, spot, face, SETUP, np.radians(sun_deg))

    fine, rough = told(2), told(240)
    assert fine.level == "go" and "σ Oct" in fine.advice
    assert rough.level == "care" and "You expect 4.0°" in rough.advice
    assert "too bright for stars" in told(5, -2.0).advice
    assert [limit.name for limit in fine.limits if limit.binds] == [
        way_that_suffices(fine.figures[0].value, rig, "", "laptop").name
    ]


def test_drift_depends_on_where_the_target_is():
    """An axis off in azimuth only does not drift a star in the east or west at the equator of the sky in declination
    (textbook drift method); an axis off in altitude does not drift one on the meridian."""
    latitude = np.radians(40.0)
    pole = pole_direction(latitude)
    off_azimuth, off_altitude = direction(latitude, 0.002), direction(latitude + 0.002, 0.0)
    meridian, east = direction(np.radians(50.0), np.pi), direction(0.0, np.pi / 2)

    def along_declination(axis, star):
        north_on_sky = pole - star * (pole @ star)
        return abs(drift_rad_s(axis, pole, star) @ north_on_sky / np.linalg.norm(north_on_sky))

    assert along_declination(off_azimuth, meridian) > 50 * along_declination(off_azimuth, east)
    assert along_declination(off_altitude, east) > 50 * along_declination(off_altitude, meridian)
    assert field_rotation_rad_s(pole, pole, east) == 0


def test_drift_across_the_periodic_error_never_helps():
    """A crooked axis makes stars rounder by making them fat; elongation must not fall for it."""
    zero = np.asarray(0.0)
    along = elongation(np.asarray(2.0), zero, zero, 2.5)
    assert elongation(np.asarray(2.0), np.asarray(1.5), zero, 2.5) == pytest.approx(along)
    assert along == pytest.approx(uniform_trail_ratio(np.sqrt(12 * 2.0), 2.5))
    turned = elongation(np.asarray(1.0), np.asarray(1.0), np.asarray(1.0), 2.5)  # the same trail at 45°
    assert turned == pytest.approx(along)


def test_light_goes_as_pitch_over_f_number_squared():
    base = electrons_per_s(21.0, 4.0, 4.0, 40)
    assert electrons_per_s(21.0, 8.0, 4.0, 40) == pytest.approx(4 * base)
    assert electrons_per_s(21.0, 4.0, 2.0, 40) == pytest.approx(base * 2 ** -stops_between(4.0, 2.0))
    assert electrons_per_s(16.0, 4.0, 4.0, 40) == pytest.approx(100 * base)


def test_airmass():
    """Kasten & Young 1989, values from memory: 1.0 at the zenith, 5.5841 at 10°, about 38 at the horizon."""
    assert airmass(np.radians([90.0, 30.0, 10.0, 0.0])) == pytest.approx([1.0, 1.994, 5.58, 37.9], rel=3e-3)
    assert scattering_airmass(np.pi / 2) == pytest.approx(5.0)


def test_time_scales():
    """TT - UTC is 69.184 s since 2017 (IERS Bulletin C), was 64.184 s in 2000, and stays put after the last leap second."""
    for moment, seconds in (
        (datetime(2026, 1, 1, tzinfo=UTC), 69.184),
        (datetime(2000, 1, 1, tzinfo=UTC), 64.184),
        (datetime(2090, 1, 1, tzinfo=UTC), 69.184),
    ):
        mjd = mjd_from_datetime(moment)
        assert (float(tt_from_utc(mjd)) - mjd) * 86400 == pytest.approx(seconds, abs=1e-4)
        assert datetime_from_mjd(mjd) == moment


def test_counterweights_count_where_the_rating_says_so():
    rig = a_rig(carried=(Carried("head", 300), Carried("weight", 1000, True)))
    apart = payload_verdict(rig)
    counted = payload_verdict(
        type(rig)(
            **{**rig.__dict__, "tracker": type(rig.tracker)(**{**rig.tracker.__dict__, "rating_includes_counterweights": True})}
        )
    )
    masses = [verdict.figures[0].value for verdict in (apart, counted)]
    assert masses == [1250, 2250] and (apart.level, counted.level) == ("go", "care")
    assert "450 g less would fit" in counted.advice and "fall on feet" in counted.caution
    over = payload_verdict(a_rig(carried=(Carried("anvil", 5000),)))
    assert over.level == "stop" and "do not use it" in over.sentence


@pytest.mark.parametrize(("school", "percent"), [("own", None), ("own", 5.0), ("own", float("nan"))])
def test_an_own_share_must_make_sense(school, percent):
    with pytest.raises(InvalidInput, match="payload_percent"):
        payload_verdict(a_rig(), school, percent)


def test_words():
    assert [duration_words(s) for s in (45, 119, 120, 150, 3599, 3600, 12_345)] == [
        "45 s",
        "119 s",
        "2 min",
        "2 min 30 s",
        "59 min 59 s",
        "1 h 00 min",
        "3 h 26 min",
    ]
    assert [joined(words) for words in ([], ["a"], ["a", "b"], ["a", "b", "c"])] == ["", "a", "a and b", "a, b and c"]

"""Coordinates, compass, zones and skies against geopy, the magnetic model's own test values, and the world."""

from datetime import date

import pytest
from geopy.point import Point
from hypothesis import given
from hypothesis import strategies as st

from widedusk.core.errors import InvalidInput
from widedusk.core.grounds.compass import compass_verdict, decimal_year, needle
from widedusk.core.grounds.coordinates import read_coordinates
from widedusk.core.grounds.sky_scale import CLASS_MAG, faintest_star, sky_of_class, sky_of_faintest_star
from widedusk.core.grounds.zone import time_zone_at

HERE = pytest.approx((-24.62, 16.94), abs=1e-9)


@pytest.mark.parametrize(
    "text",
    [
        "-24.62, 16.94",
        "−24.62 16.94",
        "24.62 S 16.94 E",
        "S24.62 E16.94",
        "16.94 E, 24.62 S",
        "24°37'12\"S 16°56'24\"E",
        "24° 37′ 12″ S, 16° 56′ 24″ E",
        "24 37 12 S 16 56 24 E",
        "24 37.2 S, 16 56.4 E",
        "24d37m12s S, 16d56m24s E",
        "geo:-24.62,16.94",
        "geo:-24.62,16.94,1420;u=10",
        "-24,62 16,94",
        "-24,62; 16,94",
        "-24,62, 16,94",
        "24,62° S, 16,94° E",
        "(\u221224.62, 16.94)",
        "Lat: -24.62 Lon: 16.94",
        "lat=-24.62, lng=16.94",
        "Longitude 16.94, Latitude -24.62",
        "https://maps.example/#map=12/-24.62/16.94",
        "https://maps.example/place/@-24.62,16.94,14z",
        "https://maps.example/?q=-24.62%2C16.94",
    ],
)
def test_every_usual_form_means_the_same_place(text):
    found = read_coordinates(text)
    assert (found.latitude_deg, found.longitude_deg) == HERE


@given(st.integers(-90 * 32, 90 * 32), st.integers(-180 * 32, 180 * 32))
def test_what_geopy_writes_is_read_as_the_same_place(north, east):
    latitude, longitude = north / 32, east / 32  # exact in binary: geopy writes seconds of others as 60 or 1e-12
    for written in (Point(latitude, longitude).format(), Point(latitude, longitude).format_unicode()):
        found = read_coordinates(written)
        assert (found.latitude_deg, found.longitude_deg) == pytest.approx((latitude, longitude), abs=1e-4), written


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("24,62,16,94", "no pair of coordinates"),
        ("https://maps.example/-24.62,16.94/-24.63,16.95", "not exactly one place"),
        ("124.5, 16.94", "Did you mean 16.94, 124.5"),
        ("95 N 16 E", "Did you mean"),
        ("99, 200", "Latitude goes from"),
        ("24.62 S 16.94 N", "the other E or W"),
        ("24.62 S 16.94", "a letter, or neither"),
        ("-24.62 S 16.94 E", "told twice"),
        ("24°77' S 16° E", "stay below 60"),
        ("24.5° 30' S 16° E", "take no minutes"),
        ("by the old windmill", "no pair of coordinates"),
        ("-24.62", "no pair of coordinates"),
        ("1 2 3", "no pair of coordinates"),
        ("geo:hill", "no pair of coordinates"),
        ("", "no pair of coordinates"),
    ],
)
def test_what_could_mean_two_places_is_refused_with_the_reason(text, words):
    with pytest.raises(InvalidInput, match=words):
        read_coordinates(text)


@pytest.mark.parametrize(("latitude", "longitude", "declination"), [(80, 0, 1.28), (0, 120, -0.16), (-80, 240, 68.78)])
def test_declination_is_that_of_the_models_own_test_values(latitude, longitude, declination):
    """WMM2025 test values, 2025.0, height 0 (NOAA/NCEI and BGS, report on WMM2025)."""
    assert needle(latitude, longitude, 0, date(2025, 1, 1)).declination_deg == pytest.approx(declination, abs=0.006)


def test_the_compass_says_what_to_set_and_when_not_to_trust_it():
    south = compass_verdict(-24.62, 16.94, 1420, date(2026, 12, 8))
    found = needle(-24.62, 16.94, 1420, date(2026, 12, 8))
    assert south.workings[0].result.value == pytest.approx((180 - found.declination_deg) % 360)
    assert "face the south pole" in south.sentence and south.level == "go" and found.in_force
    assert "north pole" in compass_verdict(58.6, 25.4, 48, date(2026, 12, 8)).sentence
    steep = compass_verdict(80.0, -110.0, 0, date(2026, 12, 8))
    assert steep.level == "care" and "too steep" in steep.advice
    late = compass_verdict(-24.62, 16.94, 1420, date(2033, 2, 1))
    assert late.level == "care" and "holds from 2025 to 2030" in late.advice
    assert decimal_year(date(2024, 7, 2)) == pytest.approx(2024.5, abs=0.001)


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone"),
    [
        (-24.62, 16.94, "Africa/Windhoek"),
        (58.63, 25.38, "Europe/Tallinn"),
        (-31.3, 149.1, "Australia/Sydney"),
        (0, -30, "Etc/GMT+2"),
    ],
)
def test_time_zones_of_well_known_places(latitude, longitude, zone):
    assert time_zone_at(latitude, longitude) == zone


def test_class_and_faintest_star_tell_the_same_sky():
    """A dark sky of 21.9 shows stars to about 6.6, a town sky of 18.5 to about 4.4: common practice, no source."""
    for step, mag in CLASS_MAG.items():
        assert sky_of_class(step) == mag and sky_of_faintest_star(faintest_star(mag)) == pytest.approx(mag, abs=1e-6)
    assert faintest_star(21.9) == pytest.approx(6.6, abs=0.1) and faintest_star(18.5) == pytest.approx(4.4, abs=0.1)
    with pytest.raises(InvalidInput, match="sky_class: 12 cannot be right"):
        sky_of_class(12)
    with pytest.raises(InvalidInput, match="faintest_star: 9 mag cannot be right"):
        sky_of_faintest_star(9)

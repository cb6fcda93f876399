"""Nights against skyfield and astropy, the compass against IGRF, airmass against another formula, cues against RFC 5545."""

from datetime import UTC, date, datetime

import astropy.units as u
import icalendar
import numpy as np
import ppigrf
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from skyfield import almanac
from skyfield.api import Loader, Star, wgs84
from skyfield_data import get_skyfield_data_path

from tests.conftest import a_rig, a_spot
from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.choices import Choices
from widedusk.core.grounds.compass import needle
from widedusk.core.night.lanes import fortnight, lane
from widedusk.core.night.windows import night_at, track
from widedusk.core.plan.cue_file import Reminder, write_cues
from widedusk.core.plan.ranking import Wanted, rank
from widedusk.core.scene import Target
from widedusk.core.sky.brightness import airmass
from widedusk.core.sky.horizon import HORIZON_REFRACTION, SUN_RISE_ALTITUDE, altaz, crossings
from widedusk.core.sky.places import star_place
from widedusk.core.sky.time import mjd_from_datetime, tt_from_utc

DRAWN = np.random.default_rng(20261124)
SAMPLES = [(69.0, 20.0, date(2027, 6, 15))] + [
    (float(latitude), float(longitude), date(2025 + int(year), int(month), int(day)))
    for latitude, longitude, year, month, day in zip(
        DRAWN.uniform(-65, 65, 7),
        DRAWN.uniform(-180, 180, 7),
        DRAWN.integers(0, 15, 7),
        DRAWN.integers(1, 13, 7),
        DRAWN.integers(1, 29, 7),
        strict=True,
    )
]


@pytest.fixture(scope="module")
def sky():
    load = Loader(get_skyfield_data_path(), verbose=False, expire=False)
    return load.timescale(builtin=True), load("de421.bsp")


def mjds(times, really=None):
    real = np.ones(len(times), dtype=bool) if really is None else really
    return [mjd_from_datetime(t.utc_datetime()) for t, one in zip(times, real, strict=True) if one]


@pytest.mark.parametrize(("latitude", "longitude", "evening"), SAMPLES)
def test_rise_set_twilight_and_transit_on_random_places_and_dates(sky, latitude, longitude, evening):
    timescale, eph = sky
    night = night_at(a_spot(latitude, longitude), evening)
    t0, t1 = (timescale.tt_jd(2400000.5 + float(tt_from_utc(m))) for m in (night.mjd[0], night.mjd[-1]))
    observer = eph["earth"] + wgs84.latlon(latitude, longitude, night.spot.height_m)
    for level, degrees in ((SUN_RISE_ALTITUDE, -0.8333), (np.radians(-6), -6.0), (np.radians(-18), -18.0)):
        ours = crossings(night.mjd, night.sun_altitude, level)
        for finder, mine in ((almanac.find_risings, ours[0]), (almanac.find_settings, ours[1])):
            theirs = mjds(*finder(observer, eph["sun"], t0, t1, horizon_degrees=degrees))
            # Far north the Sun grazes a level: the same error of altitude is a longer time.
            assert mine == pytest.approx(theirs, abs=90 / 86400, rel=0), degrees
    assert (latitude > 66) == (night.sunset_and_sunrise() == (None, None))

    target = Target("Star", 200.0, -12.0 if latitude < 0 else 25.0, 1, 22)
    star = Star(ra_hours=target.ra_deg / 15, dec_degrees=target.dec_deg)
    ra, dec = star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(night.mjd[720]))
    altitude, _ = altaz(ra, dec, night.mjd, night.spot.observer)
    ours = crossings(night.mjd, altitude, -HORIZON_REFRACTION)
    for finder, mine in ((almanac.find_risings, ours[0]), (almanac.find_settings, ours[1])):
        theirs = mjds(*finder(observer, star, t0, t1, horizon_degrees=-34 / 60))
        assert mine == pytest.approx(theirs, abs=60 / 86400, rel=0)
    shown = lane(night, target, Choices())
    if shown.transit:
        transits = mjds(almanac.find_transits(observer, star, t0, t1))
        assert min(abs(mjd_from_datetime(shown.transit) - one) for one in transits) < 1.1 / 1440


@pytest.mark.parametrize(("latitude", "longitude"), [(-24.6, 16.9), (60.1, 24.9)])
def test_ranking_agrees_with_astropy_and_with_the_minute_by_minute_window(latitude, longitude):
    spot, evening = a_spot(latitude, longitude), date(2026, 12, 9)
    night = night_at(spot, evening)
    ranking = rank(catalogue(), a_rig(), night, Choices(), Wanted(smallest_percent=2), limit=100)
    assert ranking.count >= 40 and list(ranking.rows) == sorted(ranking.rows, key=lambda row: -row.worth)
    rows = ranking.rows[::4]
    where = EarthLocation.from_geodetic(longitude * u.deg, latitude * u.deg, spot.height_m * u.m)
    dark = night.mjd[night.sun_altitude < np.radians(-18)]
    frame = AltAz(obstime=Time(dark[::5], format="mjd", scale="utc")[None, :], location=where)
    places = SkyCoord([row.entry.target.ra_deg for row in rows] * u.deg, [row.entry.target.dec_deg for row in rows] * u.deg)
    highest = places[:, None].transform_to(frame).alt.deg.max(axis=1)
    assert [row.highest_deg for row in rows] == pytest.approx(list(highest), abs=0.01)
    for row in rows:
        assert row.usable_min == pytest.approx(track(night, row.entry.target, Choices()).usable_minutes, abs=11)


def test_the_fortnights_moon_and_darkness_against_skyfield(sky):
    timescale, eph = sky
    spot = a_spot(-24.6, 16.9)
    observer = eph["earth"] + wgs84.latlon(-24.6, 16.9, spot.height_m)
    for one in fortnight(spot, date(2026, 12, 9), Choices())[::5]:
        mjd = night_at(spot, one.night).mjd[:1440:5]
        at = timescale.tt_jd(2400000.5 + tt_from_utc(mjd))
        sun, moon = (observer.at(at).observe(eph[body]).apparent().altaz()[0].degrees for body in ("sun", "moon"))
        dark = sun < -18
        assert one.dark_minutes == pytest.approx(5 * np.count_nonzero(dark), abs=5)
        assert one.moonless_minutes == pytest.approx(5 * np.count_nonzero(dark & (moon < 0)), abs=5)


def test_declination_agrees_with_the_other_model_of_the_field():
    """IGRF-14 through ppigrf: another model of the same field, so half a degree, away from the magnetic poles."""
    drawn = np.random.default_rng(14)
    for latitude, longitude in zip(drawn.uniform(-55, 60, 60), drawn.uniform(-180, 180, 60), strict=True):
        east, north, _ = ppigrf.igrf(longitude, latitude, 0.5, datetime(2026, 12, 9))
        theirs = np.degrees(np.arctan2(east, north)).item()
        assert needle(latitude, longitude, 500, date(2026, 12, 9)).declination_deg == pytest.approx(theirs, abs=0.5)


def test_airmass_against_a_second_formula():
    """Pickering 2002, DIO 12, 1, 20: 1 / sin(h + 244 / (165 + 47 h^1.1)); the two differ by under 1 % above 5°."""
    degrees = np.linspace(5, 90, 100)
    theirs = 1 / np.sin(np.radians(degrees + 244 / (165 + 47 * degrees**1.1)))
    assert airmass(np.radians(degrees)) == pytest.approx(theirs, rel=0.01)


def test_cues_are_a_calendar_with_alarms():
    moment = datetime(2026, 12, 8, 21, 3, 20, tzinfo=UTC)
    cues = [Reminder("opens", "Window opens", moment), Reminder("sunset", "Sunset", moment)]
    content = write_cues("Vela, 2026-12-08", "Flats, tank", -24.62, 16.94, cues, moment)
    calendar = icalendar.Calendar.from_ical(content)
    assert b"\r\n" in content and calendar["version"] == "2.0" and calendar["prodid"]
    events = list(calendar.walk("VEVENT"))
    assert [str(event["summary"]) for event in events] == ["Window opens"]  # sunset is nothing to get up for
    assert events[0].decoded("dtstart") == moment.replace(second=20) and events[0].decoded("dtstart").tzinfo is not None
    assert len(list(events[0].walk("VALARM"))) == 1 and events[0]["uid"]

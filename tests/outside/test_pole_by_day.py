"""Sun, shadow, landmark and dial against astropy, skyfield, geopy and an invented mount."""

from datetime import UTC, datetime, timedelta

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord, get_sun
from astropy.time import Time
from geopy.distance import geodesic
from skyfield import almanac
from skyfield.api import load, load_file, wgs84
from skyfield_data import get_skyfield_data_path

from tests.conftest import a_rig, a_spot
from tests.invented import a_pair
from widedusk.core.choices import Choices
from widedusk.core.exposure.setting import Subject
from widedusk.core.pole.at_target import drifts_at
from widedusk.core.pole.axis import AxisError
from widedusk.core.pole.dial import NORTH, SOUTH, dial
from widedusk.core.pole.need import target_drift
from widedusk.core.pole.rough import body_lines, landmark_bearing_deg, noon_shadow
from widedusk.core.pole.tolerance import axis_tolerance
from widedusk.core.scene import Spot, Target
from widedusk.core.simulate.camera import observed
from widedusk.core.simulate.mount import Mount
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import mjd_from_datetime

PLACES = ((-24.62, 16.94), (58.63, 25.38), (-41.3, 174.8), (35.0, -106.0))


@pytest.mark.parametrize(("latitude", "longitude"), PLACES)
def test_the_suns_line_and_local_noon(latitude, longitude):
    spot = a_spot(latitude, longitude)
    moment = datetime(2026, 9, 14, 9, 20, tzinfo=UTC)
    place = EarthLocation(lat=latitude * u.deg, lon=longitude * u.deg, height=900 * u.m)
    for line in body_lines(spot, "sun", mjd_from_datetime(moment), hours=1.0)[::3]:
        seen = get_sun(Time(line.moment)).transform_to(AltAz(obstime=Time(line.moment), location=place))
        if seen.alt.deg > 5:
            assert line.azimuth_deg == pytest.approx(seen.az.deg, abs=0.02)
    # skyfield with JPL's DE421: when the Sun passes the meridian.
    ephemeris, scale = load_file(f"{get_skyfield_data_path()}/de421.bsp"), load.timescale(builtin=True)
    watcher = wgs84.latlon(latitude, longitude, 900)
    passes, above = almanac.find_discrete(
        scale.from_datetime(moment - timedelta(hours=13)),
        scale.from_datetime(moment + timedelta(hours=13)),
        almanac.meridian_transits(ephemeris, ephemeris["Sun"], watcher),
    )
    noon = noon_shadow(spot, mjd_from_datetime(moment)).moment
    nearest = min(abs((one.utc_datetime() - noon).total_seconds()) for one, up in zip(passes, above, strict=True) if up)
    assert nearest < 5


def test_the_shadow_points_away_from_the_sun_and_short_ones_are_told():
    assert "points true north" in noon_shadow(a_spot(52.0), 61382.5).words
    assert "points true south" in noon_shadow(a_spot(-52.0), 61382.5).words
    assert "too short" in noon_shadow(a_spot(-24.6), 61382.5).words  # 8 December: 88° high
    assert "does not rise" in noon_shadow(a_spot(69.0), 61382.5).words


def test_bearing_of_a_landmark_against_the_ellipsoid():
    rng = np.random.default_rng(6)
    for _ in range(20):
        here = (float(rng.uniform(-65, 65)), float(rng.uniform(-180, 180)))
        bearing = float(rng.uniform(0, 360))
        there = geodesic(kilometers=float(rng.uniform(1, 30))).destination(here, bearing)
        found = landmark_bearing_deg(a_spot(*here), there.latitude, there.longitude)
        assert (found - bearing + 180) % 360 - 180 == pytest.approx(0, abs=0.2)


def test_dial_positions_against_astropy_on_random_nights_in_both_hemispheres():
    """Direction from the pole as seen by an upright eye that faces it, through the air on both sides."""
    rng = np.random.default_rng(9)
    for _ in range(8):
        latitude = float(rng.choice([-1, 1]) * rng.uniform(20, 65))
        longitude = float(rng.uniform(-180, 180))
        moment = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(hours=float(rng.uniform(0, 8000)))
        face = dial(Observer(np.radians(latitude), np.radians(longitude)), mjd_from_datetime(moment), "upright", "true")
        place = EarthLocation(lat=latitude * u.deg, lon=longitude * u.deg, height=0 * u.m)
        star = (SOUTH if latitude < 0 else NORTH)[0]
        sky = SkyCoord(
            ra=star.ra_deg * u.deg,
            dec=star.dec_deg * u.deg,
            pm_ra_cosdec=star.pm_ra_mas * u.mas / u.yr,
            pm_dec=star.pm_dec_mas * u.mas / u.yr,
            distance=(1000 / star.parallax_mas) * u.pc,
            obstime=Time("J2000"),
        ).apply_space_motion(new_obstime=Time(moment))
        frame = AltAz(obstime=Time(moment), location=place, pressure=1013.25 * u.hPa, temperature=10 * u.deg_C)
        seen = sky.transform_to(frame)
        pole = SkyCoord(az=(180 if latitude < 0 else 0) * u.deg, alt=abs(latitude) * u.deg, frame=frame)
        there = SkyCoord(az=seen.az, alt=seen.alt, frame=frame)
        assert pole.separation(there).arcmin == pytest.approx(face.marks[0].radius_arcmin, abs=0.3)
        # astropy's position angle runs from up towards growing azimuth: to the right, as a clock's hand does.
        apart = face.marks[0].clock_deg - pole.position_angle(there).deg
        assert (apart + 180) % 360 - 180 == pytest.approx(0, abs=0.4)


def test_drift_at_a_target_is_that_of_an_invented_mount():
    """The trail of a star through a minute of an invented tracker, integrated frame by frame, against the vector formula."""
    error = AxisError(40.0, -25.0, 0.1, 0.1)
    pair = a_pair(error.altitude_arcmin, error.azimuth_arcmin, focal_mm=200.0)
    mount, site = Mount(pair.site, error.altitude_arcmin, error.azimuth_arcmin), pair.site
    frame = pair.camera.frame(pair.pointing, mount, 0.0, 0.0)
    # A star at the middle of the picture: refraction hardly changes over a minute there.
    place = EarthLocation(lat=site.latitude_deg * u.deg, lon=site.longitude_deg * u.deg, height=site.height_m * u.m)
    air = AltAz(
        obstime=Time(pair.start), location=place, pressure=site.pressure_hpa * u.hPa, temperature=site.temperature_c * u.deg_C
    )
    altitude, azimuth = np.degrees(np.arcsin(frame[2, 2])), np.degrees(np.arctan2(-frame[2, 1], frame[2, 0])) % 360
    star = SkyCoord(az=azimuth * u.deg, alt=altitude * u.deg, frame=air).icrs
    ra, dec = np.array([star.ra.rad]), np.array([star.dec.rad])
    seconds = 120.0
    ends = []
    for after in (0.0, seconds):
        seen = observed(site, pair.start + timedelta(seconds=after), ra, dec)
        x, y = pair.camera.project(seen, pair.camera.frame(pair.pointing, mount, after, 0.0))
        ends.append((x[0], y[0]))
    trail = float(np.hypot(ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]))
    spot = Spot("here", site.latitude_deg, site.longitude_deg, site.height_m, "UTC", 21.6)
    rig = a_rig(focal_mm=200.0)  # 6 µm; the invented sensor has 12
    window = mjd_from_datetime(pair.start) + np.linspace(0, seconds / 86400, 3)
    target = Target("star", star.ra.deg, star.dec.deg, 1.0, 20.0)
    drifts = drifts_at(error, spot.observer, "refracted", target, window)
    subject = Subject(rig, target, 21.6, 1.2, Choices(), drifts, "measured")
    verdict = target_drift(subject, axis_tolerance(subject, seconds, 0.0), seconds, 1.0)
    assert verdict.figures[0].value == pytest.approx(2 * trail, rel=0.05)

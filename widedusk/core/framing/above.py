"""What stands over a chart of the sky at one moment at one spot: zenith, horizon profile and Moon; and the ecliptic."""

from dataclasses import dataclass

import erfa
import numpy as np

from widedusk.core.framing.frame import ra_dec_deg
from widedusk.core.scene import Spot
from widedusk.core.sky.horizon import pressure_at, refraction_from_apparent
from widedusk.core.sky.places import moon_phase_angle, moon_place, unit_vectors
from widedusk.core.sky.time import JD_OF_MJD_0, Floats, earth_rotation_angle, tt_from_utc

STEP_DEG = 2.0
OBLIQUITY_DEG = 84381.406 / 3600.0  # of J2000.0, IAU 2006


@dataclass(frozen=True)
class Above:
    """ICRS degrees. horizon: the profile as one stands and turns from north through east, closed; shape (n, 2)."""

    zenith: tuple[float, float]
    horizon: Floats
    moon: tuple[float, float]
    moon_lit: float
    moon_up: bool


def _icrs(cirs: Floats, mjd: float) -> Floats:
    """Directions of date as ICRS ones; aberration, 20 arcsec, is left out of a drawing."""
    return np.asarray(cirs @ np.asarray(erfa.c2i06a(JD_OF_MJD_0, tt_from_utc(mjd))))


def _over(spot: Spot, mjd: float, altitude: Floats, azimuth: Floats) -> Floats:
    """CIRS directions of geometric altitudes and azimuths, radians."""
    latitude = spot.observer.latitude_rad
    north = np.cos(altitude) * np.cos(azimuth)
    west = -np.cos(altitude) * np.sin(azimuth)
    up = np.sin(altitude)
    # Along the meridian and the axis; the hour angle grows to the west.
    meridian, axis = up * np.cos(latitude) - north * np.sin(latitude), up * np.sin(latitude) + north * np.cos(latitude)
    hour_angle, dec = np.arctan2(west, meridian), np.arcsin(np.clip(axis, -1.0, 1.0))
    sidereal = float(earth_rotation_angle(np.asarray(mjd))) + spot.observer.longitude_rad
    return np.asarray(unit_vectors(sidereal - hour_angle, dec))


def above(spot: Spot, mjd: float) -> Above:
    """Everything over the chart of a spot at a moment."""
    azimuth = np.radians(np.arange(0.0, 360.0 + STEP_DEG, STEP_DEG))
    profile = np.maximum(spot.horizon.altitude_at(azimuth), 0.0)
    geometric = profile - refraction_from_apparent(profile, pressure_at(spot.height_m))
    line = ra_dec_deg(_icrs(_over(spot, mjd, geometric, azimuth), mjd))
    zenith = ra_dec_deg(_icrs(_over(spot, mjd, np.array([np.pi / 2]), np.array([0.0])), mjd)[0])
    moon = moon_place(spot.observer, np.array([mjd]))
    direction = unit_vectors(moon.ra, moon.dec)
    ra, dec = ra_dec_deg(_icrs(direction, mjd)[0])
    overhead = _over(spot, mjd, np.array([np.pi / 2]), np.array([0.0]))[0]
    lit = float((1.0 + np.cos(moon_phase_angle(np.array([mjd]))[0])) / 2.0)
    return Above(
        (float(zenith[0]), float(zenith[1])),
        np.stack(line, axis=1),
        (float(ra), float(dec)),
        lit,
        bool(direction[0] @ overhead > 0.0),
    )


def ecliptic() -> Floats:
    """The ecliptic of J2000.0 as ICRS right ascension and declination, degrees, every 5°; shape (73, 2)."""
    turn, tilt = np.radians(np.arange(0.0, 361.0, 5.0)), np.radians(OBLIQUITY_DEG)
    vectors = np.stack([np.cos(turn), np.sin(turn) * np.cos(tilt), np.sin(turn) * np.sin(tilt)], axis=1)
    return np.stack(ra_dec_deg(vectors), axis=1)

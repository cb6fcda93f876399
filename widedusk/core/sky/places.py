"""Apparent places of stars, Sun and Moon.

All of them are given in the celestial intermediate system (CIRS), in which the hour angle is simply
the Earth rotation angle + longitude - right ascension.

         catalogue place (ICRS, J2000)
                |  space motion, light bending, aberration      one ERFA call per object and night
         CIRS right ascension, declination
                |  Earth rotation, longitude, latitude          cheap, minute by minute
         altitude, azimuth
"""

from collections.abc import Callable
from dataclasses import dataclass

import erfa
import numpy as np

from widedusk.core.sky.time import JD_OF_MJD_0, SECOND, Floats, earth_rotation_angle, tt_from_utc

AU_M = 149_597_870_700.0  # IAU 2012 resolution B2
AU_LIGHT_DAY = 499.004783836 * SECOND


@dataclass(frozen=True)
class Observer:
    """A spot on the Earth. Longitude is positive to the east; height is above the WGS84 ellipsoid."""

    latitude_rad: float
    longitude_rad: float
    height_m: float = 0.0

    @property
    def south(self) -> bool:
        return bool(self.latitude_rad < 0.0)


@dataclass(frozen=True)
class Place:
    """CIRS right ascension and declination (radians) and distance (AU) as seen from the observer."""

    ra: Floats
    dec: Floats
    distance_au: Floats


def star_place(
    ra: Floats | float,
    dec: Floats | float,
    mjd: float,
    pm_ra: Floats | float = 0.0,
    pm_dec: Floats | float = 0.0,
    parallax_arcsec: Floats | float = 0.0,
) -> tuple[Floats, Floats]:
    """CIRS place of stars at one moment, good for the hours around it (0.3 arcsec in half a day).

    ra, dec: ICRS at epoch J2000.0, radians, any shape. pm_ra is d(ra)/dt, not times cos(dec); radians per year.
    Returns (ra, dec), radians. Source: ERFA apci13 and atciq (IAU 2006/2000A precession-nutation).
    """
    moment, _ = erfa.apci13(JD_OF_MJD_0, tt_from_utc(mjd))  # all that depends on the time alone, once
    apparent_ra, apparent_dec = erfa.atciq(ra, dec, pm_ra, pm_dec, parallax_arcsec, 0.0, moment)
    return np.asarray(apparent_ra, dtype=float), np.asarray(apparent_dec, dtype=float)


def unit_vectors(ra: Floats, dec: Floats) -> Floats:
    """Directions as vectors, shape (..., 3)."""
    return np.stack([np.cos(dec) * np.cos(ra), np.cos(dec) * np.sin(ra), np.sin(dec)], axis=-1)


def star_vectors(icrs: Floats, mjd: float) -> Floats:
    """CIRS directions of many stars at one moment; unit vectors in and out, shape (n, 3).

    The cheap form of star_place for a whole catalogue: no proper motion, and no bending of light by the Sun, which is
    below 0.01 arcsec everywhere on the night side. Source: ERFA apci13, ab.
    """
    moment, _ = erfa.apci13(JD_OF_MJD_0, tt_from_utc(mjd))
    seen = erfa.ab(icrs, moment["v"], moment["em"], moment["bm1"])
    return np.asarray(seen @ np.asarray(moment["bpn"]).T)


def _observer_vector(observer: Observer, mjd: Floats) -> Floats:
    """Geocentric vector of the observer in CIRS, AU, shape (..., 3)."""
    x, y, z = np.asarray(erfa.gd2gc(1, observer.longitude_rad, observer.latitude_rad, observer.height_m)) / AU_M
    era = earth_rotation_angle(mjd)
    return np.stack([np.cos(era) * x - np.sin(era) * y, np.sin(era) * x + np.cos(era) * y, np.full_like(era, z)], axis=-1)


def _as_place(vector: Floats) -> Place:
    ra, dec, distance = erfa.p2s(vector)
    return Place(np.asarray(ra), np.asarray(dec), np.asarray(distance))


def _cirs_from_gcrs(vector: Floats, mjd: Floats) -> Floats:
    """Turn GCRS vectors into CIRS with one matrix, taken at the middle of the given times."""
    middle = float(np.mean(mjd))
    return np.asarray(vector @ np.asarray(erfa.c2i06a(JD_OF_MJD_0, tt_from_utc(middle))).T)


def _joined(series: Callable[[Floats], Floats], mjd: Floats, step_days: float) -> Floats:
    """A slow vector series of shape (..., 3), worked at nodes that straight lines join when that is fewer evaluations."""
    mjd = np.asarray(mjd, dtype=float)
    nodes = np.arange(mjd.min() - step_days, mjd.max() + 2 * step_days, step_days)
    if nodes.size >= mjd.size:
        return series(mjd)
    vectors = series(nodes)
    return np.stack([np.interp(mjd, nodes, vectors[:, axis]) for axis in range(3)], axis=-1)


def _sun_vector(mjd: Floats) -> Floats:
    """Apparent geocentric Sun in GCRS, AU. Hourly nodes are within 0.02 arcsec; over more than a week daily ones, within 8."""
    return _joined(_sun_series, mjd, 1 / 24 if np.ptp(mjd) < 7 else 1.0)


def _sun_series(mjd: Floats) -> Floats:
    """The reversed heliocentric Earth of ERFA epv00, displaced by annual aberration."""
    heliocentric, barycentric = erfa.epv00(JD_OF_MJD_0, tt_from_utc(mjd))
    distance = np.linalg.norm(heliocentric["p"], axis=-1, keepdims=True)
    return np.asarray(-heliocentric["p"] + distance * barycentric["v"] * AU_LIGHT_DAY)


def _moon_vector(mjd: Floats) -> Floats:
    """Apparent geocentric Moon in GCRS, AU. Nodes every ten minutes are within 0.1 arcsec."""
    return _joined(_moon_series, mjd, 1 / 144)


def _moon_series(mjd: Floats) -> Floats:
    """ERFA moon98 (Meeus 1998, rms 3 arcsec), with the light time of 1.28 s."""
    return np.asarray(erfa.moon98(JD_OF_MJD_0, tt_from_utc(mjd) - 1.28 * SECOND)["p"])


def sun_place(observer: Observer, mjd: Floats) -> Place:
    """Topocentric Sun; shape of `mjd`. Source: ERFA epv00.

    Precession and nutation are those of the middle of the times: exact over a night, 30 arcsec off at the ends of a year.
    """
    return _as_place(_cirs_from_gcrs(_sun_vector(mjd), mjd) - _observer_vector(observer, mjd))


def moon_place(observer: Observer, mjd: Floats) -> Place:
    """Topocentric Moon at times within a day or so of one another; shape of `mjd`."""
    return _as_place(_cirs_from_gcrs(_moon_vector(mjd), mjd) - _observer_vector(observer, mjd))


def moon_phase_angle(mjd: Floats) -> Floats:
    """Angle Sun-Moon-Earth in radians, 0 at full Moon. The lit fraction is (1 + cos of it) / 2."""
    moon = _moon_vector(mjd)
    return np.asarray(erfa.sepp(-moon, _sun_vector(mjd) - moon), dtype=float)


def separation(ra_a: Floats, dec_a: Floats, ra_b: Floats, dec_b: Floats) -> Floats:
    """Angle between two directions, radians; arrays broadcast. Source: ERFA seps (vector form, safe near 0 and 180°)."""
    return np.asarray(erfa.seps(ra_a, dec_a, ra_b, dec_b), dtype=float)

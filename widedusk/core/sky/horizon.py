"""Altitude and azimuth, refraction, and what stands in the way."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import Floats, earth_rotation_angle

ARCMIN = np.pi / 180.0 / 60.0
HORIZON_REFRACTION = 34.0 * ARCMIN  # the almanacs' convention for rising and setting
SUN_RISE_ALTITUDE = -50.0 * ARCMIN  # centre of the Sun at sunrise and sunset: 34' refraction + 16' radius


def hour_angle(ra: Floats, mjd: Floats, longitude_rad: float) -> Floats:
    """Local hour angle of a CIRS right ascension, radians, west positive, not wrapped; arrays broadcast."""
    return np.asarray(earth_rotation_angle(mjd) + longitude_rad - ra)


def altaz(ra: Floats, dec: Floats, mjd: Floats, observer: Observer) -> tuple[Floats, Floats]:
    """Geometric altitude and azimuth (radians, north 0 through east) of CIRS places; arrays broadcast.

    No refraction; diurnal aberration (0.3 arcsec) and polar motion (0.5 arcsec) are left out.
    """
    angle = hour_angle(ra, mjd, observer.longitude_rad)
    sin_lat, cos_lat = np.sin(observer.latitude_rad), np.cos(observer.latitude_rad)
    sin_dec, cos_dec, cos_angle = np.sin(dec), np.cos(dec), np.cos(angle)
    altitude = np.arcsin(np.clip(sin_lat * sin_dec + cos_lat * cos_dec * cos_angle, -1.0, 1.0))
    azimuth = np.arctan2(-cos_dec * np.sin(angle), sin_dec * cos_lat - cos_dec * cos_angle * sin_lat)
    return altitude, np.mod(azimuth, 2.0 * np.pi)


def sin_altitude(ra: Floats, dec: Floats, mjd: Floats, observer: Observer) -> Floats:
    """Sine of the geometric altitude: the cheap form for searches over many objects; arrays broadcast."""
    angle = hour_angle(ra, mjd, observer.longitude_rad)
    return np.asarray(np.sin(observer.latitude_rad) * np.sin(dec) + np.cos(observer.latitude_rad) * np.cos(dec) * np.cos(angle))


def pressure_at(height_m: float) -> float:
    """Mean air pressure in hPa at a height. Source: ICAO standard atmosphere (Doc 7488), troposphere."""
    return float(1013.25 * (1.0 - 2.25577e-5 * height_m) ** 5.25588)


def refraction_from_apparent(apparent: Floats | float, pressure_hpa: float = 1010.0, temperature_c: float = 10.0) -> Floats:
    """Refraction in radians for an apparent altitude in radians, from -1° upward.

    Source: Bennett 1982, Journal of Navigation 35, 255, with the usual scaling to pressure and temperature.
    """
    degrees = np.maximum(np.degrees(apparent), -1.0)
    minutes = 1.0 / np.tan(np.radians(degrees + 7.31 / (degrees + 4.4)))
    return np.asarray(np.maximum(minutes, 0.0) * ARCMIN * pressure_hpa / 1010.0 * 283.0 / (273.0 + temperature_c))


def apparent_altitude(altitude: Floats | float, pressure_hpa: float = 1010.0, temperature_c: float = 10.0) -> Floats:
    """Refracted altitude of a geometric one, radians: Bennett's formula solved by repetition."""
    altitude = np.asarray(altitude, dtype=float)
    apparent = altitude
    for _ in range(6):
        apparent = altitude + refraction_from_apparent(apparent, pressure_hpa, temperature_c)
    return apparent


@dataclass(frozen=True)
class HorizonProfile:
    """What blocks the view: (azimuth°, altitude°) pairs joined by straight lines, closed through north.

    An empty profile is an open, flat horizon.
    """

    points_deg: Sequence[tuple[float, float]] = field(default=())

    def __post_init__(self) -> None:
        checks = Checks()
        for number, (azimuth, altitude) in enumerate(self.points_deg):
            checks.within(f"horizon.{number}.azimuth_deg", azimuth, 0, 360, "°")
            checks.within(f"horizon.{number}.altitude_deg", altitude, -5, 89, "°")
        if len(self.points_deg) == 1:
            checks.fault("horizon", len(self.points_deg), "One point is no profile; give two or more, or none for an open horizon.")
        checks.done()

    def altitude_at(self, azimuth: Floats) -> Floats:
        """Altitude of the horizon profile in radians at azimuths in radians; any shape."""
        if not self.points_deg:
            return np.zeros_like(np.asarray(azimuth, dtype=float))
        ordered = np.array(sorted(self.points_deg), dtype=float)
        return np.asarray(np.radians(np.interp(np.degrees(azimuth) % 360.0, ordered[:, 0], ordered[:, 1], period=360.0)))


def crossings(mjd: Floats, altitude: Floats, level: Floats | float) -> tuple[list[float], list[float]]:
    """Times at which a sampled altitude climbs above and sinks below a level (scalar or array of the same shape).

    Straight lines between samples: with one-minute steps the error is below 0.1 s.
    """
    height = np.asarray(altitude - level)
    turn = np.flatnonzero(np.diff(np.signbit(height)))
    at = mjd[turn] - height[turn] * (mjd[turn + 1] - mjd[turn]) / (height[turn + 1] - height[turn])
    climbing = height[turn + 1] > height[turn]
    return [float(value) for value in at[climbing]], [float(value) for value in at[~climbing]]

"""When a target is usable in the nights to come, and from which latitude it can be seen at all.

nights down, minutes across, in steps of ten:   dark?  x  clear of the horizon profile and high enough?  x  Moon bearable?
"""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.brightness import combined, dark_sky, moonlight
from widedusk.core.sky.horizon import altaz, sin_altitude
from widedusk.core.sky.places import moon_phase_angle, moon_place, separation, star_place, sun_place
from widedusk.core.sky.time import LAST_NIGHT, Floats, solar_midnight

STEP_MIN = 10
WORTH_MIN = 60


@dataclass(frozen=True)
class Season:
    """The coming year in nights, Moon aside; minutes in steps of ten."""

    next_worth_it: date | None  # first night with an hour or more
    next_dark: date | None  # first night with any darkness
    best: date
    best_minutes: int


def night_grid(spot: Spot, after: date, nights: int, step_min: int = STEP_MIN) -> Floats:
    """MJD of a run of nights from noon to noon in steps, shape (nights, 1440 / step). Raises InvalidInput out of reach."""
    days = min(nights, (LAST_NIGHT - after).days + 1)
    midnights = solar_midnight(after, spot.observer.longitude_rad) + np.arange(days)
    return np.asarray(midnights[:, None] + np.arange(-720, 720, step_min) / 1440.0)


def dark_at(spot: Spot, mjd: Floats, choices: Choices) -> NDArray[np.bool_]:
    sun = sun_place(spot.observer, mjd)
    return np.asarray(sin_altitude(sun.ra, sun.dec, mjd, spot.observer) < np.sin(np.radians(DARK_SUN_DEG[choices.darkness])))


def _target(target: Target, mjd: Floats) -> tuple[Floats, Floats]:
    return star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(np.mean(mjd)))


def clear_at(spot: Spot, altitude: Floats, azimuth: Floats, choices: Choices) -> NDArray[np.bool_]:
    return np.asarray((altitude > spot.horizon.altitude_at(azimuth)) & (altitude > np.radians(choices.min_altitude_deg)))


def _first(after: date, nights: NDArray[np.bool_]) -> date | None:
    return after + timedelta(days=int(np.argmax(nights))) if nights.any() else None


def season(spot: Spot, target: Target, after: date, choices: Choices) -> Season:
    """Look through the 366 nights from `after` on. Moonlight is left out: it changes from night to night."""
    mjd = night_grid(spot, after, 366)
    dark = dark_at(spot, mjd, choices)
    altitude, azimuth = altaz(*_target(target, mjd), mjd, spot.observer)
    minutes = STEP_MIN * np.count_nonzero(dark & clear_at(spot, altitude, azimuth, choices), axis=1)
    best = int(np.argmax(minutes))
    return Season(
        _first(after, minutes >= WORTH_MIN),
        _first(after, np.asarray(dark.any(axis=1))),
        after + timedelta(days=best),
        int(minutes[best]),
    )


def moon_bearable(spot: Spot, ra: Floats, dec: Floats, mjd: Floats, altitude: Floats, limit_mag: float) -> NDArray[np.bool_]:
    """Where the Moon brightens the sky at one place by no more than limit_mag; shape of `mjd`."""
    moon = moon_place(spot.observer, mjd)
    moon_altitude, _ = altaz(moon.ra, moon.dec, mjd, spot.observer)
    moonless = dark_sky(spot.sky_mag, altitude)
    apart = separation(ra, dec, moon.ra, moon.dec)
    light = moonlight(np.pi / 2 - altitude, np.pi / 2 - moon_altitude, apart, moon_phase_angle(mjd))
    return np.asarray(moonless - combined(moonless, light) <= limit_mag)


def next_moonless(spot: Spot, target: Target, after: date, choices: Choices, limit_mag: float) -> date | None:
    """First of the coming 30 nights with an hour in which the Moon is bearable too."""
    mjd = night_grid(spot, after, 30)
    ra, dec = _target(target, mjd)
    altitude, azimuth = altaz(ra, dec, mjd, spot.observer)
    bearable = moon_bearable(spot, ra, dec, mjd, altitude, limit_mag)
    usable = dark_at(spot, mjd, choices) & clear_at(spot, altitude, azimuth, choices) & bearable
    return _first(after, np.asarray(STEP_MIN * np.count_nonzero(usable, axis=1) >= WORTH_MIN))


def highest_altitude_deg(latitude_deg: float, dec_deg: float) -> float:
    """Altitude at upper culmination: 90° - |latitude - declination|."""
    return 90.0 - abs(latitude_deg - dec_deg)


def nearest_latitude_deg(latitude_deg: float, dec_deg: float, altitude_deg: float) -> float:
    """The latitude nearest to this one at which the target culminates at the wanted altitude."""
    reach = 90.0 - altitude_deg
    return float(np.clip(latitude_deg, max(dec_deg - reach, -90.0), min(dec_deg + reach, 90.0)))

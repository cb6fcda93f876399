"""When in the year a target is usable, Moon aside, and from which latitude it can be seen at all."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import altaz, sin_altitude
from widedusk.core.sky.places import star_place, sun_place
from widedusk.core.sky.time import LAST_NIGHT, solar_midnight

STEP_MIN = 10
WORTH_MIN = 60


@dataclass(frozen=True)
class Season:
    """The coming year in nights; minutes in steps of ten."""

    next_worth_it: date | None  # first night with an hour or more
    next_dark: date | None  # first night with any darkness
    best: date
    best_minutes: int


def season(spot: Spot, target: Target, after: date, choices: Choices) -> Season:
    """Look through the 366 nights from `after` on. Moonlight is left out: it changes from night to night."""
    days = min(366, (LAST_NIGHT - after).days + 1)
    midnights = solar_midnight(after, spot.observer.longitude_rad) + np.arange(days)
    mjd = midnights[:, None] + np.arange(-720, 720, STEP_MIN) / 1440.0
    sun = sun_place(spot.observer, mjd)
    dark = sin_altitude(sun.ra, sun.dec, mjd, spot.observer) < np.sin(np.radians(DARK_SUN_DEG[choices.darkness]))
    ra, dec = star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(midnights[days // 2]))
    altitude, azimuth = altaz(ra, dec, mjd, spot.observer)
    clear = (altitude > spot.horizon.altitude_at(azimuth)) & (altitude > np.radians(choices.min_altitude_deg))
    minutes = STEP_MIN * np.count_nonzero(dark & clear, axis=1)

    def first(nights: np.typing.NDArray[np.bool_]) -> date | None:
        return after + timedelta(days=int(np.argmax(nights))) if nights.any() else None

    best = int(np.argmax(minutes))
    return Season(first(minutes >= WORTH_MIN), first(dark.any(axis=1)), after + timedelta(days=best), int(minutes[best]))


def highest_altitude_deg(latitude_deg: float, dec_deg: float) -> float:
    """Altitude at upper culmination: 90° - |latitude - declination|."""
    return 90.0 - abs(latitude_deg - dec_deg)


def nearest_latitude_deg(latitude_deg: float, dec_deg: float, altitude_deg: float) -> float:
    """The latitude nearest to this one at which the target culminates at the wanted altitude."""
    reach = 90.0 - altitude_deg
    return float(np.clip(latitude_deg, max(dec_deg - reach, -90.0), min(dec_deg + reach, 90.0)))

"""When the Moon is new."""

from datetime import date

import numpy as np

from widedusk.core.sky.places import moon_phase_angle
from widedusk.core.sky.time import datetime_from_mjd, solar_midnight

SYNODIC_DAYS = 29.53


def next_new_moon(after_mjd: float) -> float:
    """MJD of the first new Moon after a moment, to a few minutes: the largest phase angle within one lunation."""
    coarse = after_mjd + np.arange(0.0, SYNODIC_DAYS + 1.0, 0.25)
    angle = moon_phase_angle(coarse)
    peak = coarse[1 + int(np.argmax(angle[1:-1]))]
    fine = peak + np.arange(-0.25, 0.25, 1.0 / 720)
    return float(fine[int(np.argmax(moon_phase_angle(fine)))])


def darkest_evening(after_mjd: float, longitude_rad: float) -> date:
    """Date of the evening whose night is nearest to the coming new Moon at this longitude."""
    new_moon = next_new_moon(after_mjd)
    guess = datetime_from_mjd(new_moon).date()
    first = solar_midnight(guess, longitude_rad)
    return datetime_from_mjd(new_moon - 0.5).date() if new_moon < first - 0.5 else guess

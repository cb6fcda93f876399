"""Where directions stand over a spot at one moment, as a person there points at them."""

from dataclasses import dataclass

import erfa
import numpy as np

from widedusk.core.scene import Spot
from widedusk.core.sky.horizon import altaz, apparent_altitude, pressure_at
from widedusk.core.sky.places import star_vectors, unit_vectors
from widedusk.core.sky.time import MINUTE, Floats

_COMPASS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")


@dataclass(frozen=True)
class Standing:
    """Degrees. altitude is apparent; the horizon profile lies at `profile` in that direction."""

    altitude_deg: Floats
    azimuth_deg: Floats
    profile_deg: Floats

    @property
    def clear(self) -> Floats:
        """Whether each stands above ground and profile."""
        return np.asarray(self.altitude_deg > np.maximum(self.profile_deg, 0.0))


def standing(spot: Spot, mjd: float | Floats, icrs: Floats) -> Standing:
    """Of unit vectors, shape (n, 3), at one moment; or at many, shape (m, 1), of date at their middle: shape (m, n)."""
    middle = float(np.ravel(mjd)[np.size(mjd) // 2])
    ra, dec = (np.asarray(one) for one in erfa.c2s(star_vectors(np.atleast_2d(icrs), middle)))
    geometric, azimuth = altaz(ra, dec, np.asarray(mjd), spot.observer)
    altitude = apparent_altitude(geometric, pressure_at(spot.height_m))
    return Standing(np.degrees(altitude), np.degrees(azimuth), np.degrees(spot.horizon.altitude_at(azimuth)))


def altitudes(spot: Spot, mjd: Floats, icrs: Floats) -> tuple[Floats, Floats]:
    """Apparent altitude and azimuth of one direction at many moments, degrees, shape (n,); of date at their middle."""
    ra, dec = (np.asarray(one) for one in erfa.c2s(star_vectors(np.atleast_2d(icrs), float(mjd[len(mjd) // 2]))))
    geometric, azimuth = altaz(ra, dec, mjd, spot.observer)
    return np.degrees(apparent_altitude(geometric, pressure_at(spot.height_m))), np.degrees(azimuth) % 360.0


def pace(spot: Spot, mjd: float, icrs: Floats) -> tuple[float, float]:
    """How fast one direction climbs and turns: degrees of altitude and of azimuth a minute."""
    before, after = (standing(spot, mjd + step * MINUTE / 2.0, icrs) for step in (-1, 1))
    turn = (after.azimuth_deg - before.azimuth_deg + 180.0) % 360.0 - 180.0
    return float((after.altitude_deg - before.altitude_deg)[0]), float(turn[0])


def bearing(found: Standing, start: int, end: int) -> tuple[float, float]:
    """Distance and clockwise angle from straight up, degrees, from one direction to another as one stands facing the first."""
    azimuth, altitude = np.radians(found.azimuth_deg[[start, end]]), np.radians(found.altitude_deg[[start, end]])
    first, second = unit_vectors(-azimuth, altitude)  # azimuth grows to the right, as longitude grows to the left
    zenith = np.array([0.0, 0.0, 1.0])
    right = np.cross(first, zenith)
    up = np.cross(right, first)
    apart = np.degrees(np.arctan2(np.linalg.norm(np.cross(first, second)), first @ second))
    return float(apart), float(np.degrees(np.arctan2(second @ right, second @ up)) % 360.0)


def clock_words(clockwise_deg: float) -> str:
    """A direction on the sky as the hand of a clock, 12 towards the zenith: "at 4 o'clock, down and right"."""
    hour = round(clockwise_deg / 30.0) % 12 or 12
    place = ("up", "up and right", "right", "down and right", "down", "down and left", "left", "up and left")
    return f"{hour} o’clock, {place[round(clockwise_deg / 45.0) % 8]}"


def hand_words(degrees: float) -> str:
    """An angle in hands held at arm's length. Common practice, no source: little finger 1°, three fingers 5°, fist 10°."""
    if degrees < 3.5:
        return _halves(degrees, "a little finger", "little fingers")
    if degrees < 7.5:
        side = "a little less than " if degrees < 4.5 else "" if degrees <= 5.5 else "a little more than "
        return f"{side}three fingers"
    return _halves(degrees / 10.0, "a fist", "fists")


def _halves(count: float, one: str, many: str) -> str:
    """To the nearest half: "half a fist", "a fist", "1½ fists"."""
    whole, half = divmod(max(round(count * 2.0), 1), 2)
    if whole == 0:
        return f"half {one}"
    if whole == 1 and not half:
        return one
    return f"{whole}{'½' if half else ''} {many}"


def compass_words(azimuth_deg: float) -> str:
    return _COMPASS[round(azimuth_deg / 45.0) % 8]

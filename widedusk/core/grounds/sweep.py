"""A horizon profile from a sweep: a phone sighted along the skyline while one turns, read many times a second.

Each reading is a magnetic bearing and a slope. Readings are gathered in bins of azimuth, and the middle one of each counts, so that
a stumble does not show. Where nobody swept, the profile stays as it was.
"""

from collections.abc import Collection

import numpy as np

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.time import Floats

BIN_DEG = 5.0
MIN_READINGS = 20
MIN_BINS = 3  # less than that is no sweep
MAX_ALTITUDE_DEG = 85.0  # above it the bearing of a phone means nothing
# A phone's compass beside a car or a tracker, and its level by hand. Common practice, no source.
COMPASS_DEG, LEVEL_DEG = 10.0, 1.0


def swept_profile(magnetic_deg: Floats, altitude_deg: Floats, declination_deg: float, before: HorizonProfile) -> HorizonProfile:
    """The profile after a sweep. magnetic_deg, altitude_deg: shape (n,); declination_deg: east positive. Raises InvalidInput."""
    if len(magnetic_deg) < MIN_READINGS:
        told = f"Only {len(magnetic_deg)} readings came; sweep slowly along the skyline, at least {MIN_READINGS}."
        raise InvalidInput([Fault("readings", len(magnetic_deg), told)])
    azimuth = np.mod(magnetic_deg + declination_deg, 360.0)
    sound = np.abs(altitude_deg) <= MAX_ALTITUDE_DEG
    place = np.floor(azimuth / BIN_DEG).astype(int) % round(360.0 / BIN_DEG)
    heights = {int(one): float(np.median(altitude_deg[sound & (place == one)])) for one in np.unique(place[sound])}
    if len(heights) < MIN_BINS:
        told = f"The sweep covers {len(heights) * BIN_DEG:.0f}°; turn farther, with the phone along the skyline."
        raise InvalidInput([Fault("readings", len(heights), told)])
    points = {(one + 0.5) * BIN_DEG: round(min(max(height, 0.0), MAX_ALTITUDE_DEG), 1) for one, height in heights.items()}
    return HorizonProfile(tuple(sorted({**_kept(before, heights), **points}.items())))


def _kept(before: HorizonProfile, swept: Collection[int]) -> dict[float, float]:
    """Points of the profile as it was, where nobody swept; with a point at the edge of each gap, so that it stays as it was."""
    count = round(360.0 / BIN_DEG)
    found = {a: h for a, h in before.points_deg if int(a // BIN_DEG) % count not in swept}
    for one in range(count):
        if one not in swept and ((one - 1) % count in swept or (one + 1) % count in swept):
            middle = (one + 0.5) * BIN_DEG
            found.setdefault(middle, round(float(np.degrees(before.altitude_at(np.radians(middle)))), 1))
    return found

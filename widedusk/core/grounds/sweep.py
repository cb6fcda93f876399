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
BINS = 72
MIN_READINGS = 20
MIN_BINS = 3  # less than that is no sweep
MAX_ALTITUDE_DEG = 85.0  # above it the bearing of a phone means nothing


def swept_profile(magnetic_deg: Floats, altitude_deg: Floats, declination_deg: float, before: HorizonProfile) -> HorizonProfile:
    """The profile after a sweep. magnetic_deg, altitude_deg: shape (n,); declination_deg: east positive. Raises InvalidInput."""
    if len(magnetic_deg) < MIN_READINGS:
        message = f"Only {len(magnetic_deg)} readings came; sweep slowly along the skyline, at least {MIN_READINGS}."
        raise InvalidInput([Fault("readings", len(magnetic_deg), message)])
    azimuth = np.mod(magnetic_deg + declination_deg, 360.0)
    sound = np.abs(altitude_deg) <= MAX_ALTITUDE_DEG
    azimuth_bin = np.floor(azimuth / BIN_DEG).astype(int) % BINS
    heights = {
        int(swept): float(np.median(altitude_deg[sound & (azimuth_bin == swept)])) for swept in np.unique(azimuth_bin[sound])
    }
    if len(heights) < MIN_BINS:
        message = f"The sweep covers {len(heights) * BIN_DEG:.0f}°; turn farther, with the phone along the skyline."
        raise InvalidInput([Fault("readings", len(heights), message)])
    points = {_middle(swept): round(min(max(height, 0.0), MAX_ALTITUDE_DEG), 1) for swept, height in heights.items()}
    return HorizonProfile(tuple(sorted({**_kept(before, heights), **points}.items())))


def _middle(azimuth_bin: int) -> float:
    return (azimuth_bin + 0.5) * BIN_DEG


def _kept(before: HorizonProfile, swept: Collection[int]) -> dict[float, float]:
    """Points of the profile as it was, where nobody swept; with a point at the edge of each gap, so that it stays as it was."""
    points = {azimuth: height for azimuth, height in before.points_deg if int(azimuth // BIN_DEG) % BINS not in swept}
    for edge in range(BINS):
        if edge not in swept and ((edge - 1) % BINS in swept or (edge + 1) % BINS in swept):
            points.setdefault(_middle(edge), round(float(np.degrees(before.altitude_at(np.radians(_middle(edge))))), 1))
    return points
